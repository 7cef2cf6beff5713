"""Current that nothing asks for: at an element, along its rung, in its feed."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Band, Quantity
from plentar.core.said import Said, figure, say
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import Circuit, Element
from plentar.core.unit.ratings import Tolerance
from plentar.core.visit.draws import asked_for, draws, may_linger, motor_amps
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence, Taken

A = Quantity.AMPS
NAME = say("checks.uncalled.current-without-call")
#: A feed shows one element too many from this share of the smallest that is not asked for.
ONE_TOO_MANY = 0.6


@check(NAME, FindingCode.DRAW_WITHOUT_CALL)
def draw_without_call(evidence: Evidence) -> Iterator[Result]:
    """Elements by their own amps or a part of their rung, circuits by their feed."""
    for element in evidence.unit.elements:
        yield _element(evidence, element)
    for circuit in evidence.unit.circuits:
        yield _feed(evidence, circuit)


def _element(evidence: Evidence, element: Element) -> Result:
    unit = evidence.unit
    seen = [
        taken
        for part in element.rung
        if (taken := evidence.latest(part, A)) is not None and len(list(unit.elements_through(part))) == 1
    ]
    if not seen:
        return NotJudged(NAME, element.id, say("checks.uncalled.not-clamped"))
    drawing = {id(draw.taken): draw for draw in draws(evidence)}
    judged = False
    for taken in sorted(seen, key=lambda t: -t.reading.t_s):
        state, lead_s = taken.state, taken.reading.lead_s
        if state.power[element.circuit] != ON:
            continue  # behind an open breaker: another reading's business
        if asked_for(unit, state, element) or may_linger(unit, state, element, lead_s):
            continue
        judged = True
        draw = drawing.get(id(taken))
        if draw is not None:
            return _found(taken, element.id, said_of(unit, element.id), draw.amps)
    if judged:
        return Clear(element.id)
    missing = say("checks.uncalled.not-clamped-nothing-called")
    return NotJudged(NAME, element.id, missing)


def _feed(evidence: Evidence, circuit: Circuit) -> Result:
    """More than all that is asked for: the smallest of the others would not fit beside it."""
    unit = evidence.unit
    readings = [
        taken
        for at in (circuit.id, f"{circuit.id}.l1", f"{circuit.id}.l2")
        if (taken := evidence.latest(at, A)) is not None
    ]
    if not readings:
        return NotJudged(NAME, circuit.id, say("checks.uncalled.feed-not-clamped"))
    taken = max(readings, key=lambda t: t.reading.t_s)
    state, lead_s = taken.state, taken.reading.lead_s
    if state.power[circuit.id] != ON:
        return NotJudged(NAME, circuit.id, say("checks.uncalled.breaker-off"))
    fed = list(unit.elements_on(circuit.id))
    others = [e for e in fed if not asked_for(unit, state, e) and not may_linger(unit, state, e, lead_s)]
    if not others:
        return NotJudged(NAME, circuit.id, say("checks.uncalled.every-element-this-circuit"))
    supply = evidence.supply(circuit, state.t_s)
    asked = [e for e in fed if e not in others]
    most = sum(e.rating.part_amps(supply.band, Tolerance.HOUSE).high for e in asked)
    most = ACCURACY[A].widen(Band(0.0, most + motor_amps(unit, circuit.id))).high
    spare = ONE_TOO_MANY * min(e.rating.amps(supply.nominal) for e in others)
    if taken.reading.value < most + spare:
        return Clear(circuit.id)
    return _found(
        taken, circuit.id, say("checks.uncalled.feed", circuit=said_of(unit, circuit.id)), taken.reading.value
    )


def _found(taken: Taken, component: str, who: Said, amps: float) -> Finding:
    at = "" if taken.point.name in (component, who) else say("checks.uncalled.at", point=taken.point.title)
    text = say("checks.uncalled.draws-nothing-calls-past", who=who, amps=figure(amps, "A"), at=at)
    numbers = {"measured_amps": amps}
    return Finding(
        FindingCode.DRAW_WITHOUT_CALL, Level.STOP_NOW, component, text, numbers, t_s=taken.reading.t_s
    )
