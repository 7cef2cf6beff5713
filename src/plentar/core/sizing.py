"""What a circuit needs: its load, its minimum, and the breaker and conductors that would pass."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from plentar.core.checks.circuit import load_of
from plentar.core.conductors import (
    allowed_amps,
    largest_breaker_amps,
    next_size_amps,
    terminal_amps,
)
from plentar.core.parts import Circuit, Conductor
from plentar.core.tables.conductors import AMPACITY
from plentar.core.unit import Unit

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
    return tuple(_sized(unit, circuit) for circuit in unit.circuits)


def _sized(unit: Unit, circuit: Circuit) -> Sized:
    load = load_of(unit, circuit)
    least = next_size_amps(load.minimum)
    most = circuit.plate.max_breaker_amps if circuit.plate else None
    lies = circuit.conductor or AS_USUAL
    smallest = {
        metal: smallest_awg(replace(lies, material=metal), load.total, load.minimum, least)
        for metal in AMPACITY
    }
    return Sized(
        circuit.id, load.total, load.minimum, (least, most or least),
        smallest["copper"], smallest["aluminium"],
    )  # fmt: skip


def smallest_awg(like: Conductor, load: float, minimum: float, breaker: float | None) -> str | None:
    """The smallest size of a metal, laid like this one, that takes load, minimum and breaker, A."""
    sizes: Iterable[str] = AMPACITY[like.material]
    fits = (awg for awg in sizes if _takes(replace(like, awg=awg), load, minimum, breaker))
    return next(fits, None) if breaker is not None else None


def _takes(wire: Conductor, load: float, minimum: float, breaker: float | None) -> bool:
    allowed, largest = allowed_amps(wire), largest_breaker_amps(wire)
    if allowed is None or largest is None or breaker is None:
        return False
    return terminal_amps(wire) >= minimum and allowed >= load and largest >= breaker
