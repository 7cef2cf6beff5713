"""What a unit is made of: frozen, plain, each part for itself.

The reference direction of every current, said once: in a rung from leg L1 to leg L2; in the
24 V circuit from R through the coil to C.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

from plentar.core.quantity import Band
from plentar.core.tables import thresholds as th
from plentar.core.tables.devices import BLOWER_RELAYS, CONTROLS, DeviceKind
from plentar.core.unit.ratings import Rating

#: What there is to choose from, by the word of the file contract.
CONTROL_KINDS, RELAY_KINDS = CONTROLS, BLOWER_RELAYS
#: What a terminal of the blower's relay may be wired to, ``heat`` the load side of the tap's switch.
RELAY_ENDS = ("L1", "L2", "blower", "heat", "none")
#: What is ahead of a circuit besides its breaker.
DISCONNECTS = ("switch", "fused", "breaker")
#: The motor with a run capacitor; the other kind holds its airflow electronically.
PSC = "psc"
#: The windows that a part may print.
WINDOWS = ("on_s", "off_s")
#: The thermostat's terminals, and those of them that ask for strip heat.
CALLS = ("W1", "W2", "G", "Y", "O")
#: Those that act outdoors alone: the compressor's, and the reversing valve's.
OUTDOOR_CALLS = frozenset({"Y", "O"})
#: Where a circuit's breaker is: in the unit itself, or in the panel, its wire behind it.
BREAKER_PLACES = ("unit", "panel")
HEAT_CALLS = frozenset({"W1", "W2"})


@dataclass(frozen=True, slots=True)
class Conductor:
    """The supply wire of a circuit, one way ``length_ft`` long. Terminals that nobody has given
    are taken by size, see ``conductors``."""

    awg: str
    material: str
    insulation_c: int = 90
    termination_c: int | None = None
    cable: str = "other"
    ambient_c: float = 30.0
    length_ft: float = 0.0
    #: Measured, and not guessed: half or twice as long is allowed for before more than a watch is said.
    length_measured: bool = False


@dataclass(frozen=True, slots=True)
class CircuitPlate:
    """What the nameplate says of one circuit. ``dual`` are its volts where it gives two."""

    min_circuit_amps: float | None = None
    max_breaker_amps: float | None = None
    dual: str | None = None


@dataclass(frozen=True, slots=True)
class Circuit:
    """One supply circuit: two legs behind one breaker. What is None is not judged.

    ``subdivided``: the kit splits it inside, each part behind a breaker of its own.
    ``breaker_legs``: 1 where the breaker opens and protects only one of the two. ``breaker_at`` is one of
    BREAKER_PLACES: between its line side and the kit's lugs lies the supply wire, or none of it.
    """

    id: str
    rated_volts: float
    breaker_amps: float | None = None
    conductor: Conductor | None = None
    plate: CircuitPlate | None = None
    subdivided: bool | None = None
    breaker_legs: int = 2
    breaker_at: str = "panel"


@dataclass(frozen=True, slots=True)
class Feeder:
    """What lies ahead of some circuits: a breaker or a disconnect, and the wire from there. It is
    the component ``feeder`` of its unit."""

    circuits: tuple[str, ...]
    breaker_amps: float | None = None
    conductor: Conductor | None = None
    disconnect: str | None = None
    breaker_legs: int = 2


@dataclass(frozen=True, slots=True)
class OutdoorThermostat:
    """It may withhold a call while it is warmer outside than where it closes."""

    closes_below_f: float | None = None


@dataclass(frozen=True, slots=True)
class Limit:
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
        return Rating(self.rated_watts, self.rated_volts)


@dataclass(frozen=True, slots=True)
class Coil:
    """A control coil: rated volts, cold ohms as an ohmmeter reads them, running VA."""

    volts: float = 24.0
    ohms: Band | None = None
    va: float | None = None


@dataclass(frozen=True, slots=True)
class Switch:
    """One contact of a control device and its windows, s; ``typical`` names those (``on_s``, ``off_s``)
    that nobody read off the part: they are its kind's."""

    id: str
    on_s: Band
    off_s: Band
    contact_amps: float | None = None
    role: str = "element"
    typical: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Wire:
    """A wire on a terminal of a device, where it leads, and how it is told from others."""

    id: str
    terminal: str
    to: str
    colour: str = ""
    label: str = ""
    awg: str = ""


