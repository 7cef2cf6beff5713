"""What was seen on the look at the whole unit."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.said import say
from plentar.core.visit.events import LOOK_ITEMS
from plentar.core.visit.evidence import Evidence


@check(say("checks.look.look-whole-unit"), FindingCode.WHOLE_UNIT)
def whole_unit(evidence: Evidence) -> Iterator[Result]:
    """The newest word on each item; burnt is stop-now."""
    newest = {seen.item: seen for seen in evidence.visit.looked}
    for item in LOOK_ITEMS:
        seen = newest.get(item)
        state = seen.state if seen else None
        t_s = seen.t_s if seen else 0.0
        if state is None:
            yield NotJudged(say("checks.look.look-whole-unit"), item, say("checks.look.nobody-has-looked"))
        elif state == "poor":
            text = say("checks.look.needs-attention", item=say(f"look.{item}"))
            yield Finding(FindingCode.WHOLE_UNIT, Level.WATCH, item, text, t_s=t_s)
        elif state == "burnt":
            text = say("checks.look.burnt-or-melted-scorched", item=say(f"look.{item}"))
            yield Finding(FindingCode.WHOLE_UNIT, Level.STOP_NOW, item, text, t_s=t_s)
        else:
            yield Clear(item)
