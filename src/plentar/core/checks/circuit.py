"""Each supply circuit by its plate and its wire: load, breaker, conductor."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from plentar.core.conductors import allowed_amps, largest_breaker_amps, next_size_amps, ohms_per_kft
from plentar.core.judgement import Finding, FindingCode, Level
from plentar.core.numerals import show
from plentar.core.parts import Circuit
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


def load_of(unit: Unit, circuit: Circuit) -> Load:
    """The continuous load of a circuit at its rated volts."""
    elements = sum(e.rating.amps(circuit.rated_volts) for e in unit.elements_on(circuit.id))
    blower = unit.blower
    motor = (blower.fla or blower.running_amps or 0.0) if blower else 0.0
    motor = motor if blower and blower.circuit == circuit.id else 0.0
    plate = circuit.plate.min_circuit_amps if circuit.plate else None
    minimum = plate or th.CONTINUOUS_LOAD.value * (elements + motor)
    return Load(elements, motor, minimum)


def circuit_findings(unit: Unit) -> Iterator[Finding]:
    """All circuits; what is not on the plate is not judged."""
    for circuit in unit.circuits:
        load = load_of(unit, circuit)
        if load.elements > th.MOST_ELEMENT_AMPS.value:
            numbers = {"element_amps": load.elements, "most_amps": th.MOST_ELEMENT_AMPS.value}
            text = (
                f"{circuit.id} carries {show(load.elements, 'A')} of elements;"
                " above 48 A a kit is split over circuits"
            )
            yield Finding(FindingCode.ELEMENTS_OVER_48, Level.REPAIR, circuit.id, text, numbers)
        if circuit.breaker_amps is not None:
            yield from _breaker(circuit, load, circuit.breaker_amps)
        yield from _conductor(circuit, load)


def _breaker(circuit: Circuit, load: Load, breaker: float) -> Iterator[Finding]:
    most = circuit.plate.max_breaker_amps if circuit.plate else None
    if most is not None and breaker > most:
        text = f"{circuit.id}: breaker {breaker:g} A, the plate allows {most:g} A; {LOCAL}"
        numbers = {"breaker_amps": breaker, "allowed_amps": most}
        yield Finding(FindingCode.BREAKER_OVER_PLATE, Level.STOP_NOW, circuit.id, text, numbers)
    largest = largest_breaker_amps(circuit.conductor) if circuit.conductor else None
    if largest is not None and breaker > largest:
        text = (
            f"{circuit.id}: breaker {breaker:g} A over a conductor that may have"
            f" {largest:g} A at most; {LOCAL}"
        )
        numbers = {"breaker_amps": breaker, "allowed_amps": largest}
        yield Finding(FindingCode.BREAKER_OVER_CONDUCTOR, Level.STOP_NOW, circuit.id, text, numbers)
    if breaker < load.minimum and (next_size_amps(load.minimum) or 0) > breaker:
        text = f"{circuit.id}: breaker {breaker:g} A, {show(load.minimum, 'A')} is the minimum"
        numbers = {"breaker_amps": breaker, "minimum_amps": load.minimum}
        yield Finding(FindingCode.BREAKER_UNDER_LOAD, Level.REPAIR, circuit.id, text, numbers)
    share = load.total / breaker
    if share > th.BREAKER_SHARE.value:
        text = (
            f"{circuit.id}: {show(load.total, 'A')} is {100 * share:.0f} % of its {breaker:g} A"
            " breaker; 80 % is the rule of thumb"
        )
        numbers = {"load_amps": load.total, "breaker_amps": breaker, "share": share}
        yield Finding(FindingCode.OVER_80_PERCENT, Level.WATCH, circuit.id, text, numbers)


def _conductor(circuit: Circuit, load: Load) -> Iterator[Finding]:
    wire = circuit.conductor
    allowed = allowed_amps(wire) if wire else None
    if wire is None or allowed is None:
        return
    if allowed < load.minimum:
        level = Level.STOP_NOW if load.total > allowed else Level.REPAIR
        text = (
            f"{circuit.id}: {wire.awg} AWG {wire.material} may carry {show(allowed, 'A')} as laid;"
            f" the load is {show(load.total, 'A')}, {show(load.minimum, 'A')} is the minimum;"
            f" {LOCAL}"
        )
        numbers = {
            "allowed_amps": allowed, "load_amps": load.total, "minimum_amps": load.minimum,
        }  # fmt: skip
        yield Finding(FindingCode.CONDUCTOR_UNDER_LOAD, level, circuit.id, text, numbers)
    drop = 2 * wire.length_ft / 1000 * ohms_per_kft(wire) * load.total
    if drop > th.VOLTAGE_DROP.value * circuit.rated_volts:
        text = (
            f"{circuit.id}: {wire.length_ft:g} ft of wire drop {show(drop, 'V')},"
            f" {100 * drop / circuit.rated_volts:.1f} %; over 3 % is worth a note"
        )
        numbers = {"drop_volts": drop, "share": drop / circuit.rated_volts}
        yield Finding(FindingCode.VOLTAGE_DROP, Level.WATCH, circuit.id, text, numbers)