class Device(ABC):
    """What has a coil of a known kind. ``part`` names its part kind and ``wired`` what lies on its
    terminals, where somebody looked."""

    __slots__ = ()
    coil: Coil
    part: str | None
    wired: tuple[Wire, ...]

    @property
    @abstractmethod
    def kind(self) -> DeviceKind:
        """What a device of its type is."""

    @property
    def coil_ohms(self) -> Band:
        return self.coil.ohms or self.kind.coil_ohms

    @property
    def coil_va(self) -> float:
        return self.coil.va or self.kind.coil_va


@dataclass(frozen=True, slots=True)
class Control(Device):
    """A sequencer, contactor or heat relay.

    ``call`` is a thermostat terminal; ``through`` is the auxiliary switch that passes the
    24 V on instead. Exactly one of the two is given. ``outdoor`` stands in the way of the call.
    """

    id: str
    type: str
    coil: Coil
    switches: tuple[Switch, ...]
    call: str | None = None
    through: str | None = None
    outdoor: OutdoorThermostat | None = None
    part: str | None = None
    wired: tuple[Wire, ...] = ()

    @property
    def kind(self) -> DeviceKind:
        return CONTROLS[self.type]


@dataclass(frozen=True, slots=True)
class RelayWires:
    """What is on each terminal of the set in use: a key of RELAY_ENDS."""

    common: str = "none"
    no: str = "none"
    nc: str = "none"


@dataclass(frozen=True, slots=True)
class BlowerRelay(Device):
    """What brings the blower on; ``typical`` as of a switch. ``printed``: terminals of its part with what
    is printed at them, where that is another name."""

    id: str
    type: str
    call: str
    coil: Coil
    on_s: Band
    off_s: Band
    contact_amps: float | None = None
    wires: RelayWires | None = None
    part: str | None = None
    wired: tuple[Wire, ...] = ()
    typical: frozenset[str] = frozenset()
    printed: tuple[tuple[str, str], ...] = ()

    @property
    def kind(self) -> DeviceKind:
        return BLOWER_RELAYS[self.type]


@dataclass(frozen=True, slots=True)
class Interlock:
    """How heat is kept from running without the blower. Of a normally-closed contact ``tap`` is the
    switch behind which its wire begins; None where nobody has followed it."""

    kind: str
    tap: str | None = None
    switch: str | None = None


#: Where the lead of a speed that is not in use lies: capped, or on the blower's relay.
SPEED_LEADS = ("capped", "relay")


@dataclass(frozen=True, slots=True)
class OtherSpeed:
    """A second speed of the motor: its name, and where its lead lies. While the motor runs on the other it is
    live all the same: the windings are one."""

    tap: str
    lead: str = SPEED_LEADS[0]


@dataclass(frozen=True, slots=True)
class Blower:
    circuit: str
    motor: str
    interlock: Interlock
    relay: BlowerRelay | None = None
    fla: float | None = None
    typical_amps: float | None = None
    capacitor_uf: float | None = None
    rated_cfm: float | None = None
    tons: float | None = None
    min_cfm: float | None = None
    speed_tap: str | None = None
    other_speed: OtherSpeed | None = None
    #: Of a motor with 24 V taps of its own and no relay: each call that runs it, and the tap that it is on.
    taps: tuple[tuple[str, int], ...] = ()

    @property
    def tap_of(self) -> dict[str, int]:
        return dict(self.taps)

    @property
    def tied(self) -> bool | None:
        """Whether heat brings it; None where nobody has looked."""
        if HEAT_CALLS & self.tap_of.keys():
            return True
        return None if self.interlock.kind == "unknown" else self.interlock.kind != "none"

    @property
    def air_cfm(self) -> float | None:
        """The air that it moves as rated; 400 CFM a ton where only the tons are known."""
        return self.rated_cfm or (400.0 * self.tons if self.tons else None)

    @property
    def still_below_amps(self) -> float:
        """Below this the motor stands: 0.5 A, or a third of what it is due where that is less."""
        running, floor = self.running_amps, th.DEAD_AMPS
        return min(floor, running / 3) if running else floor

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
    #: The tap that the primary is on; None where nobody has looked.
    primary_volts: float | None = None


@dataclass(frozen=True, slots=True)
class OtherLoad:
    """A control load outside the air handler, such as the outdoor contactor."""

    id: str
    call: str
    va: float
    label: str = ""


Part = Element | Switch | Limit | Link
