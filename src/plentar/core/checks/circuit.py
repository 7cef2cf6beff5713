"""Each supply circuit, and the feeder ahead of them, by plate and wire: load, breaker, conductor."""

from __future__ import annotations

import math
from collections.abc import Iterator

from plentar.core.checks.registry import Result, check, plate_check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import show
from plentar.core.supply.conductors import (
    allowed_amps,
    dropped_volts,
    largest_breaker_amps,
    next_size_amps,
    terminal_amps,
)
from plentar.core.supply.loads import Supplied, load_of, supplied
from plentar.core.supply.meanwhile import meanwhile
from plentar.core.tables import thresholds as th
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import STAGE_ON, Did, Visit
from plentar.core.visit.evidence import Evidence

LOCAL = "local code and the plate decide; a licensed electrician makes the change"


@plate_check("elements on one circuit", FindingCode.ELEMENTS_OVER_48)
def elements_over_48(unit: Unit) -> Iterator[Result]:
    """Above 48 A of elements a kit is split over circuits."""
    most = th.MOST_ELEMENT_AMPS
    for circuit in unit.circuits:
        load = load_of(unit, circuit)
        if load.elements <= most or circuit.subdivided:
            yield Clear(circuit.id)
            continue
        text = (
            f"{circuit.id} carries {show(load.elements, 'A')} of elements;"
            " above 48 A a kit is split over circuits"
        )
        numbers = {"element_amps": load.elements, "most_amps": most}
        level = Level.WATCH if circuit.subdivided is None else Level.REPAIR
        if level is Level.WATCH:
            text += "; look whether this kit splits it inside"
        yield Finding(FindingCode.ELEMENTS_OVER_48, level, circuit.id, text, numbers)


@plate_check("breaker by the plate", FindingCode.BREAKER_OVER_PLATE)
def breaker_over_plate(unit: Unit) -> Iterator[Result]:
    """Not larger than the plate allows."""
    for circuit in unit.circuits:
        breaker = circuit.breaker_amps
        most = circuit.plate.max_breaker_amps if circuit.plate else None
        if breaker is None or most is None:
            missing = "breaker size not given" if breaker is None else "plate gives no maximum"
            yield NotJudged("breaker by the plate", circuit.id, missing)
        elif breaker > most:
            text = f"{circuit.id}: breaker {breaker:g} A, the plate allows {most:g} A; {LOCAL}"
            numbers = {"breaker_amps": breaker, "allowed_amps": most}
            yield Finding(FindingCode.BREAKER_OVER_PLATE, Level.STOP_NOW, circuit.id, text, numbers)
        else:
            yield Clear(circuit.id)


@plate_check("breaker by the wire", FindingCode.BREAKER_OVER_CONDUCTOR)
def breaker_over_conductor(unit: Unit) -> Iterator[Result]:
    """Not larger than what may protect its conductor, and in both legs of it."""
    for one in supplied(unit):
        breaker = one.breaker_amps
        largest = largest_breaker_amps(one.conductor, breaker) if one.conductor else None
        if one.breaker_legs == 1:
            text = (
                f"{one.id}: its breaker opens and protects one leg; the other has no protection and"
                f" stays live when it is off. Open what is ahead of it; {LOCAL}"
            )
            numbers = {"breaker_legs": 1.0}
            yield Finding(FindingCode.BREAKER_OVER_CONDUCTOR, Level.STOP_NOW, one.id, text, numbers)
        elif breaker is None or largest is None:
            yield NotJudged("breaker by the wire", one.id, _missing(one))
        elif breaker > largest:
            text = (
                f"{one.id}: breaker {breaker:g} A over a conductor that may have"
                f" {largest:g} A at most; {LOCAL}"
            )
            numbers = {"breaker_amps": breaker, "allowed_amps": largest}
            yield Finding(FindingCode.BREAKER_OVER_CONDUCTOR, Level.STOP_NOW, one.id, text, numbers)
        else:
            yield Clear(one.id)


