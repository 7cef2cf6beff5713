"""Pages: rounds."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "page.rounds.rounds.name": "Name",
    "page.rounds.rounds.routes": "Routes",
    "page.rounds.round.unit": "unit",
    "page.rounds.round.all-routes": "All routes",
    "page.rounds.round.due": " · by ",
    "page.rounds.round.assign-marked-units": "Assign marked units to",
    "page.rounds.round.nobody": "nobody",
    "page.rounds.round.assign": "Assign",
    "page.rounds.round.units-route": "Units of the route",
    "page.rounds.round.place": "place",
    "page.rounds.round.state": "state",
    "page.rounds.round.assigned": "assigned to",
    "page.rounds.round.usual-time": "usual time",
    "page.rounds.round.mark": "Mark {label}",
    "page.rounds.rounds.planned": "Planned",
    "page.rounds.rounds.of": "{every} {done} of {every_2}{due_on}",
    "page.rounds.rounds.none-yet": "None yet.",
    "page.rounds.rounds.new-route": "New route",
    "page.rounds.rounds.due": "Due by",
    "page.rounds.rounds.units-match-these-words": "Units that match these words; blank for all",
    "page.rounds.rounds.or-these-units-one": "Or these units, one a line",
    "page.rounds.rounds.or-what-left-route": "Or the rest of a route",
    "page.rounds.rounds.use-words-above": "use the words above",
    "page.rounds.rounds.left": "{done} left of {title}",
    "page.rounds.rounds.plan-route": "Plan route",
}
