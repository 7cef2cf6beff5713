"""What is due along a rung: elements, and the switches, limits and links beside them."""

from __future__ import annotations

from dataclasses import replace

from plentar.core.circuit.model import model_at
from plentar.core.expected import Asked, Expected, Word
from plentar.core.expected.by_model import expected_by_model
from plentar.core.expected.ends import Label, below, partition
from plentar.core.expected.waiting import Waiting, coil_volts_of, waiting_for
from plentar.core.quantity import Band, Quantity
from plentar.core.said import NOTHING, Said, figure, plain, say, span
from plentar.core.tables import thresholds as th
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import Element
from plentar.core.unit.points import Point
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import may_linger
from plentar.core.visit.events import DRIVEN_KINDS, ON
from plentar.core.visit.evidence import Evidence, SupplyVolts

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS
#: A tone is 1 and none is 0.
HEARD = 0.5


def volts_step(supply: SupplyVolts) -> Said:
    if supply.source is None:
        return say("expected.rung.service-volts-lugs-not", range=span(supply.band.low, supply.band.high, "V"))
    reading = supply.source.reading
    return say(
        "expected.rung.service-volts-measured-v", at=supply.source.point.title, reading=plain(reading.value)
    )


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
    off: Label = (Word.DEAD, False, say("expected.rung.no-current-rung-open"))
    if waiting and waiting.typical:
        off = (Word.DEAD, False, say("expected.rung.no-current", waiting=waiting.text))
    elif waiting:
        off = (Word.NOT_JUDGED, None, say("expected.rung.no-current-none-need", waiting=waiting.text))
    volts = f"{supply.nominal:g} V"
    return Expected(
        point,
        A,
        partition(
            [below(dead), below(band.low), band.high],
            off,
            (
                Word.LOW,
                False,
                say(
                    "expected.rung.less-than-good-kw",
                    rated_watts=plain(rating.rated_watts / 1000),
                    volts=volts,
                ),
            ),
            (Word.IN_BAND, True, say("expected.rung.good-element-draws", volts=volts)),
            (Word.HIGH, False, say("expected.rung.more-than-good-element", volts=volts)),
        ),
        nominal=nominal,
        explain=lambda: (
            volts_step(supply),
            say(
                "expected.rung.nominal-i-p-v",
                rated_watts=plain(rating.rated_watts),
                volts=volts,
                rated_volts=plain(rating.rated_volts),
                nominal=figure(nominal, "A", 4),
            ),
            say(
                "expected.rung.good-element-tolerance",
                tolerance=say(f"tolerance.{tolerance}"),
                range=span(part.low, part.high, "A", 4),
            ),
            say("expected.rung.clamps-2-0-3", range=span(band.low, band.high, "A", 4)),
            say("expected.rung.dead-below", dead=figure(dead, "A")),
        ),
        provisional=not supply.measured or (waiting is not None and waiting.typical),
    )


def _uncalled_amps(evidence: Evidence, asked: Asked, waiting: Waiting, dead: float) -> Expected:
    """Nothing asks for it: none is due, and what flows is no good element at work."""
    unit, state = evidence.unit, asked.state
    element = unit.element_by_id[asked.point.component]
    none: Label = (Word.NOT_JUDGED, None, say("expected.rung.no-current-none-need", waiting=waiting.text))
    first = say("expected.rung.open-breaker-before-going")
    if state.power[element.circuit] != ON:
        first = say("expected.rung.touch-nothing-find-breaker")
    drawn: Label = (Word.HIGH, False, say("expected.rung.draws-though", waiting=waiting.text, first=first))
    if may_linger(unit, state, element, asked.lead_s):
        still = say("expected.rung.draws-still-off-window")
        drawn = (Word.NOT_JUDGED, None, still)
    return Expected(
        asked.point,
        A,
        partition([below(dead)], none, drawn),
        nominal=0.0,
        explain=lambda: (say("expected.rung.no-current-due", waiting=waiting.text),),
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
            (Word.LOW, False, say("expected.rung.shorted-turns-or-wrong")),
            (Word.IN_BAND, True, say("expected.rung.good-element-cold")),
            (Word.HIGH, False, say("expected.rung.worn-or-path-burnt")),
            (Word.OPEN, False, say("expected.rung.element-broken")),
        ),
        nominal=0.95 * rating.hot_ohms,
        explain=lambda: (
            say(
                "expected.rung.hot-r-vr-p",
                rated_volts=plain(rating.rated_volts),
                rated_watts=plain(rating.rated_watts),
                hot_ohms=figure(rating.hot_ohms, "Ω", 4),
            ),
            say("expected.rung.cold-0-90-1", range=span(part.low, part.high, "Ω", 4)),
            say("expected.rung.meters-1-0-2", range=span(band.low, band.high, "Ω", 4)),
        ),
    )


