"""What is due at the blower motor and its capacitor."""

from __future__ import annotations

import math

from plentar.core.expected import Asked, Expected, Word
from plentar.core.expected.ends import Label, below, partition
from plentar.core.quantity import Band, Quantity
from plentar.core.said import figure, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.visit.draws import dead_blower_amps
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import all_off_s, all_on_s

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS
#: What the relay and the motor take to start.
STARTING_S = 5.0


def blower_amps(evidence: Evidence, asked: Asked) -> Expected:
    """Amps of the motor: none below its floor while it is asked for, none above its full load."""
    point, unit = asked.point, evidence.unit
    blower = unit.blower
    if blower is None:
        return Expected(point, A, absent=say("expected.blower.no-blower-plate"))
    floor, need = dead_blower_amps(unit), blower_needed(evidence, asked)
    still: dict[bool | None, Label] = {
        True: (Word.DEAD, False, say("expected.blower.asked-stands-still")),
        False: (Word.IN_BAND, True, say("expected.blower.stands-still-nothing-asks")),
        None: (Word.NOT_JUDGED, None, say("expected.blower.stands-still-may")),
    }
    unasked: Label = (Word.HIGH, False, say("expected.blower.turns-though-nothing-asks"))
    if blower.fla is None:
        unknown: Label = (Word.NOT_JUDGED, None, say("expected.blower.turns-plate-gives-no"))
        ranges = partition([below(floor)], still[need], unasked if need is False else unknown)
        return Expected(point, A, ranges, nominal=0.0 if need is False else blower.running_amps)
    high = max(ACCURACY[A].widen(Band(0, blower.fla)).high, math.nextafter(floor, math.inf))
    turns: Label = (Word.IN_BAND, True, say("expected.blower.turns-not-above-full"))
    above: Label = (Word.HIGH, False, say("expected.blower.above-full-load-amps"))
    ranges = partition([below(floor), high], still[need], unasked if need is False else turns, above)
    return Expected(
        point,
        A,
        ranges,
        nominal=0.0 if need is False else blower.running_amps,
        explain=lambda: (
            say("expected.blower.full-load-amps-clamp", fla=figure(blower.fla, "A"), high=figure(high, "A")),
            say("expected.blower.stands-still-below", floor=figure(floor, "A")),
        ),
    )


def blower_needed(evidence: Evidence, asked: Asked) -> bool | None:
    """Whether something asks for the blower now; None while it may go either way."""
    unit, state = evidence.unit, asked.state
    blower = unit.blower
    assert blower is not None
    if state.power[blower.circuit] != ON:
        return False
    elapsed = [state.t_s - s + asked.lead_s for s in state.since_s.values()]
    settled = min(elapsed, default=math.inf) >= STARTING_S
    if unit.fan_call is not None and unit.fan_call in state.calls:
        return True if settled else None
    heated = [state.t_s - s + asked.lead_s for c, s in state.since_s.items() if c in HEAT_CALLS]
    if heated:
        return True if blower.tied and min(heated) >= all_on_s(unit) else None
    ended = [state.t_s - s + asked.lead_s for s in state.ended_s.values()]
    return False if min(ended, default=math.inf) >= all_off_s(unit) else None


def microfarads(evidence: Evidence, asked: Asked) -> Expected:
    """The capacitor beside its marking, proved dead: good within 6 %, weak below 90 %."""
    state, point = asked.state, asked.point
    blower = evidence.unit.blower
    if not state.proved_dead:
        return Expected(point, Quantity.UF, absent=say("expected.blower.capacitance-only-proved-dead"))
    if blower is None or blower.capacitor_uf is None:
        return Expected(point, Quantity.UF, absent=say("expected.blower.kept-evidence-marking-not"))
    mark = blower.capacitor_uf
    share = th.CAPACITOR_GOOD
    watch = (1 - th.CAPACITOR_WEAK) * mark
    return Expected(
        point,
        Quantity.UF,
        partition(
            [below(watch), below((1 - share) * mark), (1 + share) * mark],
            (Word.LOW, False, say("expected.blower.more-than-10-down")),
            (Word.LOW, None, say("expected.blower.6-10-down-watch")),
            (Word.IN_BAND, True, say("expected.blower.good")),
            (Word.HIGH, False, say("expected.blower.wrong-part")),
        ),
        nominal=mark,
        explain=lambda: (say("expected.blower.marked-6-good-down", mark=figure(mark, "µF")),),
    )
