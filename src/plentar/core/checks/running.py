"""What runs when it should not, or without what must run beside it."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.due.waiting import waiting_for
from plentar.core.events import ON, Observed
from plentar.core.evidence import Evidence, Taken
from plentar.core.judgement import Finding, FindingCode, Level
from plentar.core.numerals import show
from plentar.core.parts import HEAT_CALLS
from plentar.core.quantity import Quantity
from plentar.core.state import all_off_s
from plentar.core.tables import thresholds as th

A = Quantity.AMPS


def running_findings(evidence: Evidence) -> Iterator[Finding]:
    """Heat without the blower, current without a call, a limit that cycles, stages too late."""
    drawing = [taken for taken in _latest_amps(evidence) if _draws(evidence, taken)]
    yield from _without_call(evidence, drawing)
    yield from _without_blower(evidence, drawing)
    yield from _observed(evidence)


def _latest_amps(evidence: Evidence) -> Iterator[Taken]:
    for element in evidence.unit.elements:
        taken = evidence.latest(element.id, A)
        if taken is not None:
            yield taken


def _draws(evidence: Evidence, taken: Taken) -> bool:
    element = evidence.unit.element_by_id[taken.point.name]
    return taken.reading.value >= element.rating.dead_below_amps(element.rated_volts)


def _without_call(evidence: Evidence, drawing: list[Taken]) -> Iterator[Finding]:
    """Past every off window with no heat called for."""
    longest_s = all_off_s(evidence.unit)
    for taken in drawing:
        state, name = taken.state, taken.point.name
        ended = [s for call, s in state.ended_s.items() if call in HEAT_CALLS]
        gone_s = state.t_s + taken.reading.lead_s - max(ended) if ended else longest_s
        circuit = evidence.unit.element_by_id[name].circuit
        if state.calls & HEAT_CALLS or gone_s < longest_s or state.power[circuit] != ON:
            continue
        text = (
            f"{name} draws {show(taken.reading.value, 'A')} with no heat called for, past the"
            " longest off window: switch its breaker off before going on"
        )
        numbers = {"measured_amps": taken.reading.value}
        yield Finding(FindingCode.DRAW_WITHOUT_CALL, Level.STOP_NOW, name, text, numbers)


def _without_blower(evidence: Evidence, drawing: list[Taken]) -> Iterator[Finding]:
    blower = evidence.latest("blower", A) if evidence.unit.blower else None
    if blower is None or blower.reading.value >= th.DEAD_AMPS.value:
        return
    beside = [t for t in drawing if t.state.calls == blower.state.calls]
    element = next(
        (t for t in beside if waiting_for(
            evidence.unit, blower.state, evidence.unit.element_by_id[t.point.name],
            blower.reading.lead_s) is None),
        None,
    )  # fmt: skip
    if element is not None:
        text = (
            f"{element.point.name} draws {show(element.reading.value, 'A')} while the blower draws"
            f" {show(blower.reading.value, 'A')}: heat without air. Switch the heat off"
        )
        numbers = {"measured_amps": blower.reading.value}
        yield Finding(FindingCode.HEAT_WITHOUT_BLOWER, Level.STOP_NOW, "blower", text, numbers)


def _observed(evidence: Evidence) -> Iterator[Finding]:
    for seen in evidence.visit.of_kind(Observed):
        if seen.action == "cycling":
            text = (
                f"{seen.part} comes and goes with the call steady: a limit cycles. Look at the"
                " airflow first, at the limit last"
            )
            yield Finding(FindingCode.LIMIT_CYCLING, Level.REPAIR, seen.part, text)
