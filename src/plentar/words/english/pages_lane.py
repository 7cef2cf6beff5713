"""Pages: lane."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "page.lane.lane.room-runs-out": "Room runs out: photos or disk",
    "page.lane.lane.under-way": "→ under way",
    "page.lane.lane.board": "Board",
    "page.lane.lane.search": "Search",
    "page.lane.lane.import-visit-file": "Import a visit file",
    "page.lane.lane.new-unit": "New unit",
    "page.lane.lane.routes": "Routes",
    "page.lane.lane.left-open": "left open",
    "page.lane.lane.route-due": "route, by {due_on}",
    "page.lane.lane.calls-today": "Calls today",
    "page.lane.lane.finished": "● finished",
    "page.lane.lane.without-street": "Without a street",
    "page.lane.lane.odd-numbers": "Odd numbers",
    "page.lane.lane.even-numbers": "Even numbers",
    "page.lane.lane.more-this-route": "{not_drawn} more on this route",
    "page.lane.lane.other-routes": "Other routes",
    "page.lane.lane.elsewhere": "Elsewhere",
    "page.lane.lane.all-units": "All units",
    "page.lane.lane.more-search": "{others} more: search",
    "page.lane.lane.no-units-yet-add": "No units yet. Add one from a starting kit, or import a visit file.",
    "page.lane.lane.import-units": "Import units",
}
