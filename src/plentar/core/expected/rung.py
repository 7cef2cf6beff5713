"""What is due along a rung: elements, and the switches, limits and links beside them."""

from __future__ import annotations

from dataclasses import replace

from plentar.core.circuit.model import model_at
from plentar.core.expected import Asked, Expected, Word
from plentar.core.expected.by_model import expected_by_model
from plentar.core.expected.ends import Label, below, partition
from plentar.core.expected.waiting import Waiting, coil_volts_of, waiting_for
from plentar.core.quantity import Band, Quantity, show
from plentar.core.tables import thresholds as th
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.parts import Element
from plentar.core.unit.points import Point
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import may_linger
from plentar.core.visit.events import DRIVEN_KINDS, ON
from plentar.core.visit.evidence import Evidence, SupplyVolts

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS
#: A tone is 1 and none is 0.
HEARD = 0.5


def volts_step(supply: SupplyVolts) -> str:
    if supply.source is None:
        return (
            f"service volts at the lugs not measured: {show(supply.band.low)} …"
            f" {show(supply.band.high, 'V')} assumed, so this is provisional"
        )
    reading = supply.source.reading
    return f"service volts at {reading.at} measured: {reading.value:g} V"


def element_amps(evidence: Evidence, asked: Asked) -> Expected:
    """Clamp readings of one element, by its plate at the volts of its lugs."""
    state, point, lead_s = asked.state, asked.point, asked.lead_s
    tolerance = asked.tolerance or evidence.visit.settings.band
    unit = evidence.unit
    element = unit.element_by_id[point.component]
    rating = element.rating
    supply = evidence.supply(unit.circuit_by_id[element.circuit], state.t_s)
    nominal = rating.amps(supply.nominal)
    part = rating.part_amps(supply.band, tolerance)
    band = ACCURACY[A].widen(part)
    dead = min(rating.dead_below_amps(supply.nominal), band.low)
    waiting = waiting_for(unit, state, element, lead_s, coil_volts_of(evidence, state))
    if waiting and not waiting.early and not waiting.typical:
        return _uncalled_amps(evidence, asked, waiting, dead)
    off: Label = (Word.DEAD, False, "no current: the rung is open somewhere")
    if waiting and waiting.typical:
        off = (Word.DEAD, False, f"no current: {waiting.text}")
    elif waiting:
        off = (Word.NOT_JUDGED, None, f"no current, and none need flow: {waiting.text}")
    volts = f"{supply.nominal:g} V"
    return Expected(
        point,
        A,
        partition(
            [below(dead), below(band.low), band.high],
            off,
            (Word.LOW, False, f"less than a good {rating.rated_watts / 1000:g} kW element draws at {volts}"),
            (Word.IN_BAND, True, f"as a good element draws at {volts}"),
            (Word.HIGH, False, f"more than a good element draws at {volts}: wrong element or shorted turns"),
        ),
        nominal=nominal,
        explain=lambda: (
            volts_step(supply),
            f"nominal I = P × V ÷ Vr² = {rating.rated_watts:g} W × {volts}"
            f" ÷ ({rating.rated_volts:g} V)² = {show(nominal, 'A', 4)}",
            f"a good element, {tolerance} tolerance: {show(part.low, digits=4)} … {show(part.high, 'A', 4)}",
            f"with the clamp's ±(2 % + 0.3 A): {show(band.low, digits=4)} … {show(band.high, 'A', 4)}",
            f"dead below {show(dead, 'A')}",
        ),
        provisional=not supply.measured or (waiting is not None and waiting.typical),
    )


def _uncalled_amps(evidence: Evidence, asked: Asked, waiting: Waiting, dead: float) -> Expected:
    """Nothing asks for it: none is due, and what flows is no good element at work."""
    unit, state = evidence.unit, asked.state
    element = unit.element_by_id[asked.point.component]
    none: Label = (Word.NOT_JUDGED, None, f"no current, and none need flow: {waiting.text}")
    first = "open its breaker before going on"
    if state.power[element.circuit] != ON:
        first = "touch nothing, and find the breaker or the feed that is still on"
    drawn: Label = (Word.HIGH, False, f"it draws though {waiting.text}: {first}")
    if may_linger(unit, state, element, asked.lead_s):
        still = "it draws still: its off window is not over; read it again when it is"
        drawn = (Word.NOT_JUDGED, None, still)
    return Expected(
        asked.point,
        A,
        partition([below(dead)], none, drawn),
        nominal=0.0,
        explain=lambda: (f"{waiting.text}: no current is due",),
    )


