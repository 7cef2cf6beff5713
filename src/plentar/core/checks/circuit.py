"""Each supply circuit by its plate and its wire: load, breaker, conductor."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from plentar.core.checks.registry import Result, check
from plentar.core.conductors import (
    allowed_amps,
    largest_breaker_amps,
    next_size_amps,
    ohms_per_kft,
    terminal_amps,
)
from plentar.core.events import STAGE_ON, Did, Visit
from plentar.core.evidence import Evidence
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.parts import Circuit
from plentar.core.quantity import show
from plentar.core.tables import thresholds as th
from plentar.core.unit import Unit

LOCAL = "local code and the plate decide; a licensed electrician makes the change"


@dataclass(frozen=True, slots=True)
class Load:
    """What a circuit carries with all heat on, A; ``minimum`` is 125 % of it, or the plate's."""

    elements: float
    blower: float
    minimum: float

    @property
    def total(self) -> float:
        """Elements and blower."""
        return self.elements + self.blower


def load_of(unit: Unit, circuit: Circuit, left_off: frozenset[str] = frozenset()) -> Load:
    """The continuous load of a circuit at its rated volts, without stages that are left off."""
    on = (e for e in unit.elements_on(circuit.id) if e.id not in left_off)
    elements = sum(e.rating.amps(circuit.rated_volts) for e in on)
    blower = unit.blower
    motor = (blower.fla or blower.running_amps or 0.0) if blower else 0.0
    motor = motor if blower and blower.circuit == circuit.id else 0.0
    plate = circuit.plate.min_circuit_amps if circuit.plate else None
    minimum = plate or th.CONTINUOUS_LOAD.value * (elements + motor)
    return Load(elements, motor, minimum)


@check("elements on one circuit", FindingCode.ELEMENTS_OVER_48)
def elements_over_48(evidence: Evidence) -> Iterator[Result]:
    """Above 48 A of elements a kit is split over circuits."""
    most = th.MOST_ELEMENT_AMPS.value
    for circuit in evidence.unit.circuits:
        load = load_of(evidence.unit, circuit)
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


@check("breaker by the plate", FindingCode.BREAKER_OVER_PLATE)
def breaker_over_plate(evidence: Evidence) -> Iterator[Result]:
    """Not larger than the plate allows."""
    for circuit in evidence.unit.circuits:
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


@check("breaker by the wire", FindingCode.BREAKER_OVER_CONDUCTOR)
def breaker_over_conductor(evidence: Evidence) -> Iterator[Result]:
    """Not larger than what may protect its conductor."""
    for circuit in evidence.unit.circuits:
        breaker = circuit.breaker_amps
        largest = largest_breaker_amps(circuit.conductor) if circuit.conductor else None
        if breaker is None or largest is None:
            yield NotJudged("breaker by the wire", circuit.id, _missing(circuit))
        elif breaker > largest:
            text = (
                f"{circuit.id}: breaker {breaker:g} A over a conductor that may have"
                f" {largest:g} A at most; {LOCAL}"
            )
            numbers = {"breaker_amps": breaker, "allowed_amps": largest}
            yield Finding(
                FindingCode.BREAKER_OVER_CONDUCTOR, Level.STOP_NOW, circuit.id, text, numbers
            )
        else:
            yield Clear(circuit.id)


@check("breaker by the load", FindingCode.BREAKER_UNDER_LOAD, FindingCode.OVER_80_PERCENT)
def breaker_under_load(evidence: Evidence) -> Iterator[Result]:
    """Not smaller than the minimum; and, by the rule of thumb, loaded to 80 % at most."""
    for circuit in evidence.unit.circuits:
        load, breaker = load_of(evidence.unit, circuit), circuit.breaker_amps
        if breaker is None:
            yield NotJudged("breaker by the load", circuit.id, "breaker size not given")
            continue
        if breaker < load.minimum and (next_size_amps(load.minimum) or 0) > breaker:
            text = f"{circuit.id}: breaker {breaker:g} A, {show(load.minimum, 'A')} is the minimum"
            numbers = {"breaker_amps": breaker, "minimum_amps": load.minimum}
            yield Finding(FindingCode.BREAKER_UNDER_LOAD, Level.REPAIR, circuit.id, text, numbers)
        else:
            yield Clear(circuit.id)
        share = load.total / breaker
        if share > th.BREAKER_SHARE.value:
            text = (
                f"{circuit.id}: {show(load.total, 'A')} is {100 * share:.0f} % of its {breaker:g} A"
                " breaker; 80 % is the rule of thumb"
            )
            numbers = {"load_amps": load.total, "breaker_amps": breaker, "share": share}
            yield Finding(FindingCode.OVER_80_PERCENT, Level.WATCH, circuit.id, text, numbers)


