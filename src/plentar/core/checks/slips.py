"""Readings that were probably taken wrong, as far as plate and readings can tell."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.due import Word
from plentar.core.due.rules import due_at
from plentar.core.due.waiting import waiting_for
from plentar.core.evidence import Evidence, Taken
from plentar.core.judgement import Slip
from plentar.core.meter import ACCURACY
from plentar.core.numerals import show
from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th
from plentar.core.unit import Element

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS
_HAS_OHMS = frozenset({"element", "coil"})


def find_slips(evidence: Evidence) -> tuple[Slip, ...]:
    """All slips of the visit, in the order of their readings."""
    found: list[Slip] = []
    for taken in evidence.taken:
        if taken.reading.quantity is OHM and not taken.state.proved_dead:
            found.append(_ohms_live(taken))
        elif taken.counts:
            found += _kilo_ohm(evidence, taken)
            found += _before_window(evidence, taken)
    for element in evidence.unit.elements:
        found += _around_two(evidence, element)
    found += _volts_not_measured(evidence)
    return tuple(found)


def _ohms_live(taken: Taken) -> Slip:
    text = (
        f"ohms at {taken.point.name} without proving the unit dead: not kept as evidence."
        " Prove every circuit dead, then read again"
    )
    return Slip("ohms-live", taken.point.name, text, taken.reading.key)


def _kilo_ohm(evidence: Evidence, taken: Taken) -> Iterator[Slip]:
    """Out of band, but in it a thousand times up or down."""
    if taken.reading.quantity is not OHM or taken.point.kind not in _HAS_OHMS:
        return
    due = due_at(evidence, taken.state, taken.point, OHM)
    value = taken.reading.value
    if due.judge(value).good:
        return
    for factor, misread in ((1000.0, "kΩ read as Ω"), (0.001, "Ω read as kΩ")):
        if due.judge(value * factor).good:
            text = (
                f"{show(value, 'Ω')} at {taken.point.name} is a thousand times off: {misread}?"
                f" {show(value * factor, 'Ω')} would be in the due band, {due.text()}"
            )
            yield Slip("kilo-ohm", taken.point.name, text, taken.reading.key)


def _before_window(evidence: Evidence, taken: Taken) -> Iterator[Slip]:
    """No current, while a stage that is called for may still be on its way."""
    if taken.point.kind != "element" or taken.reading.quantity is not A:
        return
    element = evidence.unit.element_by_id[taken.point.component]
    waiting = waiting_for(evidence.unit, taken.state, element, taken.reading.lead_s)
    if waiting is None or not waiting.early:
        return
    due = due_at(evidence, taken.state, taken.point, A, taken.reading.lead_s)
    if due.judge(taken.reading.value).word is Word.NOT_JUDGED:
        text = f"{taken.point.name} read too early: {waiting.text}. Read again after that"
        yield Slip("before-window", taken.point.name, text, taken.reading.key)


def _around_two(evidence: Evidence, element: Element) -> Iterator[Slip]:
    """No amps on an element that has line volts, or whose amps the feed shows."""
    taken = evidence.latest(element.id, A)
    if taken is None or waiting_for(evidence.unit, taken.state, element, taken.reading.lead_s):
        return
    supply = evidence.supply(evidence.unit.circuit_by_id[element.circuit], taken.reading.t_s)
    if taken.reading.value >= element.rating.dead_below_amps(supply.nominal):
        return
    ohms = evidence.latest(element.id, OHM)
    if ohms is not None and ohms.reading.value > element.rating.expected_cold_ohms.high:
        return  # broken indeed
    volts = evidence.latest(element.id, V)
    fed = (
        volts is not None
        and volts.state.calls == taken.state.calls
        and volts.reading.value >= th.LINE_VOLTS_SHARE.value * supply.nominal
    )
    if fed and volts is not None:
        text = (
            f"{show(taken.reading.value, 'A')} at {element.id} while"
            f" {volts.reading.value:g} V stand across it: broken, or the jaw held two"
            " wires of the rung. Clamp one wire alone, or read its ohms proved dead"
        )
        yield Slip("clamp-around-two", element.id, text, taken.reading.key)
    elif _feed_shows_it(evidence, element, taken):
        text = (
            f"{show(taken.reading.value, 'A')} at {element.id}, yet the feed of"
            f" {element.circuit} carries its current: the jaw held two wires. Clamp one alone"
        )
        yield Slip("clamp-around-two", element.id, text, taken.reading.key)


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
            text = (
                f"amps of {element.id} are judged without the volts of {circuit.id}:"
                " provisional until volts are read at its lugs"
            )
            yield Slip("volts-not-measured", circuit.id, text, taken.reading.key)
            break
