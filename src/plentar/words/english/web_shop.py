"""What the shop's own screens say."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "lane.view.due": "to do",
    "lane.view.follow-up": "follow-up",
    "lane.view.done": "done",
    "auth.routes.language": "Choose one of the list.",
    "rounds.view.min": "{minutes} min",
    "auth.choose.this-link-opens-nothing": "This link opens nothing, or no longer. Ask for another.",
    "search.parts.all-risk": "all of {at_risk} at risk",
    "search.parts.risk": "{still_in} % ({low}–{high}), {at_risk} at risk",
    "search.routes.not-one-list": "Choose one of the list.",
    "lane.view.progress": "in progress",
    "lane.view.units": "Units",
    "lane.view.by": ", by {due_on}",
    "lane.view.of": "{done} of {every}{how}",
    "lane.view.kw": "{len} × {kilowatts} kW",
    "rounds.routes.mark-units-first": "Mark the units first.",
    "rounds.view.done-about-hours-left": "{done} of {len} done · about {left} hours left",
    "rounds.view.under-way": "→ under way",
    "rounds.view.nobody-yet": "nobody assigned",
    "shop.first-day.same-address-line": "same address as in line {seen}",
    "shop.first-day.not-utf-8-save": "Not UTF-8: save it as CSV in UTF-8.",
    "shop.first-day.line": "line {line_num}: {error}",
    "shop.first-day.line-1-header-label": "Line 1: a header with label and any of {columns} is missing.",
    "shop.first-day.line-1-no-column": "Line 1: no column {unknown}. Known: {columns}.",
    "shop.first-day.most-lines-once": "Use at most {most_lines} lines at once.",
    "shop.first-day.where": "Say where it is.",
    "shop.people.lead-plans-corrects-sees": "lead: plans, corrects, manages the shop",
    "shop.people.let-them-again-first": "Reactivate them first.",
    "shop.routes.choose-archive": "Choose an archive.",
    "shop.routes.choose-csv-file": "Choose a CSV file.",
    "search.after-years": ("after {n} year", "after {n} years"),
    "search.above": "above",
    "search.below": "below",
    "search.anything": "anything",
    "search.anyhow": "anyhow",
}
