"""Readings that were probably taken wrong, as far as plate and readings can tell."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from plentar.core.air.airflow import air_rise_f
from plentar.core.expected import Word
from plentar.core.expected.rules import expected_of
from plentar.core.expected.waiting import coil_volts_of, waiting_for
from plentar.core.judgement import Slip, SlipCode
from plentar.core.quantity import DEGREES, Quantity
from plentar.core.said import figure, plain, rounded, say
from plentar.core.tables import thresholds as th
from plentar.core.timing.moves import moves_of
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import Element
from plentar.core.unit.ratings import BTUH_PER_WATT
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import called_since

#: Of rated; no supply is higher.
MOST_VOLTS = 1.5
A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS


def find_slips(evidence: Evidence) -> tuple[Slip, ...]:
    """All slips of the visit, in the order of their readings."""
    found: list[Slip] = []
    for taken in evidence.taken:
        if taken.reading.quantity is OHM and not taken.state.proved_dead:
            found.append(_ohms_live(taken))
        elif taken.counts:
            rule = _OF_READING.get((taken.point.kind, taken.reading.quantity))
            if rule is not None:
                found += rule(evidence, taken)
    found += _off_too_early(evidence)
    for element in evidence.unit.elements:
        found += _around_two(evidence, element)
    found += _volts_not_measured(evidence)
    return tuple(found)


def _ohms_live(taken: Taken) -> Slip:
    text = say("checks.slips.ohms-without-proving-unit", point=taken.point.title)
    return Slip(SlipCode.OHMS_LIVE, taken.point.name, text, taken.reading.key)


def _kilo_ohm(evidence: Evidence, taken: Taken) -> Iterator[Slip]:
    """Out of band, but in it a thousand times up or down."""
    due = expected_of(evidence, taken)
    value = taken.reading.value
    if due.judge(value).good:
        return
    for factor, misread in ((1000.0, say("checks.slips.k-read")), (0.001, say("checks.slips.read-k"))):
        if due.judge(value * factor).good:
            text = say(
                "checks.slips.thousand-times-off-would",
                show=figure(value, "Ω"),
                point=taken.point.title,
                misread=misread,
                factor=figure(value * factor, "Ω"),
                due=due.text(),
            )
            yield Slip(SlipCode.KILO_OHM, taken.point.name, text, taken.reading.key)


def _before_window(evidence: Evidence, taken: Taken) -> Iterator[Slip]:
    """No current, while a stage that is called for may still be on its way."""
    unit, reading = evidence.unit, taken.reading
    element = unit.element_by_id[taken.point.component]
    circuit = unit.circuit_by_id[element.circuit]
    if reading.value >= element.rating.dead_below_amps(MOST_VOLTS * circuit.rated_volts):
        return  # by far no dead one: most readings, and no volts need be looked up
    supply = evidence.supply(circuit, reading.t_s)
    if reading.value >= element.rating.dead_below_amps(supply.nominal):
        return
    coil_volts = coil_volts_of(evidence, taken.state)
    waiting = waiting_for(unit, taken.state, element, reading.lead_s, coil_volts)
    if waiting is None or not waiting.early:
        return
    if expected_of(evidence, taken).judge(taken.reading.value).word is Word.NOT_JUDGED:
        text = say("checks.slips.read-too-early-read", point=taken.point.title, waiting=waiting.text)
        yield Slip(SlipCode.BEFORE_WINDOW, taken.point.name, text, taken.reading.key)


def _ac_on_dc(evidence: Evidence, taken: Taken) -> Iterator[Slip]:
    """Next to nothing on the AC range, where a DC coil should have its volts."""
    control = evidence.unit.control_by_id.get(taken.point.component)
    if control is None or not control.kind.dc_coil:
        return
    told = called_since(evidence.unit, taken.state, control) is not None
    if told and taken.reading.value < th.AC_ON_DC_VOLTS:
        text = say(
            "checks.slips.ac-coil-runs-dc", taken=figure(taken.reading.value, "V"), point=taken.point.title
        )
        yield Slip(SlipCode.AC_ON_DC, taken.point.name, text, taken.reading.key)


def _dead_rung(evidence: Evidence, taken: Taken) -> Iterator[Slip]:
    """No volts across a switch of a rung that nobody has shown to be fed."""
    unit, reading = evidence.unit, taken.reading
    if reading.value > th.JOINT_OPEN_VOLTS or not taken.state.live:
        return
    control = unit.control_of_switch[taken.point.name]
    if called_since(unit, taken.state, control) is None:
        return
    for element in unit.elements_through(taken.point.name):
        circuit = unit.circuit_by_id[element.circuit]
        amps = evidence.latest(element.id, A)
        draws = amps is not None and amps.reading.value >= element.rating.dead_below_amps(circuit.rated_volts)
        least = th.LINE_VOLTS_SHARE * circuit.rated_volts
        shown = any(
            t.counts
            and t.reading.quantity is V
            and t.reading.value >= least
            and t.point.name in element.rung
            and t.state.calls == taken.state.calls
            for t in evidence.taken
        )
        fed = evidence.supply(circuit, reading.t_s).measured
        if not draws and not (shown and fed):
            missing = (
                say("checks.slips.another-part-rung-may") if fed else say("checks.slips.supply-not-read")
            )
            text = say(
                "checks.slips.across-does-not-say",
                reading=figure(reading.value, "V"),
                point=taken.point.title,
                missing=missing,
            )
            yield Slip(SlipCode.ZERO_VOLTS_DEAD_RUNG, taken.point.name, text, reading.key)
            return


def _glow(evidence: Evidence, taken: Taken) -> Iterator[Slip]:
    """A rise that even the least airflow can't explain: the probe sees the elements."""
    back = evidence.latest("return-air", Quantity.TEMP_F)
    cfm = evidence.unit.blower.air_cfm if evidence.unit.blower else None
    if taken.point.name != "supply-air" or back is None or cfm is None:
        return
    watts = sum(e.rating.watts(e.rated_volts) for e in evidence.unit.elements)
    altitude_ft = evidence.visit.settings.altitude_ft
    most_f = air_rise_f(BTUH_PER_WATT * watts, th.LEAST_AIRFLOW * cfm, altitude_ft)
    rise_f = taken.reading.value - back.reading.value
    if rise_f > most_f:
        text = say(
            "checks.slips.rise-all-elements-air",
            rise_f=figure(rise_f, DEGREES),
            least_airflow=rounded(100 * th.LEAST_AIRFLOW),
            most_f=figure(most_f, DEGREES),
        )
        yield Slip(SlipCode.GLOW_IN_SIGHT, "supply-air", text, taken.reading.key)


