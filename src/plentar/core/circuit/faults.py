"""The faults as data: which there are on a unit, and what each changes.

A fault is ``component:mode``, of a size and at a place; without them it is of the size that a
nominal prediction uses. How often each is met, and in which sizes, ``tables/faults`` says.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

from plentar.core.circuit.wiring import NetworkEffects, Wiring
from plentar.core.errors import BadInput
from plentar.core.quantity import Band
from plentar.core.said import say
from plentar.core.tables.devices import NORMALLY_CLOSED_FAULTS, NORMALLY_OPEN_FAULTS
from plentar.core.tables.faults import (
    FAULT_KINDS,
    HIGH_TAP_V,
    SLOW_TIMES,
    TAPPED,
    WEAK_CAPACITOR_AIRFLOW,
    WRONG_TAP_SHARE,
    FaultKind,
)
from plentar.core.tables.model import CONTACT_OHMS, OTHER_LOAD_OHMS, USUAL_FLA
from plentar.core.unit.parts import HEAT_CALLS, OUTDOOR_CALLS
from plentar.core.unit.points import TIE_WIRE
from plentar.core.unit.unit import Unit


@dataclass(frozen=True, slots=True)
class Fault:
    """One fault of one unit.

    ``size`` is in the mode's own unit, None is the nominal one. ``place`` is which leg, joint,
    share of an element's length, or stretch of lateness ("2…4"); empty is the nominal place.
    """

    component: str
    kind: FaultKind
    size: float | None = None
    place: str = ""

    @property
    def mode(self) -> str:
        return self.kind.mode

    @property
    def id(self) -> str:
        return f"{self.component}:{self.mode}"

    @property
    def sized(self) -> float:
        if self.size is not None:
            return self.size
        assert self.kind.sizes is not None, f"{self.id} has no size"
        return self.kind.sizes.nominal


def fault_of(component: str, of: str, mode: str) -> Fault:
    return Fault(component, FAULT_KINDS[of, mode])


@dataclass(frozen=True)
class Effects:
    """What a set of faults does: to the network, and to how devices behave.

    ``no_action`` are coils that never act; ``slow`` devices act late, this often the longest time
    of their windows; ``no_dc`` are rectifiers that give nothing; ``airflow`` and ``capacitor`` are
    shares of rated; ``armature_held`` says that a weld holds the blower relay's armature over.
    """

    network: NetworkEffects = field(default_factory=NetworkEffects)
    no_action: frozenset[str] = frozenset()
    slow: Mapping[str, Band] = field(default_factory=dict)
    weak_limits: frozenset[str] = frozenset()
    no_call: frozenset[str] = frozenset()
    always: frozenset[str] = frozenset()
    airflow: float = 1.0
    capacitor: float = 1.0
    blower_moves_air: bool = True
    no_dc: frozenset[str] = frozenset()
    armature_held: bool = False
    #: By a call the other that brings it too, at the thermostat.
    joined: Mapping[str, str] = field(default_factory=dict)


#: Wires crossed or joined at the thermostat: the call is there whenever this other one is.
CROSSED = {"with-Y": "Y", "with-G": "G"}
#: All switches of a device by one cause: bimetal, push rod, armature, both poles.
STUCK = ("stuck-open", "stuck-closed")


def faults_of(unit: Unit) -> Iterator[Fault]:
    """Every single fault that this unit can have, in the order of its parts."""
    for element in unit.elements:
        yield from _each(element.id, "element", "open", "high-resistance", "low-resistance", "grounded")
        yield fault_of(f"{element.id}.wire", "wire", "open")
    for control in unit.controls:
        for switch in control.switches:
            yield from _each(switch.id, "switch", *control.kind.switch_faults)
        yield from _each(control.id, "device", *control.kind.faults)
        if len(control.switches) > 1:
            yield from _each(control.id, "device", *STUCK)
    for limit in unit.limits:
        yield from _each(limit.id, "limit", "open", "weak", "bridged")
    for link in unit.links:
        yield fault_of(link.id, "link", "open")
    yield fault_of("airflow", "airflow", "low")
    for circuit in unit.circuits:
        yield from _each(circuit.id, "circuit", "open", "no-supply", "loose", "low-volts")
    yield from _control_power_faults(unit)
    yield from _blower_faults(unit)


def _control_power_faults(unit: Unit) -> Iterator[Fault]:
    yield from _each("transformer", "transformer", "dead", "weak")
    power = unit.control_power
    served = unit.circuit_by_id[power.circuit].rated_volts
    if power.primary_volts is None and served <= WRONG_TAP_SHARE * HIGH_TAP_V:
        yield fault_of("transformer", "transformer", "wrong-tap")
    yield fault_of("control-fuse", "fuse", "open")
    for call in unit.calls:
        if call not in OUTDOOR_CALLS:
            yield from _each(call, "terminal", "no-call", "always")
        if call in HEAT_CALLS:
            yield from _each(call, "terminal", *CROSSED)
    for terminal in ("R", *unit.calls):
        yield fault_of(terminal, "terminal", "to-ground")
    for load in unit.other_loads:
        yield fault_of(load.id, "load", "coil-shorted")


def _blower_faults(unit: Unit) -> Iterator[Fault]:
    blower = unit.blower
    if blower is None:
        return
    if blower.relay is not None:
        relay = blower.relay
        yield from _each(relay.id, "relay", *relay.kind.faults, *NORMALLY_OPEN_FAULTS)
        if blower.interlock.kind == "nc-contact":
            yield from _each(relay.id, "relay", *NORMALLY_CLOSED_FAULTS)
            yield fault_of(TIE_WIRE, "tie", "open")
    yield from _each("blower", "blower", "open", "locked")
    if blower.motor == "psc":
        yield fault_of("blower", "blower", "weak-capacitor")


def _each(component: str, of: str, *modes: str) -> Iterator[Fault]:
    return (fault_of(component, of, mode) for mode in modes)


def taps_of(unit: Unit) -> tuple[Fault, ...]:
    """Where the wire of the tie may begin, as what is to be added to the faults; empty where that is known."""
    taps = unit.possible_taps
    return tuple(Fault("tap", TAPPED, place=tap) for tap in taps) if len(taps) > 1 else ()


def find_faults(unit: Unit, ids: Iterable[str]) -> tuple[Fault, ...]:
    """The faults of these ids; raises BadInput for one that this unit can't have."""
    wanted = [fault_id for fault_id in ids if fault_id != "none"]
    known = {fault.id: fault for fault in faults_of(unit)} if wanted else {}
    found = []
    for fault_id in wanted:
        if fault_id not in known:
            raise BadInput("fault", say("fault.unknown", fault=fault_id))
        found.append(known[fault_id])
    return tuple(found)


