"""What a circuit needs: its load, its minimum, and the breaker and conductors that would pass."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from plentar.core.supply.conductors import allowed_amps, largest_breaker_amps, next_size_amps, terminal_amps
from plentar.core.supply.loads import Load, Supplied, supplied
from plentar.core.tables import thresholds as th
from plentar.core.tables.conductors import AMPACITY
from plentar.core.unit.parts import CircuitPlate, Conductor
from plentar.core.unit.unit import Unit

#: How a wire lies of which nothing is said.
AS_USUAL = Conductor("6", "copper", insulation_c=90, cable="other", ambient_c=30.0)


@dataclass(frozen=True, slots=True)
class Sized:
    """One circuit: load and minimum, A; the breaker from the smallest standard size to the plate's
    maximum, None where no standard size reaches; the smallest conductor of each metal, AWG."""

    id: str
    load_amps: float
    min_circuit_amps: float
    breaker_amps: tuple[float | None, float | None]
    copper_awg: str | None
    aluminium_awg: str | None


def sized(unit: Unit) -> tuple[Sized, ...]:
    """Every circuit of a unit, by its plate's figures where there are any."""
    return tuple(needs_of(one) for one in supplied(unit))[: len(unit.circuits)]


def feeder_sized(unit: Unit) -> Sized | None:
    """The feeder ahead of the circuits, where there is one."""
    return needs_of(list(supplied(unit))[-1]) if unit.feeder is not None else None


def circuit_of(elements_amps: float, motor_amps: float, lies: Conductor) -> Sized:
    """What a circuit of so much load needs, A, its wire laid like ``lies``; no plate is known."""
    minimum = th.CONTINUOUS_LOAD * (elements_amps + motor_amps)
    return _needs("", Load(elements_amps, motor_amps, minimum), lies, None)


def needs_of(one: Supplied) -> Sized:
    return _needs(one.id, one.load, one.conductor, one.plate)


def _needs(name: str, load: Load, wire: Conductor | None, plate: CircuitPlate | None) -> Sized:
    least = next_size_amps(load.minimum)
    most = plate.max_breaker_amps if plate else None
    copper, aluminium = (
        smallest_awg(replace(wire or AS_USUAL, material=metal), load.total, load.minimum, least)
        for metal in ("copper", "aluminium")
    )
    return Sized(name, load.total, load.minimum, (least, most or least), copper, aluminium)


def smallest_awg(like: Conductor, load: float, minimum: float, breaker: float | None) -> str | None:
    """The smallest size of a metal, laid like this one, that takes load, minimum and breaker, A."""
    sizes: Iterable[str] = AMPACITY[like.material]
    fits = (awg for awg in sizes if _takes(replace(like, awg=awg), load, minimum, breaker))
    return next(fits, None) if breaker is not None else None


def _takes(wire: Conductor, load: float, minimum: float, breaker: float | None) -> bool:
    allowed, largest = allowed_amps(wire, breaker), largest_breaker_amps(wire, breaker)
    if allowed is None or largest is None or breaker is None:
        return False
    return terminal_amps(wire, breaker) >= minimum and allowed >= load and largest >= breaker
