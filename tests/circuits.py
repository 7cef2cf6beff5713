"""Seeded random units, states, times and faults for the circuit model."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from random import Random

from plentar.core.circuit.faults import Fault, faults_of
from plentar.core.errors import BadInput
from plentar.core.unit.kits import KIT_CONTROLS, KIT_KW, KIT_TIES, KIT_VOLTS
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event, Power
from plentar.store.demo.plates import plates
from tests.kits import Kit, build_kit

PLATES = tuple(plates().values())


@dataclass(frozen=True)
class Case:
    """One combination."""

    unit: Unit
    faults: tuple[Fault, ...]
    events: tuple[Event, ...]
    t_s: float

    def __str__(self) -> str:
        return f"{self.unit.id} {[f.id for f in self.faults]} {self.events} t={self.t_s:.0f}"


def random_unit(rng: Random) -> Unit:
    """A demo plate or a kit; some with C off the frame."""
    if rng.random() < 0.5:
        unit = rng.choice(PLATES)
    else:
        count = rng.randint(1, 4)
        watts = tuple(1000 * rng.choice(KIT_KW) for _ in range(count))
        kit = Kit(
            watts,
            rng.choice(KIT_VOLTS),
            rng.choice(sorted(KIT_CONTROLS)),
            rng.randint(1, min(2, count)),
            rng.choice(sorted(KIT_TIES)),
        )
        try:
            unit = build_kit(kit, "kit", "Kit")
        except BadInput:
            unit = build_kit(replace(kit, tie="g-with-w", circuits=1), "kit", "Kit")
    if rng.random() < 0.2:
        power = replace(unit.control_power, c_grounded=False)
        unit = replace(unit, control_power=power)
    return unit


def random_events(rng: Random, unit: Unit) -> tuple[Event, ...]:
    """A few calls and breakers, in order."""
    t_s, events = 0.0, []
    for _ in range(rng.randint(0, 3)):
        t_s += rng.uniform(1, 400)
        if rng.random() < 0.8:
            asked = frozenset(c for c in ("W1", "W2", "G", "Y") if rng.random() < 0.5)
            events.append(Calls(t_s=t_s, calls=asked, lifted=rng.random() < 0.2))
        else:
            circuit = rng.choice([None, *(c.id for c in unit.circuits)])
            events.append(Power(t_s=t_s, state=rng.choice(["on", "off"]), circuit=circuit))
    return tuple(events)


def random_cases(count: int, seed: int) -> Iterator[Case]:
    """Zero to two faults each."""
    rng = Random(seed)
    for _ in range(count):
        unit = random_unit(rng)
        faults = tuple(rng.sample(list(faults_of(unit)), rng.randint(0, 2)))
        yield Case(unit, faults, random_events(rng, unit), rng.uniform(0, 1500))