def joints(wiring: Wiring, element_id: str) -> list[str]:
    """The wires of a rung, lug to lug, as branches; the first is the nominal place of a break.

    That is the joint after the first part; where a rung shares its start, the first of its own.
    """
    count = len(wiring.unit.element_by_id[element_id].rung) + 1
    names = [f"{element_id}.wire.{n}" for n in (*range(1, count), 0)]
    return [name for name in names if name in wiring.topology.branch_index]


def effects_of(wiring: Wiring, faults: Iterable[Fault]) -> Effects:
    work = _Effects(wiring)
    all_faults = tuple(faults)
    for fault in all_faults:
        work.add(fault)
    if not any(fault.kind is TAPPED for fault in all_faults):
        for tap in taps_of(wiring.unit)[:1]:
            work.add(tap)
    return work.done()


class _Effects:
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
        self.joined: dict[str, str] = {}

    def done(self) -> Effects:
        """The sum."""
        network = NetworkEffects(self.ohms, frozenset(self.opened), frozenset(self.closed), self.emf)
        named = {name: frozenset(members) for name, members in self.sets.items()}
        return Effects(
            network,
            slow=self.slow,
            airflow=self.airflow,
            capacitor=self.capacitor,
            blower_moves_air=self.moves_air,
            armature_held=self.armature_held,
            joined=self.joined,
            **named,
        )

    def add(self, fault: Fault) -> None:
        by_kind = {
            "element": self._element,
            "wire": self._wire,
            "tie": self._tie,
            "tap": self._tap,
            "switch": self._switch,
            "device": self._coil,
            "relay": self._relay,
            "load": self._coil,
            "limit": self._limit,
            "link": self._opened,
            "fuse": self._opened,
            "airflow": self._airflow,
            "circuit": self._circuit,
            "transformer": self._transformer,
            "terminal": self._terminal,
            "blower": self._blower,
        }
        by_kind[fault.kind.of](fault)

    def _opened(self, fault: Fault) -> None:
        self.opened.add(fault.component)

    def _wire(self, fault: Fault) -> None:
        element_id = fault.component.removesuffix(".wire")
        self.opened.add(fault.place or joints(self.wiring, element_id)[0])

    def _tie(self, fault: Fault) -> None:
        relay = self.unit.relay
        assert relay is not None, f"{fault.id} without a relay"
        self.opened.add(f"{relay.id}.nc.wire")

    def _tap(self, fault: Fault) -> None:
        self.closed.add(f"tap.{fault.place}")

    def _airflow(self, fault: Fault) -> None:
        self.airflow *= fault.sized

    def _transformer(self, fault: Fault) -> None:
        match fault.mode:
            case "dead":
                self.emf["transformer"] = 0.0
            case "wrong-tap":
                self.emf["transformer"] = WRONG_TAP_SHARE
            case _:
                self.emf["transformer"] = fault.sized

    def _terminal(self, fault: Fault) -> None:
        if fault.mode == "to-ground":
            self.closed.add(f"{fault.component}.ground")
            self.ohms[f"{fault.component}.ground"] = fault.sized
        elif fault.mode in CROSSED:
            self.joined[fault.component] = CROSSED[fault.mode]
        else:
            self.sets[fault.mode.replace("-", "_")].add(fault.component)

    def _element(self, fault: Fault) -> None:
        part, mode = fault.component, fault.mode
        if mode == "open":
            self.opened.add(f"{part}.rest")
        elif mode == "grounded":
            self.closed.add(f"{part}.ground")
            self.ohms[f"{part}.ground"] = fault.sized
            if fault.place:
                hot = self.unit.element_by_id[part].rating.hot_ohms
                self.ohms[part] = float(fault.place) * hot
                self.ohms[f"{part}.rest"] = (1 - float(fault.place)) * hot
        else:
            for piece in (part, f"{part}.rest"):
                whole = self.wiring.ohms[self.wiring.topology.branch_index[piece]]
                self.ohms[piece] = fault.sized * self.ohms.get(piece, float(whole))

    def _circuit(self, fault: Fault) -> None:
        part, mode = fault.component, fault.mode
        legs = ("l1", "l2") if fault.place == "both" else (fault.place or "l1",)
        feeds = [f"{part}.feed.{leg}" for leg in legs]
        if mode == "open":
            self.opened.update(feeds)
        elif mode == "loose":
            index = self.wiring.topology.branch_index
            for feed in feeds:
                self.ohms[feed] = float(self.wiring.ohms[index[feed]]) + fault.sized
        elif mode == "no-supply":
            self.opened.update(f"{part}.source.{leg}" for leg in ("l1", "l2"))
        else:
            self.emf[part] = fault.sized

    def _blower(self, fault: Fault) -> None:
        blower = self.unit.blower
        assert blower is not None
        if fault.mode == "open":
            self.opened.add("blower")
            self.moves_air = False
        elif fault.mode == "locked":
            volts = self.unit.circuit_by_id[blower.circuit].rated_volts
            self.ohms["blower"] = volts / (fault.sized * (blower.fla or USUAL_FLA))
            self.moves_air = False
        else:
            self.airflow *= WEAK_CAPACITOR_AIRFLOW
            self.capacitor *= fault.sized

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

    def _switch(self, fault: Fault) -> None:
        if fault.mode == "stuck-open":
            self.opened.add(fault.component)
        elif fault.mode == "stuck-closed":
            self.closed.add(fault.component)
        else:
            self.ohms[fault.component] = CONTACT_OHMS + fault.sized

    def _limit(self, fault: Fault) -> None:
        if fault.mode == "open":
            self.opened.add(fault.component)
        elif fault.mode == "bridged":
            self.closed.add(fault.component)
        else:
            self.sets["weak_limits"].add(fault.component)

    def _coil(self, fault: Fault) -> None:
        part, mode = fault.component, fault.mode
        if mode in STUCK:  # all its switches by one cause
            switches = {switch.id for switch in self.unit.control_by_id[part].switches}
            (self.opened if mode == "stuck-open" else self.closed).update(switches)
            return
        if mode == "slow":
            times = map(float, fault.place.split("…")) if fault.place else SLOW_TIMES
            self.slow[part] = Band(*times)
            return
        self.sets["no_action"].add(part)
        if mode == "coil-open":
            self.opened.add(f"{part}.coil")
        elif mode == "no-rectifier-output":
            self.sets["no_dc"].add(part)
        else:
            self.ohms[f"{part}.coil"] = fault.sized * self._least_ohms(part)

    def _least_ohms(self, device_id: str) -> float:
        device = self.unit.device_by_id.get(device_id)
        return device.coil_ohms.low if device else OTHER_LOAD_OHMS
