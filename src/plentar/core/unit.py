"""What a unit is: circuits, rungs, controls, blower. Frozen, and checked when made.

The reference direction of every current, said once: in a rung from leg L1 to leg L2; in the
24 V circuit from R through the coil to C.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, fields
from functools import cached_property
from typing import TYPE_CHECKING

from plentar.core.quantity import Band
from plentar.core.ratings import Rating
from plentar.core.tables.coils import TYPICAL_OHMS, TYPICAL_VA

if TYPE_CHECKING:
    from plentar.core.points import Point

CALLS = ("W1", "W2", "G", "Y")


@dataclass(frozen=True, slots=True)
class Conductor:
    """The supply wire of a circuit, one way ``length_ft`` long."""

    awg: str
    material: str
    insulation_c: int = 90
    termination_c: int = 60
    cable: str = "other"
    ambient_c: float = 30.0
    length_ft: float = 0.0


@dataclass(frozen=True, slots=True)
class CircuitPlate:
    """What the nameplate says of one circuit."""

    min_circuit_amps: float | None = None
    max_breaker_amps: float | None = None


@dataclass(frozen=True, slots=True)
class Circuit:
    """One supply circuit: two legs behind one breaker. What is None is not judged."""

    id: str
    rated_volts: float
    breaker_amps: float | None = None
    conductor: Conductor | None = None
    plate: CircuitPlate | None = None


@dataclass(frozen=True, slots=True)
class Limit:
    """A re-closing thermal limit."""

    id: str
    opens_f: float | None = None
    closes_f: float | None = None


@dataclass(frozen=True, slots=True)
class Link:
    """A one-shot fusible link."""

    id: str


@dataclass(frozen=True, slots=True)
class Element:
    """A heating element and the parts in series with it, from L1 to L2."""

    id: str
    rated_watts: float
    rated_volts: float
    circuit: str
    rung: tuple[str, ...]

    @property
    def rating(self) -> Rating:
        """Its plate as a rating."""
        return Rating(self.rated_watts, self.rated_volts)


@dataclass(frozen=True, slots=True)
class Coil:
    """A control coil: rated volts, cold ohms as an ohmmeter reads them, running VA."""

    volts: float = 24.0
    ohms: Band | None = None
    va: float | None = None


@dataclass(frozen=True, slots=True)
class Switch:
    """One contact of a control device with its printed windows in seconds."""

    id: str
    on_s: Band
    off_s: Band
    contact_amps: float | None = None
    role: str = "element"


@dataclass(frozen=True, slots=True)
class Control:
    """A sequencer, contactor or heat relay.

    ``call`` is a thermostat terminal; ``through`` is the auxiliary switch that passes the
    24 V on instead. Exactly one of the two is given.
    """

    id: str
    type: str
    coil: Coil
    switches: tuple[Switch, ...]
    call: str | None = None
    through: str | None = None

    @property
    def coil_ohms(self) -> Band:
        """Cold ohms of the coil, by plate or typical of its type."""
        return self.coil.ohms or TYPICAL_OHMS[self.type]

    @property
    def coil_va(self) -> float:
        """Running VA of the coil, by plate or typical of its type."""
        return self.coil.va or TYPICAL_VA[self.type]


@dataclass(frozen=True, slots=True)
class BlowerRelay:
    """The relay that brings the blower on for its call."""

    id: str
    type: str
    call: str
    coil: Coil
    on_s: Band
    off_s: Band
    contact_amps: float | None = None

    @property
    def coil_ohms(self) -> Band:
        """Cold ohms of the coil, by plate or typical of an AC relay."""
        return self.coil.ohms or TYPICAL_OHMS["relay-ac"]

    @property
    def coil_va(self) -> float:
        """Running VA of the coil, by plate or typical of an AC relay."""
        return self.coil.va or TYPICAL_VA["relay-ac"]


@dataclass(frozen=True, slots=True)
class Interlock:
    """How heat is kept from running without the blower."""

    kind: str
    tap: str | None = None
    switch: str | None = None


@dataclass(frozen=True, slots=True)
class Blower:
    """The blower motor, its relay and its tie to the heat."""

    circuit: str
    motor: str
    interlock: Interlock
    relay: BlowerRelay | None = None
    fla: float | None = None
    typical_amps: float | None = None
    capacitor_uf: float | None = None
    rated_cfm: float | None = None
    tons: float | None = None

    @property
    def air_cfm(self) -> float | None:
        """The air that it moves as rated; 400 CFM a ton where only the tons are known."""
        return self.rated_cfm or (400.0 * self.tons if self.tons else None)

    @property
    def running_amps(self) -> float | None:
        """Typical amps, or 0.65 of full-load amps where only those are known."""
        if self.typical_amps is not None:
            return self.typical_amps
        return None if self.fla is None else 0.65 * self.fla


@dataclass(frozen=True, slots=True)
class ControlPower:
    """The 24 V transformer with its fuse."""

    circuit: str
    va: float = 40.0
    volts: float = 24.0
    fuse_amps: float | None = None
    c_grounded: bool = True


@dataclass(frozen=True, slots=True)
class OtherLoad:
    """A control load outside the air handler, such as the outdoor contactor."""

    id: str
    call: str
    va: float
    label: str = ""


Part = Element | Switch | Limit | Link


@dataclass(frozen=True)
class Unit:
    """An air handler as the visit file describes it.

    Raises BadInput (with the path below ``unit``) where parts do not fit together.
    """

    id: str
    label: str
    kind: str
    circuits: tuple[Circuit, ...]
    elements: tuple[Element, ...]
    controls: tuple[Control, ...]
    control_power: ControlPower
    blower: Blower | None = None
    limits: tuple[Limit, ...] = ()
    links: tuple[Link, ...] = ()
    other_loads: tuple[OtherLoad, ...] = field(default=())

    def __post_init__(self) -> None:
        from plentar.core.unit_rules import check_unit  # noqa: PLC0415  (rules read the types above)

        check_unit(self)

    def __hash__(self) -> int:
        """Of all that it is made of, worked out once."""
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash(tuple(getattr(self, item.name) for item in fields(self)))

    @cached_property
    def circuit_by_id(self) -> dict[str, Circuit]:
        """Circuits by id."""
        return {circuit.id: circuit for circuit in self.circuits}

    @cached_property
    def element_by_id(self) -> dict[str, Element]:
        """Elements by id."""
        return {element.id: element for element in self.elements}

    @cached_property
    def control_by_id(self) -> dict[str, Control]:
        """Control devices by id."""
        return {control.id: control for control in self.controls}

    @cached_property
    def control_of_switch(self) -> dict[str, Control]:
        """The device that each switch belongs to, by the switch's id."""
        return {switch.id: control for control in self.controls for switch in control.switches}

    @cached_property
    def switch_by_id(self) -> dict[str, Switch]:
        """Switches by id."""
        return {switch.id: switch for control in self.controls for switch in control.switches}

    @cached_property
    def idle_switches(self) -> frozenset[str]:
        """Switches that carry nothing: spares in a stack. What is wrong with one matters to nobody."""
        used = {part for element in self.elements for part in element.rung}
        used |= {control.through for control in self.controls if control.through}
        if self.blower and self.blower.interlock.switch:
            used.add(self.blower.interlock.switch)
        return frozenset(self.switch_by_id) - used

    @cached_property
    def part_by_id(self) -> dict[str, Part]:
        """Everything that can stand in a rung, by id."""
        parts: list[Part] = [*self.elements, *self.switch_by_id.values(), *self.limits, *self.links]
        return {part.id: part for part in parts}

    @cached_property
    def components(self) -> frozenset[str]:
        """Everything that can be replaced or repaired, by id."""
        relay = self.blower.relay if self.blower else None
        return frozenset({
            *self.part_by_id, *self.control_by_id, *self.circuit_by_id,
            *(f"{element.id}.wire" for element in self.elements),
            *(load.id for load in self.other_loads), *CALLS, "R", "transformer", "control-fuse",
            "airflow", *(["blower", "capacitor"] if self.blower else []),
            *([relay.id] if relay else []),
        })  # fmt: skip

    @cached_property
    def point_by_name(self) -> dict[str, Point]:
        """The named reading points, by name."""
        from plentar.core.points import points  # noqa: PLC0415  (points read the types above)

        return {point.name: point for point in points(self)}

    def elements_on(self, circuit_id: str) -> Iterator[Element]:
        """The elements of one circuit, in order."""
        return (element for element in self.elements if element.circuit == circuit_id)

    def elements_through(self, part_id: str) -> Iterator[Element]:
        """The elements whose rung holds this part, in order."""
        return (element for element in self.elements if part_id in element.rung)

    def rung_switches(self, element: Element) -> Iterator[Switch]:
        """The switches in an element's rung, in order."""
        return (self.switch_by_id[part] for part in element.rung if part in self.switch_by_id)
