"""What each supply circuit carries, and the feeder ahead of them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from plentar.core.tables import thresholds as th
from plentar.core.unit.parts import Circuit, CircuitPlate, Conductor
from plentar.core.unit.unit import FEEDER, Unit


@dataclass(frozen=True, slots=True)
class Load:
    """What is carried with all heat on, A; ``minimum`` is 125 % of it, or the plate's."""

    elements: float
    blower: float
    minimum: float

    @property
    def total(self) -> float:
        return self.elements + self.blower


@dataclass(frozen=True, slots=True)
class Supplied:
    """A circuit or the feeder: what it feeds, by what it is protected, and what it carries."""

    id: str
    circuits: tuple[str, ...]
    rated_volts: float
    breaker_amps: float | None
    breaker_legs: int
    conductor: Conductor | None
    plate: CircuitPlate | None
    load: Load


def load_of(unit: Unit, circuit: Circuit, left_off: frozenset[str] = frozenset()) -> Load:
    """The continuous load of a circuit at its rated volts, without stages that are left off.

    The blower counts by its full-load amps, else by its typical ones. A plate's minimum is that of
    the whole kit: with a stage left off it is computed.
    """
    every = list(unit.elements_on(circuit.id))
    on = [e for e in every if e.id not in left_off]
    elements = sum(e.rating.amps(circuit.rated_volts) for e in on)
    blower = unit.blower
    motor = (blower.fla or blower.running_amps or 0.0) if blower else 0.0
    motor = motor if blower and blower.circuit == circuit.id else 0.0
    whole = len(on) == len(every)
    plate = circuit.plate.min_circuit_amps if circuit.plate and whole else None
    minimum = plate or th.CONTINUOUS_LOAD * (elements + motor)
    return Load(elements, motor, minimum)


def supplied(unit: Unit, left_off: frozenset[str] = frozenset()) -> Iterator[Supplied]:
    """Every circuit, then the feeder where there is one: its load is that of all behind it."""
    for circuit in unit.circuits:
        yield Supplied(
            circuit.id,
            (circuit.id,),
            circuit.rated_volts,
            circuit.breaker_amps,
            circuit.breaker_legs,
            circuit.conductor,
            circuit.plate,
            load_of(unit, circuit, left_off),
        )
    feeder = unit.feeder
    if feeder is None:
        return
    behind = [unit.circuit_by_id[c] for c in feeder.circuits]
    loads = [load_of(unit, circuit, left_off) for circuit in behind]
    whole = Load(
        sum(load.elements for load in loads),
        sum(load.blower for load in loads),
        sum(load.minimum for load in loads),
    )
    yield Supplied(
        FEEDER,
        feeder.circuits,
        behind[0].rated_volts,
        feeder.breaker_amps,
        feeder.breaker_legs,
        feeder.conductor,
        None,
        whole,
    )


def contact_loads(unit: Unit) -> Iterator[tuple[str, float | None, float | None]]:
    """Each contact with its rating and its load, A; None where the plate does not say."""
    blower = unit.blower
    motor = (blower.fla or blower.running_amps) if blower else None
    tie = blower.interlock if blower else None
    for switch in unit.switch_by_id.values():
        if switch.id in unit.idle_switches or switch.role == "auxiliary":
            continue
        if tie is not None and switch.id == tie.switch:
            yield switch.id, switch.contact_amps, motor
            continue
        load = sum(
            e.rating.amps(unit.circuit_by_id[e.circuit].rated_volts) for e in unit.elements_through(switch.id)
        )
        if blower is not None and switch.id == blower.interlock.tap:
            load += blower.running_amps or 0.0
        yield switch.id, switch.contact_amps, load
    if unit.relay is not None:
        yield unit.relay.id, unit.relay.contact_amps, motor
