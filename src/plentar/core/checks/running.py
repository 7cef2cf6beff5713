"""What runs when it should not, or without what must run beside it."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.due.waiting import waiting_for
from plentar.core.events import ON, Observed
from plentar.core.evidence import Evidence, Taken
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.parts import HEAT_CALLS
from plentar.core.quantity import Quantity, show
from plentar.core.state import all_off_s
from plentar.core.tables import thresholds as th

A = Quantity.AMPS


@check("current without a call", FindingCode.DRAW_WITHOUT_CALL)
def draw_without_call(evidence: Evidence) -> Iterator[Result]:
    """An element that draws past every off window with no heat called for."""
    longest_s = all_off_s(evidence.unit)
    for element in evidence.unit.elements:
        taken = evidence.latest(element.id, A)
        if taken is None:
            yield NotJudged("current without a call", element.id, "not clamped")
            continue
        state = taken.state
        ended = [s for call, s in state.ended_s.items() if call in HEAT_CALLS]
        gone_s = state.t_s + taken.reading.lead_s - max(ended) if ended else longest_s
        if state.calls & HEAT_CALLS or gone_s < longest_s or state.power[element.circuit] != ON:
            missing = "not clamped with nothing called, past the longest off window"
            yield NotJudged("current without a call", element.id, missing)
        elif not _draws(evidence, taken):
            yield Clear(element.id)
        else:
            text = (
                f"{element.id} draws {show(taken.reading.value, 'A')} with no heat called for, past"
                " the longest off window: switch its breaker off before going on"
            )
            numbers = {"measured_amps": taken.reading.value}
            yield Finding(FindingCode.DRAW_WITHOUT_CALL, Level.STOP_NOW, element.id, text, numbers)


@check("heat without the blower", FindingCode.HEAT_WITHOUT_BLOWER)
def heat_without_blower(evidence: Evidence) -> Iterator[Result]:
    """An element that draws while the blower stands still."""
    name = "heat without the blower"
    if evidence.unit.blower is None:
        yield NotJudged(name, "blower", "no blower on the plate")
        return
    blower = evidence.latest("blower", A)
    if blower is None:
        yield NotJudged(name, "blower", "not clamped")
        return
    if blower.reading.value >= th.DEAD_AMPS.value:
        yield Clear("blower")
        return
    latest = (evidence.latest(element.id, A) for element in evidence.unit.elements)
    element = next(
        (
            taken for taken in latest
            if taken and _draws(evidence, taken) and taken.state.calls == blower.state.calls
            and waiting_for(
                evidence.unit, blower.state, evidence.unit.element_by_id[taken.point.name],
                blower.reading.lead_s,
            ) is None
        ),
        None,
    )  # fmt: skip
    if element is None:
        yield NotJudged(name, "blower", "no element clamped under the same call")
        return
    text = (
        f"{element.point.name} draws {show(element.reading.value, 'A')} while the blower draws"
        f" {show(blower.reading.value, 'A')}: heat without air. Switch the heat off"
    )
    numbers = {"measured_amps": blower.reading.value}
    yield Finding(FindingCode.HEAT_WITHOUT_BLOWER, Level.STOP_NOW, "blower", text, numbers)


def _draws(evidence: Evidence, taken: Taken) -> bool:
    element = evidence.unit.element_by_id[taken.point.name]
    return taken.reading.value >= element.rating.dead_below_amps(element.rated_volts)


@check("limits that cycle", FindingCode.LIMIT_CYCLING)
def limit_cycling(evidence: Evidence) -> Iterator[Result]:
    """Current that was seen to come and go with the call steady."""
    watched = [e for e in evidence.visit.of_kind(Observed) if e.action in ("cycling", "steady")]
    if not watched:
        yield NotJudged("limits that cycle", "limits", "nobody watched a rung with the call steady")
    for seen in watched:
        if seen.action == "steady":
            yield Clear(seen.part)
            continue
        text = (
            f"{seen.part} comes and goes with the call steady: a limit cycles. Look at the"
            " airflow first, at the limit last"
        )
        yield Finding(FindingCode.LIMIT_CYCLING, Level.REPAIR, seen.part, text)