@plate_check("breaker by the load", FindingCode.BREAKER_UNDER_LOAD, FindingCode.OVER_80_PERCENT)
def breaker_under_load(unit: Unit) -> Iterator[Result]:
    """Not smaller than the minimum; and, by the rule of thumb, loaded to 80 % at most."""
    for one in supplied(unit):
        load, breaker = one.load, one.breaker_amps
        if breaker is None:
            yield NotJudged("breaker by the load", one.id, "breaker size not given")
            continue
        if breaker < load.minimum and (next_size_amps(load.minimum) or math.inf) > breaker:
            text = f"{one.id}: breaker {breaker:g} A, {show(load.minimum, 'A')} is the minimum"
            text += _until_then(unit, one)
            numbers = {"breaker_amps": breaker, "minimum_amps": load.minimum}
            yield Finding(FindingCode.BREAKER_UNDER_LOAD, Level.REPAIR, one.id, text, numbers)
        else:
            yield Clear(one.id)
        share = load.total / breaker
        if share > th.BREAKER_SHARE:
            text = (
                f"{one.id}: {show(load.total, 'A')} is {100 * share:.0f} % of its {breaker:g} A"
                " breaker; 80 % is the rule of thumb"
            )
            numbers = {"load_amps": load.total, "breaker_amps": breaker, "share": share}
            yield Finding(FindingCode.OVER_80_PERCENT, Level.WATCH, one.id, text, numbers)


@check("wire by the load", FindingCode.CONDUCTOR_UNDER_LOAD)
def conductor_under_load(evidence: Evidence) -> Iterator[Result]:
    """A conductor that carries its load, and the minimum. A stage left off is no load; connected
    again, it is the load of a conductor that nothing said then has answered for."""
    left_off = evidence.state_at(math.inf).stages_off
    for one in supplied(evidence.unit, left_off):
        wire, load = one.conductor, one.load
        allowed = allowed_amps(wire, one.breaker_amps) if wire else None
        if wire is None or allowed is None:
            yield NotJudged("wire by the load", one.id, _missing(one))
            continue
        ends = terminal_amps(wire, one.breaker_amps)
        if allowed >= load.total and ends >= load.minimum:
            yield Clear(one.id)
            continue
        level = Level.STOP_NOW if load.total > allowed else Level.REPAIR
        text = (
            f"{one.id}: {wire.awg} AWG {wire.material} may carry {show(allowed, 'A')} as laid and"
            f" {show(ends, 'A')} at its terminals; the load is {show(load.total, 'A')},"
            f" {show(load.minimum, 'A')} is the minimum{_until_then(evidence.unit, one)}; {LOCAL}"
        )
        numbers = {"allowed_amps": allowed, "load_amps": load.total, "minimum_amps": load.minimum}
        yield Finding(
            FindingCode.CONDUCTOR_UNDER_LOAD, level, one.id, text, numbers, t_s=_connected_s(evidence, one)
        )


def _until_then(unit: Unit, one: Supplied) -> str:
    """Which stage to leave off until it is put right, and what is drawn then."""
    less = meanwhile(unit, one.circuits)
    return f". Until then {less.words}" if less else ""


@plate_check("volts dropped by the wire", FindingCode.VOLTAGE_DROP)
def voltage_drop(unit: Unit) -> Iterator[Result]:
    for one in supplied(unit):
        wire = one.conductor
        if wire is None or wire.length_ft <= 0:
            missing = "its length not given" if wire else "wire size not given"
            yield NotJudged("volts dropped by the wire", one.id, missing)
            continue
        drop = dropped_volts(wire, one.load.total)
        if drop <= th.VOLTAGE_DROP * one.rated_volts:
            yield Clear(one.id)
            continue
        text = (
            f"{one.id}: {wire.length_ft:g} ft of wire drop {show(drop, 'V')},"
            f" {100 * drop / one.rated_volts:.1f} %; over 3 % is worth a note"
        )
        numbers = {"drop_volts": drop, "share": drop / one.rated_volts}
        yield Finding(FindingCode.VOLTAGE_DROP, Level.WATCH, one.id, text, numbers)


def _connected_s(evidence: Evidence, one: Supplied) -> float:
    """When a stage of a circuit was connected again last; 0 where none was left off."""
    own = {e.id for c in one.circuits for e in evidence.unit.elements_on(c)}
    again = (e for e in evidence.visit.of_kind(Did) if e.verb == STAGE_ON and e.part in own)
    return max((event.t_s for event in again), default=0.0)


OF_PLATES = (elements_over_48, breaker_over_plate, breaker_over_conductor, breaker_under_load, voltage_drop)


def circuit_findings(unit: Unit) -> tuple[Finding, ...]:
    results = [result for rule in OF_PLATES for result in rule(unit)]
    results += conductor_under_load(Evidence(unit, Visit()))
    return tuple(result for result in results if isinstance(result, Finding))


def _missing(one: Supplied) -> str:
    if one.conductor is None:
        return "wire size not given"
    if allowed_amps(one.conductor, one.breaker_amps) is None:
        return "the tables do not reach its wire at this ambient"
    return "breaker size not given"
