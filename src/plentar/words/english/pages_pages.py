"""Pages that stand still: figures, help, what is where."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "page.pages.help.help": "Help",
    "page.pages.help.search": "Search help",
    "page.pages.help.find": "Search",
    "page.pages.help.found-nothing": "No page has these words.",
    "page.pages.help.all-pages": "All pages",
    "page.pages.help.value": "value",
    "page.pages.help.help-safety": "Help and safety",
    "page.pages.help.figures-behind-verdicts": "The figures behind the verdicts",
    "page.pages.help.thresholds": "Thresholds",
    "page.pages.help.figure": "figure",
    "page.pages.help.what": "what for",
    "page.pages.help.source": "source",
}