#: Which slip a reading may be, by the kind of its point and what was read.
_OF_READING: dict[tuple[str, Quantity], Callable[[Evidence, Taken], Iterator[Slip]]] = {
    ("element", OHM): _kilo_ohm,
    ("coil", OHM): _kilo_ohm,
    ("element", A): _before_window,
    ("coil", V): _ac_on_dc,
    ("switch", V): _dead_rung,
    ("air", Quantity.TEMP_F): _glow,
}


def _off_too_early(evidence: Evidence) -> Iterator[Slip]:
    """A stage seen to let go after less than five minutes energised."""
    for move in moves_of(evidence.unit, evidence.visit):
        text = move.tried_too_early()
        if text is not None:
            yield Slip(SlipCode.OFF_TEST_TOO_EARLY, move.part, text, move.key)


def _around_two(evidence: Evidence, element: Element) -> Iterator[Slip]:
    """No amps on an element that has line volts, or whose amps the feed shows."""
    taken = evidence.latest(element.id, A)
    if taken is None:
        return
    supply = evidence.supply(evidence.unit.circuit_by_id[element.circuit], taken.reading.t_s)
    if taken.reading.value >= element.rating.dead_below_amps(supply.nominal):
        return
    coil_volts = coil_volts_of(evidence, taken.state)
    if waiting_for(evidence.unit, taken.state, element, taken.reading.lead_s, coil_volts):
        return
    ohms = evidence.latest(element.id, OHM)
    if ohms is not None and ohms.reading.value > element.rating.expected_cold_ohms.high:
        return  # broken indeed
    volts = evidence.latest(element.id, V)
    fed = (
        volts is not None
        and volts.state.calls == taken.state.calls
        and volts.reading.value >= th.LINE_VOLTS_SHARE * supply.nominal
    )
    if fed and volts is not None:
        text = say(
            "checks.slips.while-v-stand-across",
            taken=figure(taken.reading.value, "A"),
            element=said_of(evidence.unit, element.id),
            volts=plain(volts.reading.value),
        )
        yield Slip(SlipCode.CLAMP_AROUND_TWO, element.id, text, taken.reading.key)
    elif _feed_shows_it(evidence, element, taken):
        text = say(
            "checks.slips.yet-feed-carries-current",
            taken=figure(taken.reading.value, "A"),
            element=said_of(evidence.unit, element.id),
            circuit=said_of(evidence.unit, element.circuit),
        )
        yield Slip(SlipCode.CLAMP_AROUND_TWO, element.id, text, taken.reading.key)


def _feed_shows_it(evidence: Evidence, element: Element, taken: Taken) -> bool:
    """The feed's amps can be reached only with this element drawing."""
    unit = evidence.unit
    supply = evidence.supply(unit.circuit_by_id[element.circuit], taken.reading.t_s)
    others = [e for e in unit.elements_on(element.circuit) if e is not element]
    blower = unit.blower
    here = blower is not None and blower.circuit == element.circuit
    motor = (blower.fla or blower.running_amps or 0.0) if blower and here else 0.0
    most = motor + sum(e.rating.part_amps(supply.band).high for e in others)
    for leg in ("", ".l1", ".l2"):
        feed = evidence.latest(f"{element.circuit}{leg}", A)
        if feed is None or feed.state.calls != taken.state.calls:
            continue
        least_without = most + 0.5 * element.rating.amps(supply.nominal)
        if feed.reading.value - ACCURACY[A].error(feed.reading.value) > least_without:
            return True
    return False


def _volts_not_measured(evidence: Evidence) -> Iterator[Slip]:
    """Amps were read, and the volts of their circuit were not."""
    for circuit in evidence.unit.circuits:
        for element in evidence.unit.elements_on(circuit.id):
            taken = evidence.latest(element.id, A)
            if taken is None or evidence.supply(circuit, taken.reading.t_s).measured:
                continue
            text = say(
                "checks.slips.amps-judged-without-volts",
                element=said_of(evidence.unit, element.id),
                circuit=said_of(evidence.unit, circuit.id),
            )
            yield Slip(SlipCode.VOLTS_NOT_MEASURED, circuit.id, text, taken.reading.key)
            break
