"""The faults as data: which there are on a unit, how frequent, and what each changes.

A fault is ``component:mode``, of a size and at a place; without them it is of the size that a
nominal prediction uses. The ranges that a judge expects are in ``judge/hypotheses``.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

from plentar.core.errors import BadInput
from plentar.core.quantity import Band
from plentar.core.unit import CALLS, Unit
from plentar.core.wiring import CONTACT_OHMS, Effects, Wiring

LOOSE_OHMS = 0.12
BURNT_OHMS = 0.1
GROUNDED_OHMS = 1.0
HIGH_RESISTANCE, LOW_RESISTANCE = 1.5, 0.7
LOW_VOLTS, WEAK_TRANSFORMER = 205 / 240, 0.70
COIL_SHORTED = 0.15
LOCKED_ROTOR = 4.0
#: A slow device takes this often the longest time of its window; a stretch of it in the judge.
SLOW = Band(2.0, 8.0)
LOW_AIRFLOW, WEAK_CAPACITOR_AIRFLOW, WEAK_CAPACITOR = 0.45, 0.80, 0.75

#: Relative frequency of one instance; starting weights, a shop's to change.
FREQUENCY = {
    "stuck-open": 10.0, "stuck-closed": 8.0, "slow": 4.0, "coil-open": 4.0, "coil-shorted": 2.0,
    "no-rectifier-output": 2.0, "burnt": 4.0, "no-stuck-open": 5.0, "no-welded": 5.0,
    "nc-stuck-open": 5.0, "nc-welded": 5.0, "high-resistance": 2.0, "low-resistance": 1.0,
    "grounded": 1.0, "weak": 2.0, "no-supply": 4.0, "loose": 5.0, "low-volts": 1.0, "dead": 3.0,
    "no-call": 5.0, "always": 3.0, "to-ground": 2.0, "locked": 2.0, "weak-capacitor": 5.0,
    "low": 8.0,
}  # fmt: skip
_OPEN_FREQUENCY = {"element": 6.0, "limit": 4.0, "link": 3.0, "circuit": 5.0, "fuse": 4.0,
                   "blower": 3.0, "wire": 2.0}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Fault:
    """One fault of one unit."""

    component: str
    mode: str
    frequency: float
    #: In the mode's own unit: a factor, ohms, or a share; None is the nominal size.
    size: float | None = None
    #: Which leg, joint, share of an element's length, or stretch of lateness ("2…4"); empty is
    #: the nominal place.
    place: str = ""

    @property
    def id(self) -> str:
        """Its name in the file contract."""
        return f"{self.component}:{self.mode}"


@dataclass(frozen=True)
class Harm:
    """What a set of faults does: to the network, and to how devices behave.

    ``no_action`` are coils that never act; ``slow`` devices act late; ``stuck`` holds what the
    relay contacts do; ``airflow`` and ``capacitor`` are shares of rated.
    """

    effects: Effects = field(default_factory=Effects)
    no_action: frozenset[str] = frozenset()
    #: Devices that act late: this often the longest time of their windows.
    slow: Mapping[str, Band] = field(default_factory=dict)
    weak_limits: frozenset[str] = frozenset()
    no_call: frozenset[str] = frozenset()
    always: frozenset[str] = frozenset()
    airflow: float = 1.0
    capacitor: float = 1.0
    blower_moves_air: bool = True
    no_dc: frozenset[str] = frozenset()
    armature_held: bool = False


def faults_of(unit: Unit) -> Iterator[Fault]:
    """Every single fault that this unit can have, in the order of its parts."""
    yield from _element_faults(unit)
    yield from _device_faults(unit)
    for limit in unit.limits:
        yield _open(limit.id, "limit")
        yield _of(limit.id, "weak")
    for link in unit.links:
        yield _open(link.id, "link")
    yield _of("airflow", "low")
    for circuit in unit.circuits:
        yield _open(circuit.id, "circuit")
        for mode in ("no-supply", "loose", "low-volts"):
            yield _of(circuit.id, mode)
    yield from _control_power_faults(unit)
    yield from _blower_faults(unit)


def _element_faults(unit: Unit) -> Iterator[Fault]:
    for element in unit.elements:
        yield _open(element.id, "element")
        for mode in ("high-resistance", "low-resistance", "grounded"):
            yield _of(element.id, mode)
        yield Fault(f"{element.id}.wire", "open", _OPEN_FREQUENCY["wire"])


def _device_faults(unit: Unit) -> Iterator[Fault]:
    for control in unit.controls:
        for switch in control.switches:
            for mode in ("stuck-open", "stuck-closed", "burnt"):
                yield _of(switch.id, mode)
        for mode in ("coil-open", "coil-shorted"):
            yield _of(control.id, mode)
        if control.type == "sequencer":
            yield _of(control.id, "slow")
        if control.type == "relay-dc":
            yield _of(control.id, "no-rectifier-output")


def _control_power_faults(unit: Unit) -> Iterator[Fault]:
    yield _of("transformer", "dead")
    yield Fault("transformer", "weak", 1.0)
    yield _open("control-fuse", "fuse")
    used = _used_calls(unit)
    for call in ("W1", "W2", "G"):
        if call in used:
            yield _of(call, "no-call")
            yield _of(call, "always")
    for terminal in ("R", *CALLS):
        if terminal == "R" or terminal in used:
            yield _of(terminal, "to-ground")
    for load in unit.other_loads:
        yield _of(load.id, "coil-shorted")


def _blower_faults(unit: Unit) -> Iterator[Fault]:
    blower = unit.blower
    if blower is None:
        return
    relay = blower.relay
    if relay is not None:
        for mode in ("coil-open", "coil-shorted"):
            yield Fault(relay.id, mode, 2.0)
        for mode in ("no-stuck-open", "no-welded"):
            yield _of(relay.id, mode)
        if blower.interlock.kind == "nc-contact":
            for mode in ("nc-stuck-open", "nc-welded"):
                yield _of(relay.id, mode)
        if relay.type == "time-delay":
            yield _of(relay.id, "slow")
    yield _open("blower", "blower")
    yield _of("blower", "locked")
    if blower.motor == "psc":
        yield _of("blower", "weak-capacitor")


def _of(component: str, mode: str) -> Fault:
    return Fault(component, mode, FREQUENCY[mode])


def _open(component: str, kind: str) -> Fault:
    return Fault(component, "open", _OPEN_FREQUENCY[kind])


def _used_calls(unit: Unit) -> set[str]:
    used = {control.call for control in unit.controls if control.call}
    used |= {load.call for load in unit.other_loads}
    if unit.blower and unit.blower.relay:
        used.add(unit.blower.relay.call)
    return used


def find_faults(unit: Unit, ids: Iterable[str]) -> tuple[Fault, ...]:
    """The faults of these ids; raises BadInput for one that this unit can't have."""
    known = {fault.id: fault for fault in faults_of(unit)}
    found = []
    for fault_id in ids:
        if fault_id == "none":
            continue
        if fault_id not in known:
            raise BadInput("fault", f"this unit has no fault {fault_id!r}")
        found.append(known[fault_id])
    return tuple(found)