def element_ohms(evidence: Evidence, asked: Asked) -> Expected:
    """An element cold, proved dead: by its plate, between 0.90 and 1.00 of hot."""
    point = asked.point
    rating = evidence.unit.element_by_id[point.component].rating
    part, band = rating.part_cold_ohms, rating.expected_cold_ohms
    return Expected(
        point,
        OHM,
        partition(
            [below(band.low), band.high, 1e5],
            (Word.LOW, False, "shorted turns or the wrong element"),
            (Word.IN_BAND, True, "as a good element cold"),
            (Word.HIGH, False, "worn, or a path burnt through"),
            (Word.OPEN, False, "the element is broken"),
        ),
        nominal=0.95 * rating.hot_ohms,
        explain=lambda: (
            f"hot R = Vr² ÷ P = ({rating.rated_volts:g} V)²"
            f" ÷ {rating.rated_watts:g} W = {show(rating.hot_ohms, 'Ω', 4)}",
            f"cold 0.90 … 1.00 of it, power −10 … +5 %: {show(part.low, digits=4)} …"
            f" {show(part.high, 'Ω', 4)}",
            f"with the meter's ±(1 % + 0.2 Ω): {show(band.low, digits=4)} … {show(band.high, 'Ω', 4)}",
        ),
    )


def element_volts(evidence: Evidence, asked: Asked) -> Expected:
    """Volts across an element: the line’s while its rung is closed, none while it is open."""
    state, point, lead_s = asked.state, asked.point, asked.lead_s
    unit = evidence.unit
    element = unit.element_by_id[point.component]
    if state.power[element.circuit] != "on":
        return Expected(point, V, absent=f"circuit {element.circuit} is off: volts tell nothing here")
    supply = evidence.supply(unit.circuit_by_id[element.circuit], state.t_s)
    line = th.LINE_VOLTS_SHARE * supply.nominal
    waiting = waiting_for(unit, state, element, lead_s, coil_volts_of(evidence, state))
    unfed: Label = (Word.LOW, False, "not fed: something else in the rung is open")
    if waiting:
        unfed = (Word.NOT_JUDGED, None, f"not fed, and need not be: {waiting.text}")
    return Expected(
        point,
        V,
        partition([below(line)], unfed, (Word.IN_BAND, True, "fed: with no amps it is broken")),
        nominal=None if waiting else supply.nominal,
        explain=lambda: (volts_step(supply), f"fed from {show(line, 'V')} (80 % of the supply)"),
        provisional=not supply.measured,
    )


def across(evidence: Evidence, asked: Asked) -> Expected:
    """Volts across a switch, limit or link: near zero closed, line volts open.

    Which of the two is due, the model of the healthy unit says, once no window is open.
    """
    state, point, lead_s = asked.state, asked.point, asked.lead_s
    unit = evidence.unit
    element = next(unit.elements_through(point.component), None)
    if element is None:
        return expected_by_model(evidence, asked)
    if state.power[element.circuit] != "on":
        return Expected(point, V, absent=f"circuit {element.circuit} is off: volts tell nothing here")
    supply = evidence.supply(unit.circuit_by_id[element.circuit], state.t_s)
    line = th.LINE_VOLTS_SHARE * supply.nominal
    joint = th.JOINT_OPEN_VOLTS
    waiting = waiting_for(unit, state, element, lead_s, coil_volts_of(evidence, state))
    predicted = model_at(evidence.unit, evidence.visit.events, state.t_s + lead_s).read(V, point.name)
    early = waiting is not None and waiting.early
    due = None if early or predicted is None else predicted.value
    shut = None if due is None else due <= joint
    parted = None if due is None else due >= line
    between = None if due is None else not (shut or parted)
    return Expected(
        point,
        V,
        partition(
            [joint, below(line)],
            (Word.CLOSED, shut, "near zero: closed, provided the rung is fed and nothing else in it is open"),
            (Word.UNCLEAR, between, "in between: a ghost with two opens in the rung, or half a supply"),
            (Word.OPEN, parted, "line volts across it: it is open"),
        ),
        nominal=due,
        explain=lambda: (
            volts_step(supply),
            f"the healthy unit shows {show(due, 'V')} here now"
            if due is not None
            else f"not due either way yet: {waiting.text if waiting else ''}",
            f"up to {show(joint, 'V')} closed; from {show(line, 'V')} (80 % of the supply) open",
        ),
        provisional=not supply.measured,
    )


