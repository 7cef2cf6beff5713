"""Heat without the blower: concluded from whatever shows the heat, and whatever shows the air."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import Said, figure, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import Draw, dead_blower_amps, draws, may_linger, same_setting
from plentar.core.visit.events import OFF, ON, Observed
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState, longest_on_s, state_at, typical_grace_s

A, V = Quantity.AMPS, Quantity.VOLTS
NAME = say("checks.air.heat-without-blower")
#: What the relay and the bearings take at most, beyond the windows.
STARTING_S = 10.0


@dataclass(frozen=True, slots=True)
class Still:
    """Something that shows the blower standing still, and how it is said."""

    t_s: float
    state: PanelState
    words: Said
    amps: float = 0.0


@check(NAME, FindingCode.HEAT_WITHOUT_BLOWER)
def heat_without_blower(evidence: Evidence) -> Iterator[Result]:
    """An element, a feed or a rung that draws while the blower, or its tie, is seen to stand."""
    if evidence.unit.blower is None:
        yield NotJudged(NAME, "blower", say("checks.air.no-blower-plate"))
        return
    still, runs = _air(evidence)
    heat = list(draws(evidence))
    if not still and not runs:
        yield NotJudged(NAME, "blower", say("checks.air.blower-neither-clamped-nor"))
        return
    for stands in still:
        draw = next((d for d in heat if _together(evidence.unit, d, stands)), None)
        if draw is not None:
            yield _finding(draw, stands)
            return
    if runs and (not still or runs[-1] > still[-1].t_s):
        yield Clear("blower")
    else:
        yield NotJudged(NAME, "blower", say("checks.air.nothing-heats-clamped-under"))


def _finding(draw: Draw, stands: Still) -> Finding:
    text = say(
        "checks.air.draws-while-heat-without",
        point=draw.taken.point.title,
        amps=figure(draw.amps, "A"),
        stands=stands.words,
    )
    numbers = {"measured_amps": stands.amps, "heat_amps": draw.amps}
    t_s = max(draw.taken.reading.t_s, stands.t_s)
    return Finding(FindingCode.HEAT_WITHOUT_BLOWER, Level.STOP_NOW, "blower", text, numbers, t_s=t_s)


def _air(evidence: Evidence) -> tuple[list[Still], list[float]]:
    """What shows the blower standing, and when it was shown to run; each oldest first."""
    still: list[Still] = []
    runs: list[float] = []
    unit = evidence.unit
    floor = dead_blower_amps(unit)
    taken = evidence.latest("blower", A)
    if taken is not None:
        value = taken.reading.value
        if value < floor:
            words = say("checks.air.blower-draws", show=figure(value, "A"))
            still.append(Still(taken.reading.t_s, taken.state, words, value))
        else:
            runs.append(taken.reading.t_s)
    still += _by_tie(evidence, floor)
    still += _by_volts(evidence)
    for seen in evidence.visit.of_kind(Observed):
        if seen.part != "blower":
            continue
        if seen.action == ON:
            runs.append(seen.t_s)
        elif seen.action == OFF:
            state = state_at(unit, evidence.visit.events, seen.t_s)
            still.append(Still(seen.t_s, state, say("checks.air.blower-was-seen-stand")))
    still.sort(key=lambda s: s.t_s)
    runs.sort()
    return still, runs


def _by_tie(evidence: Evidence, floor: float) -> Iterator[Still]:
    """No current in what feeds the blower on heat, with the fan not called: it stands."""
    blower = evidence.unit.blower
    assert blower is not None
    tie = blower.interlock
    at = tie.switch if tie.kind == "sequencer-switch" else None
    if tie.kind == "nc-contact" and blower.relay is not None:
        at = f"{blower.relay.id}.nc"
    taken = evidence.latest(at, A) if at else None
    if at is None or taken is None or taken.reading.value >= floor:
        return
    fan = evidence.unit.fan_call
    if fan is None or fan not in taken.state.calls:
        words = say(
            "checks.air.tie-carries", at=said_of(evidence.unit, at), taken=figure(taken.reading.value, "A")
        )
        yield Still(taken.reading.t_s, taken.state, words, taken.reading.value)


def _by_volts(evidence: Evidence) -> Iterator[Still]:
    """No volts at the motor, or the line's across the open tie with the fan not called."""
    unit, blower = evidence.unit, evidence.unit.blower
    assert blower is not None
    rated = unit.circuit_by_id[blower.circuit].rated_volts
    taken = evidence.latest("blower", V)
    if taken is not None and taken.state.power[blower.circuit] == ON:
        volts = taken.reading.value
        if volts < th.LOST_VOLTS_SHARE * rated:
            words = say("checks.air.blower-motor-has", volts=figure(volts, "V"))
            yield Still(taken.reading.t_s, taken.state, words)
    if blower.interlock.kind != "nc-contact" or blower.relay is None:
        return
    at = f"{blower.relay.id}.nc"
    taken = evidence.latest(at, V)
    if taken is None or (unit.fan_call or "") in taken.state.calls:
        return
    if taken.reading.value >= th.LINE_VOLTS_SHARE * rated:
        words = say(
            "checks.air.stand-across-tie-which", taken=figure(taken.reading.value, "V"), at=said_of(unit, at)
        )
        yield Still(taken.reading.t_s, taken.state, words)


def _together(unit: Unit, draw: Draw, stands: Still) -> bool:
    """The same setting, and the blower was due by then."""
    if not (same_setting(draw.taken.state, stands.state) or _same_heat(draw.taken.state, stands.state)):
        return False
    began = [s for call, s in stands.state.since_s.items() if call in HEAT_CALLS]
    if not began:
        # Welded, or in a run-down that the blower did not outlast; not what dropped out before it.
        lingers = (may_linger(unit, draw.taken.state, e, draw.taken.reading.lead_s) for e in draw.elements)
        return draw.taken.reading.t_s >= stands.t_s or not any(lingers)
    lead_s = draw.taken.reading.lead_s
    seen_before = draw.taken.reading.t_s + STARTING_S <= stands.t_s
    after_s = stands.t_s + lead_s - max(began)
    return after_s >= blower_due_s(unit) or (seen_before and not _late_by_design(unit))


def _same_heat(one: PanelState, other: PanelState) -> bool:
    """The same call for heat with the same power, whatever was done to the fan: strips draw on."""
    heat = {call: s for call, s in one.since_s.items() if call in HEAT_CALLS}
    then = {call: s for call, s in other.since_s.items() if call in HEAT_CALLS}
    return bool(heat) and heat == then and one.power == other.power


def _late_by_design(unit: Unit) -> bool:
    """A blower switch of its own may close after the first strip does."""
    return unit.blower is not None and unit.blower.interlock.kind == "sequencer-switch"


def blower_due_s(unit: Unit) -> float:
    """By then after a call for heat the blower runs: with the switch that it is tied to."""
    blower = unit.blower
    if blower is None:
        return 0.0
    ties = [blower.interlock.switch] if blower.interlock.switch else unit.possible_taps
    if ties:
        due_s = (
            longest_on_s(unit, control, s) + typical_grace_s(unit, control, s)
            for s in ties
            for control in (unit.control_of_switch[s],)
        )
        return max(due_s) + STARTING_S
    return (blower.relay.on_s.high if blower.relay else 0.0) + STARTING_S
