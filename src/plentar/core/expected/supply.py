"""What is due at the lugs and in the feed."""

from __future__ import annotations

from plentar.core.expected import Asked, Expected, Word
from plentar.core.expected.blower import blower_needed
from plentar.core.expected.ends import below, partition
from plentar.core.expected.rung import volts_step
from plentar.core.expected.waiting import coil_volts_of, waiting_for
from plentar.core.quantity import Band, Quantity
from plentar.core.said import figure, listed, say, span
from plentar.core.tables import thresholds as th
from plentar.core.tables.supply_ranges import bearable_volts, usual_volts
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.visit.draws import dead_blower_amps, may_linger
from plentar.core.visit.evidence import Evidence

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS


def lug_volts(evidence: Evidence, asked: Asked) -> Expected:
    """Volts at a kit’s lugs or ahead of its breaker: usual, bearable, or none with it off."""
    state, point = asked.state, asked.point
    circuit = evidence.unit.circuit_by_id[point.component]
    usual, bearable = usual_volts(circuit.rated_volts), bearable_volts(circuit.rated_volts)
    lost = th.LOST_VOLTS_SHARE * circuit.rated_volts
    if point.kind != "line" and state.power[circuit.id] != "on":
        dead = Word.IN_BAND, True, say("expected.supply.dead-should-breaker-off")
        live = Word.HIGH, False, say("expected.supply.not-dead-find-what")
        ranges = partition([3.0], dead, live)
        return Expected(
            point, V, ranges, nominal=0.0, explain=lambda: (say("expected.supply.breaker-off-0-v"),)
        )
    ranges = partition(
        [below(lost), below(bearable.low), below(max(bearable.low, usual.low)), usual.high],
        (Word.DEAD, False, say("expected.supply.no-supply-arrives-here")),
        (Word.LOW, False, say("expected.supply.below-what-equipment-built")),
        (Word.LOW, None, say("expected.supply.low-service-still-fit")),
        (Word.IN_BAND, True, say("expected.supply.usual-range")),
        (Word.HIGH, False, say("expected.supply.above-usual-range")),
    )
    step = say(
        "expected.supply.plated-v-usual-lowest",
        rated_volts=figure(circuit.rated_volts),
        range=span(usual.low, usual.high, "V"),
        low_2=figure(bearable.low, "V"),
    )
    return Expected(point, V, ranges, nominal=circuit.rated_volts, explain=lambda: (step,))


def feed_amps(evidence: Evidence, asked: Asked) -> Expected:
    """Amps in a feed wire: every element whose windows are over, and the blower between."""
    state, point, lead_s = asked.state, asked.point, asked.lead_s
    unit = evidence.unit
    circuit = unit.circuit_by_id[point.component]
    supply = evidence.supply(circuit, state.t_s)
    fed = list(unit.elements_on(circuit.id))
    waits = {e.id: waiting_for(unit, state, e, lead_s, coil_volts_of(evidence, state)) for e in fed}
    due = [e for e in fed if waits[e.id] is None]
    some_early = any(waiting is not None and waiting.early for waiting in waits.values())
    lingers = any(waits[e.id] and may_linger(unit, state, e, lead_s) for e in fed)
    if some_early or lingers:
        return Expected(point, A, absent=say("expected.supply.judged-once-every-stage"))
    school = asked.tolerance or evidence.visit.settings.band
    parts = [e.rating.part_amps(supply.band, school) for e in due]
    nominal = sum(e.rating.amps(supply.nominal) for e in due)
    blower = unit.blower
    here = blower is not None and blower.circuit == circuit.id
    motor = (blower.fla or blower.running_amps or 0.0) if blower and here else 0.0
    turns = here and blower_needed(evidence, asked) is True
    least = sum(p.low for p in parts) + (dead_blower_amps(unit) if turns else 0.0)
    nominal += (blower.running_amps or 0.0) if blower and turns else 0.0
    band = ACCURACY[A].widen(Band(least, max(least, sum(p.high for p in parts) + motor)))
    steps = [
        volts_step(supply),
        say(
            "expected.supply.elements-nominal",
            due=listed((e.id for e in due), "+"),
            nominal=figure(nominal, "A", 4),
        )
        if due
        else say("expected.supply.nothing-calls-element-this"),
    ]
    if here:
        steps.append(
            say("expected.supply.blower-asked-adds-up", motor=figure(motor, "A"))
            if turns
            else say("expected.supply.blower-adds-up", motor=figure(motor, "A"))
        )
    some = len(due) < len(fed)
    draws = (
        say("expected.supply.what-called-draws-no")
        if some
        else say("expected.supply.all-elements-this-circuit")
    )
    more = say("expected.supply.what-called") if some else say("expected.supply.plate")
    return Expected(
        point,
        A,
        partition(
            [below(band.low), band.high],
            (Word.LOW, False, say("expected.supply.element-missing-or-low")),
            (Word.IN_BAND, True, draws),
            (Word.HIGH, False, say("expected.supply.more-than-adds-up", more=more)),
        ),
        nominal=nominal,
        explain=lambda: tuple(steps),
        provisional=not supply.measured,
    )