def rung_part_amps(evidence: Evidence, asked: Asked) -> Expected:
    """Amps through a switch, link or limit are those of its element, where that is all it
    carries: not where two rungs share it, nor where the blower is fed through it."""
    point = asked.point
    unit = evidence.unit
    through = list(unit.elements_through(point.component))
    if len(through) != 1 or point.component in _blower_feed(unit, through[0]):
        return expected_by_model(evidence, asked)
    own = Point(through[0].id, "element", through[0].id, "", (A,))
    due = element_amps(evidence, replace(asked, point=own))
    return Expected(point, A, due.ranges, due.nominal, due.explain, due.provisional, due.absent)


def _blower_feed(unit: Unit, element: Element) -> tuple[str, ...]:
    """The parts of a rung that may carry the blower's current as well, up to the tie's tap."""
    taps = [element.rung.index(tap) for tap in unit.possible_taps if tap in element.rung]
    return element.rung[: max(taps, default=-1) + 1]


def continuity(_: Evidence, asked: Asked) -> Expected:
    """Ohms through a limit or link, cold: a wire's worth."""
    point = asked.point
    closed = ACCURACY[OHM].widen(Band(0, 0.1)).high
    return Expected(
        point,
        OHM,
        partition(
            [closed, 1e3],
            (Word.CLOSED, True, "whole"),
            (Word.HIGH, False, "a burnt contact"),
            (Word.OPEN, False, "open; ask what got it hot"),
        ),
        nominal=0.0,
        explain=lambda: (f"closed, a contact reads near zero: up to {show(closed, 'Ω')} with the meter",),
    )


def contact_ohms(_: Evidence, asked: Asked) -> Expected:
    """A contact proved dead, at rest or with its coil driven: one of open and closed is right."""
    point = asked.point
    closed = ACCURACY[OHM].widen(Band(0, 0.1)).high
    rests_closed = point.name.endswith(".nc")
    shut = asked.driven != rests_closed
    how = "with its coil driven" if asked.driven else "at rest"
    kind = "normally-closed" if rests_closed else "normally-open"
    wrong = "welded" if not shut else "burnt open, or its coil does not pull"
    if shut and not asked.driven:
        wrong = "burnt open"
    return Expected(
        point,
        OHM,
        partition(
            [closed, 1e3],
            (Word.CLOSED, shut, f"closed {how}: {f'as a {kind} contact is' if shut else wrong}"),
            (Word.UNCLEAR, False, "a burnt contact"),
            (Word.OPEN, not shut, f"open {how}: {wrong if shut else f'as a {kind} contact is'}"),
        ),
        explain=lambda: (
            f"a {kind} contact {how} is due {'closed' if shut else 'open'}",
            f"up to {show(closed, 'Ω')} closed; from 1 kΩ open",
        ),
    )


def tone(evidence: Evidence, asked: Asked) -> Expected:
    """Continuity by ear: what is due closed sounds, what is due open or clear of ground does not."""
    point = asked.point
    sounds: Label
    silent: Label
    if point.kind in DRIVEN_KINDS:
        ohms = contact_ohms(evidence, replace(asked, quantity=OHM))
        (sounds, silent) = ((r.word, r.good, r.meaning) for r in (ohms.ranges[0], ohms.ranges[-1]))
    elif point.kind == "node-ground":
        sounds = (Word.LOW, False, "it touches ground: leave it off and stop here")
        silent = (Word.IN_BAND, None, "no dead short; ohms tell whether it is clear")
    else:
        sounds, silent = (Word.CLOSED, True, "whole"), (Word.OPEN, False, "open")
    return Expected(
        point,
        Quantity.TONE,
        partition([below(HEARD)], silent, sounds),
        explain=lambda: ("the meter sounds below some 30 to 50 Ω, and says no more than that",),
    )


def to_ground(_: Evidence, asked: Asked) -> Expected:
    """A part to the frame, proved dead: a megohm at least."""
    point = asked.point
    return Expected(
        point,
        OHM,
        partition(
            [below(th.GROUND_GOOD_OHMS)],
            (Word.LOW, False, "below 1 MΩ to ground: leave it off and stop here"),
            (Word.IN_BAND, True, "clear of ground"),
        ),
        explain=lambda: ("cold and dry, 1 MΩ or more to ground is good",),
    )
