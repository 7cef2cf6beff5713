"""What was done and read on a visit: the terms in which everything that happens is told."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import TypeVar

from plentar.core.errors import BadInput
from plentar.core.points import resolve
from plentar.core.quantity import Quantity
from plentar.core.ratings import Tolerance
from plentar.core.unit import Unit

COMPLAINTS = {
    "not-enough-heat": "Not enough heat",
    "no-heat": "No heat at all",
    "heat-will-not-stop": "Heat will not stop",
    "heat-in-cooling": "Heat runs in cooling, or the bill jumped",
    "blower-will-not-run": "Blower will not run",
    "blower-will-not-stop": "Blower will not stop",
    "control-fuse-blows": "Control fuse blows, or thermostat restarts",
    "breaker-trips-or-burnt": "Breaker trips, smell or melted wire",
    "clicking": "Clicking during heat",
    "slow-to-start": "Very slow to start",
    "no-power": "No power, or blank thermostat",
    "check-up": "Pre-season check",
}
OVERLOAD_QUANTITIES = frozenset({Quantity.OHMS})
#: Contacts, whose ohms are read at rest and with the coil driven.
DRIVEN_KINDS = frozenset({"switch", "contact"})


@dataclass(frozen=True, slots=True, kw_only=True)
class _Event:
    """``t_s`` counts from the start of the visit; ``lead_s`` is what the watch missed."""

    t_s: float
    lead_s: float = 0.0
    key: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Power(_Event):
    """A breaker was moved, or the unit was proved dead; all circuits unless one is named."""

    state: str
    circuit: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Calls(_Event):
    """What is asked for from now on; ``lifted`` means by jumper, thermostat wires off."""

    calls: frozenset[str]
    lifted: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading(_Event):
    """A number off a meter. An overload is infinity."""

    quantity: Quantity
    at: str
    value: float
    meter: str = ""
    note: str = ""
    driven: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Observed(_Event):
    """Seen or heard: a switch or the blower acted, or a limit cycles or holds."""

    action: str
    part: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Replaced(_Event):
    """A repair: older evidence about this component counts no more."""

    component: str


Event = Power | Calls | Reading | Observed | Replaced
_E = TypeVar("_E", bound=_Event)


#: What the look at the whole unit goes over, and whether it may be burnt.
LOOK_ITEMS = {
    "filter": ("Filter", False),
    "indoor-coil": ("Indoor coil", False),
    "wheel": ("Blower wheel", False),
    "capacitor": ("Capacitor", False),
    "strands": ("Loose strands", False),
    "insulation": ("Insulation", True),
    "spades": ("Spades", True),
    "lugs": ("Lugs", True),
    "panel": ("Panel and disconnect", True),
}
LOOK_STATES = ("fine", "poor", "burnt")


@dataclass(frozen=True, slots=True)
class Looked:
    """One item of the look at the whole unit: a key of LOOK_ITEMS, one of LOOK_STATES."""

    t_s: float
    item: str
    state: str


@dataclass(frozen=True, slots=True)
class Answered:
    """A stop-now finding that was made safe: how, and by whom."""

    t_s: float
    code: str
    component: str
    how: str
    by: str = ""


@dataclass(frozen=True, slots=True)
class Settings:
    """How this shop judges."""

    band: Tolerance = Tolerance.PLATE
    altitude_ft: float = 0.0


@dataclass(frozen=True, slots=True)
class Visit:
    """A complaint, the shop's settings, and the events in order of time."""

    complaint: str | None = None
    settings: Settings = Settings()
    events: tuple[Event, ...] = field(default=())
    looked: tuple[Looked, ...] = ()
    answered: tuple[Answered, ...] = ()

    def of_kind(self, kind: type[_E]) -> Iterator[_E]:
        """The events of one kind, in order."""
        return (event for event in self.events if isinstance(event, kind))


def check_visit(unit: Unit, visit: Visit) -> None:
    """Raises BadInput (path below ``visit``) where an event does not fit the unit."""
    last_s = 0.0
    for index, event in enumerate(visit.events):
        path = f"events[{index}]"
        if event.t_s < last_s:
            raise BadInput(f"{path}.t", f"{event.t_s:g} s is before the event above it")
        last_s = event.t_s
        try:
            check_event(unit, event)
        except BadInput as bad:
            raise bad.under(path) from None


def check_event(unit: Unit, event: Event) -> None:
    """Raises BadInput where one event names what the unit does not have."""
    match event:
        case Power(circuit=circuit) if circuit is not None and circuit not in unit.circuit_by_id:
            raise BadInput("circuit", f"no circuit {circuit!r}")
        case Reading():
            point = resolve(unit, event.at)
            if event.quantity not in point.quantities:
                may = ", ".join(point.quantities)
                raise BadInput("read", f"{event.quantity} is not read at {event.at} (only {may})")
            if event.value == float("inf") and event.quantity not in OVERLOAD_QUANTITIES:
                raise BadInput("value", "OL is a reading of ohms only")
            if event.driven and (
                event.quantity is not Quantity.OHMS or point.kind not in DRIVEN_KINDS
            ):
                raise BadInput("driven", "only ohms across a switch or contact are read driven")
            if event.value < 0 and event.quantity is not Quantity.TEMP_F:
                raise BadInput("value", f"a reading of {event.quantity} is not below zero")
        case Observed(action="on" | "off", part=part):
            if part != "blower" and part not in unit.switch_by_id:
                raise BadInput("part", f"no switch {part!r}, and not the blower")
        case Observed(part=part):
            if part not in unit.element_by_id and part not in {limit.id for limit in unit.limits}:
                raise BadInput("part", f"no limit or element {part!r}")
        case Replaced(component=component) if component not in unit.components:
            raise BadInput("replaced", f"no component {component!r}")
        case _:
            pass