def element_volts(evidence: Evidence, asked: Asked) -> Expected:
    """Volts across an element: the line’s while its rung is closed, none while it is open."""
    state, point, lead_s = asked.state, asked.point, asked.lead_s
    unit = evidence.unit
    element = unit.element_by_id[point.component]
    if state.power[element.circuit] != "on":
        return Expected(
            point,
            V,
            absent=say("expected.rung.circuit-off-volts-tell", circuit=said_of(unit, element.circuit)),
        )
    supply = evidence.supply(unit.circuit_by_id[element.circuit], state.t_s)
    line = th.LINE_VOLTS_SHARE * supply.nominal
    waiting = waiting_for(unit, state, element, lead_s, coil_volts_of(evidence, state))
    unfed: Label = (Word.LOW, False, say("expected.rung.not-fed-something-else"))
    if waiting:
        unfed = (Word.NOT_JUDGED, None, say("expected.rung.not-fed-need-not", waiting=waiting.text))
    return Expected(
        point,
        V,
        partition([below(line)], unfed, (Word.IN_BAND, True, say("expected.rung.fed-no-amps-broken"))),
        nominal=None if waiting else supply.nominal,
        explain=lambda: (volts_step(supply), say("expected.rung.fed-from-80-supply", line=figure(line, "V"))),
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
        return Expected(
            point,
            V,
            absent=say("expected.rung.circuit-off-volts-tell", circuit=said_of(unit, element.circuit)),
        )
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
            (Word.CLOSED, shut, say("expected.rung.near-zero-closed-provided")),
            (Word.UNCLEAR, between, say("expected.rung.between-ghost-two-opens")),
            (Word.OPEN, parted, say("expected.rung.line-volts-across-open")),
        ),
        nominal=due,
        explain=lambda: (
            volts_step(supply),
            say("expected.rung.healthy-unit-shows-here", due=figure(due, "V"))
            if due is not None
            else say("expected.rung.not-due-either-way", how=waiting.text if waiting else NOTHING),
            say("expected.rung.up-closed-from-80", joint=figure(joint, "V"), line=figure(line, "V")),
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
    own = Point(through[0].id, "element", through[0].id, NOTHING, (A,))
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
            (Word.CLOSED, True, say("expected.rung.whole")),
            (Word.HIGH, False, say("expected.rung.burnt-contact")),
            (Word.OPEN, False, say("expected.rung.open-ask-what-got")),
        ),
        nominal=0.0,
        explain=lambda: (say("expected.rung.closed-contact-reads-near", closed=figure(closed, "Ω")),),
    )


def contact_ohms(_: Evidence, asked: Asked) -> Expected:
    """A contact proved dead, at rest or with its coil driven: one of open and closed is right."""
    point = asked.point
    closed = ACCURACY[OHM].widen(Band(0, 0.1)).high
    rests_closed = point.name.endswith(".nc")
    shut = asked.driven != rests_closed
    how = say("expected.rung.coil-driven") if asked.driven else say("expected.rung.rest")
    kind = say("contact.nc" if rests_closed else "contact.no")
    wrong = say("expected.rung.welded") if not shut else say("expected.rung.burnt-open-or-coil")
    if shut and not asked.driven:
        wrong = say("expected.rung.burnt-open")
    return Expected(
        point,
        OHM,
        partition(
            [closed, 1e3],
            (
                Word.CLOSED,
                shut,
                say(
                    "expected.rung.closed",
                    how=how,
                    how_2=say("expected.rung.contact", kind=kind) if shut else wrong,
                ),
            ),
            (Word.UNCLEAR, False, say("expected.rung.burnt-contact")),
            (
                Word.OPEN,
                not shut,
                say(
                    "expected.rung.open",
                    how=how,
                    how_2=wrong if shut else say("expected.rung.contact", kind=kind),
                ),
            ),
        ),
        explain=lambda: (
            say(
                "expected.rung.contact-due",
                kind=kind,
                how=how,
                how_2=say("expected.rung.closed-2") if shut else say("expected.rung.open-2"),
            ),
            say("expected.rung.up-closed-from-1", closed=figure(closed, "Ω")),
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
        sounds = (Word.LOW, False, say("expected.rung.touches-ground-leave-off"))
        silent = (Word.IN_BAND, None, say("expected.rung.no-dead-short-ohms"))
    else:
        sounds, silent = (
            (Word.CLOSED, True, say("expected.rung.whole")),
            (Word.OPEN, False, say("expected.rung.open-2")),
        )
    return Expected(
        point,
        Quantity.TONE,
        partition([below(HEARD)], silent, sounds),
        explain=lambda: (say("expected.rung.meter-sounds-below-some"),),
    )


def to_ground(_: Evidence, asked: Asked) -> Expected:
    """A part to the frame, proved dead: a megohm at least."""
    point = asked.point
    return Expected(
        point,
        OHM,
        partition(
            [below(th.GROUND_GOOD_OHMS)],
            (Word.LOW, False, say("expected.rung.below-1-m-ground")),
            (Word.IN_BAND, True, say("expected.rung.clear-ground")),
        ),
        explain=lambda: (say("expected.rung.cold-dry-1-m"),),
    )