@check("wire by the load", FindingCode.CONDUCTOR_UNDER_LOAD)
def conductor_under_load(evidence: Evidence) -> Iterator[Result]:
    """A conductor that carries its load, and the minimum. A stage left off is no load; connected
    again, it is the load of a conductor that nothing said then has answered for."""
    left_off = evidence.state_at(math.inf).stages_off
    for circuit in evidence.unit.circuits:
        wire, load = circuit.conductor, load_of(evidence.unit, circuit, left_off)
        allowed = allowed_amps(wire) if wire else None
        if wire is None or allowed is None:
            yield NotJudged("wire by the load", circuit.id, _missing(circuit))
            continue
        ends = terminal_amps(wire)
        if allowed >= load.total and ends >= load.minimum:
            yield Clear(circuit.id)
            continue
        level = Level.STOP_NOW if load.total > allowed else Level.REPAIR
        text = (
            f"{circuit.id}: {wire.awg} AWG {wire.material} may carry {show(allowed, 'A')} as laid and"
            f" {show(ends, 'A')} at its terminals; the load is {show(load.total, 'A')},"
            f" {show(load.minimum, 'A')} is the minimum; {LOCAL}"
        )
        numbers = {
            "allowed_amps": allowed, "load_amps": load.total, "minimum_amps": load.minimum,
        }  # fmt: skip
        yield Finding(
            FindingCode.CONDUCTOR_UNDER_LOAD, level, circuit.id, text, numbers,
            t_s=_connected_s(evidence, circuit),
        )  # fmt: skip


@check("volts dropped by the wire", FindingCode.VOLTAGE_DROP)
def voltage_drop(evidence: Evidence) -> Iterator[Result]:
    """Both ways of the wire at full load."""
    for circuit in evidence.unit.circuits:
        wire = circuit.conductor
        if wire is None or wire.length_ft <= 0:
            missing = "its length not given" if wire else "wire size not given"
            yield NotJudged("volts dropped by the wire", circuit.id, missing)
            continue
        load = load_of(evidence.unit, circuit)
        drop = 2 * wire.length_ft / 1000 * ohms_per_kft(wire) * load.total
        if drop <= th.VOLTAGE_DROP.value * circuit.rated_volts:
            yield Clear(circuit.id)
            continue
        text = (
            f"{circuit.id}: {wire.length_ft:g} ft of wire drop {show(drop, 'V')},"
            f" {100 * drop / circuit.rated_volts:.1f} %; over 3 % is worth a note"
        )
        numbers = {"drop_volts": drop, "share": drop / circuit.rated_volts}
        yield Finding(FindingCode.VOLTAGE_DROP, Level.WATCH, circuit.id, text, numbers)


def _connected_s(evidence: Evidence, circuit: Circuit) -> float:
    """When a stage of a circuit was connected again last; 0 where none was left off."""
    own = {element.id for element in evidence.unit.elements_on(circuit.id)}
    again = (e for e in evidence.visit.of_kind(Did) if e.verb == STAGE_ON and e.part in own)
    return max((event.t_s for event in again), default=0.0)


#: The checks of this module, which ask for the plate alone.
OF_CIRCUITS = (
    elements_over_48, breaker_over_plate, breaker_over_conductor, breaker_under_load,
    conductor_under_load, voltage_drop,
)  # fmt: skip


def circuit_findings(unit: Unit) -> tuple[Finding, ...]:
    """What is wrong with the circuits, before anything was read."""
    evidence = Evidence(unit, Visit())
    results = (result for rule in OF_CIRCUITS for result in rule(evidence))
    return tuple(result for result in results if isinstance(result, Finding))


def _missing(circuit: Circuit) -> str:
    if circuit.conductor is None:
        return "wire size not given"
    if allowed_amps(circuit.conductor) is None:
        return "the tables do not reach its wire at this ambient"
    return "breaker size not given"
