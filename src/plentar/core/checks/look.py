"""What was seen on the look at the whole unit."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.events import LOOK_ITEMS, Visit
from plentar.core.judgement import Finding, FindingCode, Level


def look_findings(visit: Visit) -> Iterator[Finding]:
    """The newest word on each item that is not fine; burnt is stop-now."""
    newest = {seen.item: seen.state for seen in visit.looked}
    for item, state in newest.items():
        title = LOOK_ITEMS[item][0]
        if state == "poor":
            yield Finding(FindingCode.WHOLE_UNIT, Level.WATCH, item, f"{title}: needs attention")
        elif state == "burnt":
            text = f"{title}: burnt or melted. Scorched metal goes, with its breaker or spade"
            yield Finding(FindingCode.WHOLE_UNIT, Level.STOP_NOW, item, text)