def joints(wiring: Wiring, element_id: str) -> list[str]:
    """The wires of a rung, lug to lug, as branches; the first is the nominal place of a break.

    That is the joint after the first part; where a rung shares its start, the first of its own.
    """
    count = len(wiring.unit.element_by_id[element_id].rung) + 1
    names = [f"{element_id}.wire.{n}" for n in (*range(1, count), 0)]
    return [name for name in names if name in wiring.topology.branch_index]


def _size(fault: Fault, nominal: float) -> float:
    return nominal if fault.size is None else fault.size


def harm_of(wiring: Wiring, faults: Iterable[Fault]) -> Harm:
    """What these faults do together, at their nominal sizes."""
    work = _Harm(wiring)
    for fault in faults:
        work.add(fault)
    return work.done()


class _Harm:
    """Adds up faults."""

    def __init__(self, wiring: Wiring) -> None:
        self.wiring, self.unit = wiring, wiring.unit
        self.ohms: dict[str, float] = {}
        self.opened: set[str] = set()
        self.closed: set[str] = set()
        self.emf: dict[str, float] = {}
        self.sets: dict[str, set[str]] = {
            name: set() for name in ("no_action", "weak_limits", "no_call", "always", "no_dc")
        }
        self.slow: dict[str, Band] = {}
        self.airflow = 1.0
        self.capacitor = 1.0
        self.moves_air = True
        self.armature_held = False

    def done(self) -> Harm:
        """The sum."""
        effects = Effects(self.ohms, frozenset(self.opened), frozenset(self.closed), self.emf)
        named = {name: frozenset(members) for name, members in self.sets.items()}
        return Harm(
            effects, slow=self.slow, airflow=self.airflow, capacitor=self.capacitor,
            blower_moves_air=self.moves_air, armature_held=self.armature_held, **named,
        )  # fmt: skip

    def add(self, fault: Fault) -> None:
        """One more fault."""
        part, mode = fault.component, fault.mode
        relay = self.unit.blower.relay if self.unit.blower else None
        if part.endswith(".wire"):
            self.opened.add(fault.place or joints(self.wiring, part.removesuffix(".wire"))[0])
        elif part in self.unit.element_by_id:
            self._element(fault)
        elif part in self.unit.circuit_by_id:
            self._circuit(fault)
        elif mode in ("no-call", "always"):
            self.sets[mode.replace("-", "_")].add(part)
        elif mode == "to-ground":
            self.closed.add(f"{part}.ground")
        elif part == "transformer":
            self.emf["transformer"] = 0.0 if mode == "dead" else _size(fault, WEAK_TRANSFORMER)
        elif part == "airflow":
            self.airflow *= _size(fault, LOW_AIRFLOW)
        elif part == "blower":
            self._blower(fault)
        elif relay is not None and part == relay.id:
            self._relay(fault)
        else:
            self._device(fault)

    def _element(self, fault: Fault) -> None:
        part, mode = fault.component, fault.mode
        if mode == "open":
            self.opened.add(f"{part}.rest")
        elif mode == "grounded":
            self.closed.add(f"{part}.ground")
            self.ohms[f"{part}.ground"] = _size(fault, GROUNDED_OHMS)
            if fault.place:
                hot = self.unit.element_by_id[part].rating.hot_ohms
                self.ohms[part] = float(fault.place) * hot
                self.ohms[f"{part}.rest"] = (1 - float(fault.place)) * hot
        else:
            nominal = HIGH_RESISTANCE if mode == "high-resistance" else LOW_RESISTANCE
            for piece in (part, f"{part}.rest"):
                whole = self.wiring.ohms[self.wiring.topology.branch_index[piece]]
                self.ohms[piece] = _size(fault, nominal) * self.ohms.get(piece, float(whole))

    def _circuit(self, fault: Fault) -> None:
        part, mode = fault.component, fault.mode
        legs = ("l1", "l2") if fault.place == "both" else (fault.place or "l1",)
        feeds = [f"{part}.feed.{leg}" for leg in legs]
        if mode == "open":
            self.opened.update(feeds)
        elif mode == "loose":
            index = self.wiring.topology.branch_index
            for feed in feeds:
                self.ohms[feed] = float(self.wiring.ohms[index[feed]]) + _size(fault, LOOSE_OHMS)
        else:
            self.emf[part] = 0.0 if mode == "no-supply" else _size(fault, LOW_VOLTS)

    def _blower(self, fault: Fault) -> None:
        mode = fault.mode
        if mode == "open":
            self.opened.add("blower")
            self.moves_air = False
        elif mode == "locked":
            blower = self.unit.blower
            assert blower is not None
            volts = self.unit.circuit_by_id[blower.circuit].rated_volts
            self.ohms["blower"] = volts / (_size(fault, LOCKED_ROTOR) * (blower.fla or 4.0))
            self.moves_air = False
        else:
            self.airflow *= WEAK_CAPACITOR_AIRFLOW
            self.capacitor *= _size(fault, WEAK_CAPACITOR)

    def _relay(self, fault: Fault) -> None:
        part, mode = fault.component, fault.mode
        if mode == "no-stuck-open":
            self.opened.add(f"{part}.no")
        elif mode == "no-welded":
            self.closed.add(f"{part}.no")
            self.armature_held = True
        elif mode == "nc-stuck-open":
            self.opened.add(f"{part}.nc")
        elif mode == "nc-welded":
            self.closed.add(f"{part}.nc")
        else:
            self._coil(fault)

    def _device(self, fault: Fault) -> None:
        part, mode = fault.component, fault.mode
        if mode in ("stuck-open", "open"):
            self.opened.add(part)
        elif mode == "stuck-closed":
            self.closed.add(part)
        elif mode == "burnt":
            self.ohms[part] = CONTACT_OHMS + _size(fault, BURNT_OHMS)
        elif mode == "weak":
            self.sets["weak_limits"].add(part)
        else:
            self._coil(fault)

    def _coil(self, fault: Fault) -> None:
        part, mode = fault.component, fault.mode
        if mode == "slow":
            self.slow[part] = Band(*map(float, fault.place.split("…"))) if fault.place else SLOW
            return
        self.sets["no_action"].add(part)
        branch = f"{part}.coil"
        if mode == "coil-open":
            self.opened.add(branch)
        elif mode == "no-rectifier-output":
            self.sets["no_dc"].add(part)
        else:
            self.ohms[branch] = _size(fault, COIL_SHORTED) * self._least_ohms(part)

    def _least_ohms(self, device: str) -> float:
        control = self.unit.control_by_id.get(device)
        if control is not None:
            return control.coil_ohms.low
        relay = self.unit.blower.relay if self.unit.blower else None
        if relay is not None and device == relay.id:
            return relay.coil_ohms.low
        # Another load's ohms are on no plate: those of a usual contactor.
        return 8.0
