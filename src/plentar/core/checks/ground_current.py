"""The legs of one feed carry the same amps; what does not comes home another way."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import figure, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import HEAT_CALLS, Circuit
from plentar.core.visit.against_record import tied_across
from plentar.core.visit.draws import motor_amps, same_setting
from plentar.core.visit.events import ON, Observed
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import PanelState, all_off_s, all_on_s

A = Quantity.AMPS
#: So much in both legs is heat, whatever is called, A.
HEAT_FROM_AMPS = 8.0
NAME = say("checks.ground-current.legs-feed")


@check(NAME, FindingCode.GROUND_CURRENT)
def ground_current(evidence: Evidence) -> Iterator[Result]:
    """The newest pair of legs of each feed, clamped in one state within two minutes."""
    for circuit in evidence.unit.circuits:
        yield _legs(evidence, circuit)


def _legs(evidence: Evidence, circuit: Circuit) -> Result:
    pairs = [pair for pair in _pairs(evidence, circuit) if not _moving(evidence, circuit, pair)]
    if not pairs:
        return NotJudged(NAME, circuit.id, say("checks.ground-current.both-legs-not-clamped"))
    one, two = pairs[-1]
    a, b = one.reading.value, two.reading.value
    apart = abs(a - b) - _spanned(evidence, circuit)
    if apart <= _most(one.state, a, b):
        return Clear(circuit.id)
    numbers = {"l1_amps": a, "l2_amps": b}
    t_s = max(one.reading.t_s, two.reading.t_s)
    text = say(
        "checks.ground-current.carries-l1-l2",
        circuit=said_of(evidence.unit, circuit.id),
        a=figure(a, "A"),
        b=figure(b, "A"),
    )
    if _may_be_missed(evidence, circuit, one.state, abs(a - b)) and not _again(pairs):
        text += say("checks.ground-current.clamp-both-legs-again")
        return Finding(FindingCode.GROUND_CURRENT, Level.WATCH, circuit.id, text, numbers, t_s=t_s)
    text += say("checks.ground-current.come-home-another-way", a=figure(abs(a - b), "A"))
    return Finding(FindingCode.GROUND_CURRENT, Level.STOP_NOW, circuit.id, text, numbers, t_s=t_s)


def _pairs(evidence: Evidence, circuit: Circuit) -> list[tuple[Taken, Taken]]:
    """L1 and L2 clamped in one state within two minutes, oldest first; C1 alone is its L1."""
    ones = [*evidence.at(circuit.id, A), *evidence.at(f"{circuit.id}.l1", A)]
    found = [
        (one, two)
        for two in evidence.at(f"{circuit.id}.l2", A)
        for one in ones
        if abs(one.reading.t_s - two.reading.t_s) <= th.LEG_PAIR_S
        and one.state.power[circuit.id] == ON
        and same_setting(one.state, two.state)
    ]
    return sorted(found, key=lambda pair: sorted(-taken.reading.t_s for taken in pair), reverse=True)


def _moving(evidence: Evidence, circuit: Circuit, pair: tuple[Taken, Taken]) -> bool:
    """A stage may come or go between the two: in an on or off window, or with a limit that cycles."""
    fed = {part for e in evidence.unit.elements_on(circuit.id) for part in e.rung}
    watched = {e.part for e in evidence.visit.of_kind(Observed) if e.action == "cycling"}
    return bool(fed & watched) or any(_in_window(evidence, taken.state) for taken in pair)


def _in_window(evidence: Evidence, state: PanelState) -> bool:
    began = [s for call, s in state.since_s.items() if call in HEAT_CALLS]
    ended = [s for call, s in state.ended_s.items() if call in HEAT_CALLS]
    on_s, off_s = all_on_s(evidence.unit), all_off_s(evidence.unit)
    rising = bool(began) and state.t_s - max(began) < on_s + th.TYPED_WITHIN_S
    return rising or (bool(ended) and state.t_s - max(ended) < off_s + th.TYPED_WITHIN_S)


def _most(state: PanelState, a: float, b: float) -> float:
    """What two legs may differ by, A: the clamp on either."""
    if state.calls & HEAT_CALLS or min(a, b) > HEAT_FROM_AMPS:
        return max(th.LEGS_HEAT_AMPS, th.LEGS_HEAT_SHARE * max(a, b))
    return float(th.LEGS_IDLE_AMPS)


def _spanned(evidence: Evidence, circuit: Circuit) -> float:
    """The motor's amps that a tie across two circuits takes from one and gives back to the other."""
    blower = evidence.unit.blower
    if blower is None or circuit.id not in tied_across(evidence.unit):
        return 0.0
    return motor_amps(evidence.unit, blower.circuit)


def _may_be_missed(evidence: Evidence, circuit: Circuit, state: PanelState, apart: float) -> bool:
    """It is a rung's own amps, so that the clamp may have missed a wire, or the feed has a compressor."""
    supply = evidence.supply(circuit, state.t_s).nominal
    rungs = [e.rating.amps(supply) for e in evidence.unit.elements_on(circuit.id)]
    own = any(abs(apart - amps) <= th.LEGS_RUNG_SHARE * amps for amps in rungs)
    return own or evidence.unit.kind == "package-unit"


def _again(pairs: list[tuple[Taken, Taken]]) -> bool:
    """Both legs were clamped twice, other readings each time, and differ alike."""
    (one, two), *before = reversed(pairs)
    apart = one.reading.value - two.reading.value
    return any(
        other is not one
        and another is not two
        and abs((other.reading.value - another.reading.value) - apart) <= _most(one.state, apart, apart)
        and same_setting(other.state, one.state)
        for other, another in before
    )
