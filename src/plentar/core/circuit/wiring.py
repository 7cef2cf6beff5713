"""A unit as a network: every part a branch between its ends, every wire a branch between parts.

The topology is made once for a unit. Contacts that move, breakers and faults change conductances
and emfs only, never the topology, so that many states can be solved in one batch.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.circuit.network import Phasors, Real, Topology
from plentar.core.supply.conductors import ohms_per_kft
from plentar.core.tables.faults import GROUNDED_AT
from plentar.core.tables.model import (
    BOARD_INPUT_OHMS,
    BREAKER_OHMS,
    CONTACT_OHMS,
    DEFAULT_BLOWER_AMPS,
    EMF_RATIO,
    INSULATION_OHMS,
    MAGNETISING_OHMS,
    OPEN_OHMS,
    SOURCE_OHMS,
    SOURCE_SHARE,
    UNKNOWN_CONDUCTOR_OHMS,
    WIRE_OHMS,
)
from plentar.core.unit.parts import CALLS, HEAT_CALLS, Circuit
from plentar.core.unit.unit import Unit

Mask = NDArray[np.bool_]
GROUND = "ground"


@dataclass(frozen=True)
class NetworkEffects:
    """What faults do to the network. ``ohms`` replaces a branch's resistance while it conducts;
    ``always_open`` and ``always_closed`` win over where a contact stands; ``emf_share`` scales a
    circuit's or the transformer's emf."""

    ohms: Mapping[str, float] = field(default_factory=dict)
    always_open: frozenset[str] = frozenset()
    always_closed: frozenset[str] = frozenset()
    emf_share: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Branches:
    """What each branch conducts whole and open, S, and which are contacts, (branches,) each."""

    whole: Real
    open: Real
    may_open: Mask
    always_open: Mask

    def siemens(self, closed: Mask) -> Real:
        """Conductances, in the shape of what is closed."""
        found: Real = np.where((self.may_open & ~closed) | self.always_open, self.open, self.whole)
        return found


@dataclass(frozen=True)
class Wiring:
    """The topology of a unit, with each branch's resistance and which branches are contacts.

    ``contacts`` conduct only when named as closed; all others always do.
    """

    unit: Unit
    topology: Topology
    ohms: Real
    contacts: frozenset[str]

    def closed_masks(self, states: Sequence[Collection[str]]) -> Mask:
        """(states, branches): which branches each set of closed contacts closes."""
        return np.array([self._mask(state) for state in states])

    def siemens_of(self, closed: Mask, effects: NetworkEffects) -> Real:
        """Conductances (states, branches), one row for each row of closed contacts."""
        return self.branches(effects).siemens(closed)

    def branches(self, effects: NetworkEffects) -> Branches:
        """How each branch conducts under these effects."""
        always_open = self._mask(effects.always_open)
        may_open = self._contact_mask & ~self._mask(effects.always_closed) & ~always_open
        return Branches(self._conducts(effects.ohms), self._parted, may_open, always_open)

    @cached_property
    def own_contact(self) -> dict[str, str]:
        """For each element a part that its rung alone has: open, it takes that element off."""
        unit = self.unit
        order = [*(x.id for x in unit.links), *(x.id for x in unit.limits), *unit.switch_by_id]
        found = {}
        for element in unit.elements:
            own = (p for p in order if [e.id for e in unit.elements_through(p)] == [element.id])
            if (part := next(own, None)) is not None:
                found[element.id] = part
        return found

    def _conducts(self, replaced: Mapping[str, float]) -> Real:
        ohms = self.ohms.copy()
        for name, value in replaced.items():
            ohms[self.topology.branch_index[name]] = value
        return np.asarray(1.0 / ohms)

    @cached_property
    def _parted(self) -> Real:
        """What each branch conducts while it is open: sound insulation less than an open part."""
        open_ohms = [
            INSULATION_OHMS if name.endswith(".ground") and name in self.contacts else OPEN_OHMS
            for name in self.topology.branches
        ]
        return np.asarray(1.0 / np.array(open_ohms))

    @cached_property
    def _contact_mask(self) -> Mask:
        return self._mask(self.contacts)

    def _mask(self, names: Collection[str]) -> Mask:
        mask = np.zeros(len(self.ohms), dtype=bool)
        index = self.topology.branch_index
        mask[[index[name] for name in names if name in index]] = True
        return mask

    def emf(self, effects: NetworkEffects) -> Phasors:
        """Branch emfs (branches,), V."""
        emf = np.zeros(len(self.topology.branches), dtype=complex)
        for circuit in self.unit.circuits:
            share = effects.emf_share.get(circuit.id, 1.0)
            for leg, volts in zip(("l1", "l2"), leg_volts(circuit), strict=True):
                emf[self.topology.branch_index[f"{circuit.id}.source.{leg}"]] = share * volts
        return emf

    def topology_with(self, effects: NetworkEffects) -> Topology:
        """The topology with the transformer's ratio as it is: a weak one has fewer turns."""
        share = effects.emf_share.get("transformer", 1.0)
        if share == 1.0:
            return self.topology
        return _WEAKENED.get_or_make((self.unit, share), lambda: self._weakened(share))

    def _weakened(self, share: float) -> Topology:
        incidence = self.topology.incidence.copy()
        row = self.topology.branch_index["transformer"]
        primary = [
            self.topology.node_index[f"{self.unit.control_power.circuit}.{leg}"] for leg in ("l1", "l2")
        ]
        incidence[row, primary] *= share
        return Topology(self.topology.nodes, self.topology.branches, incidence)


def leg_volts(circuit: Circuit) -> tuple[complex, complex]:
    """The two legs' volts to ground: opposite, or 120° apart on a 208 V service."""
    if circuit.rated_volts < 220:
        leg = circuit.rated_volts / math.sqrt(3)
        return complex(leg), leg * complex(math.cos(2 * math.pi / 3), -math.sin(2 * math.pi / 3))
    return complex(circuit.rated_volts / 2), complex(-circuit.rated_volts / 2)


def _matrix_bytes(topology: Topology) -> int:
    """The incidence, and the stamps that are worked out from it."""
    return 4 * topology.incidence.nbytes


_WIRINGS: Cache[Unit, Wiring] = Cache("wirings", 16 * MEGABYTE, lambda wiring: _matrix_bytes(wiring.topology))
_WEAKENED: Cache[tuple[Unit, float], Topology] = Cache("weakened transformers", 16 * MEGABYTE, _matrix_bytes)


class _Builder:
    """Collects branches; nodes appear as they are named."""

    def __init__(self) -> None:
        self.nodes: dict[str, int] = {}
        self.rows: dict[str, dict[str, float]] = {}
        self.ohms: list[float] = []
        self.contacts: set[str] = set()

    def add(self, name: str, a: str, b: str, ohms: float, contact: bool = False) -> None:
        """A branch from ``a`` to ``b``."""
        self.add_row(name, {a: 1.0, b: -1.0}, ohms)
        if contact:
            self.contacts.add(name)

    def add_row(self, name: str, row: dict[str, float], ohms: float) -> None:
        assert name not in self.rows, name
        self.rows[name] = row
        self.ohms.append(ohms)
        for node in row:
            if node != GROUND:
                self.nodes.setdefault(node, len(self.nodes))

    def topology(self) -> Topology:
        incidence = np.zeros((len(self.rows), len(self.nodes)))
        for at, row in enumerate(self.rows.values()):
            for node, value in row.items():
                if node != GROUND:
                    incidence[at, self.nodes[node]] += value
        return Topology(tuple(self.nodes), tuple(self.rows), incidence)


def wire_up(unit: Unit) -> Wiring:
    """The wiring of a unit; made once for all that are alike, however often they are parsed."""
    return _WIRINGS.get_or_make(unit, lambda: _wired(unit))


def _wired(unit: Unit) -> Wiring:
    build = _Builder()
    for circuit in unit.circuits:
        _supply(build, circuit)
    _rungs(build, unit)
    _blower(build, unit)
    _control(build, unit)
    return Wiring(unit, build.topology(), np.array(build.ohms), frozenset(build.contacts))


def _supply(build: _Builder, circuit: Circuit) -> None:
    conductor = circuit.conductor
    feet = conductor.length_ft if conductor else 0.0
    wire = UNKNOWN_CONDUCTOR_OHMS
    if conductor is not None and feet > 0:
        wire = feet / 1000 * ohms_per_kft(conductor)
    ahead, behind = (wire, 0.0) if circuit.breaker_at == "unit" else (0.0, wire)
    for leg in ("l1", "l2"):
        line = f"{circuit.id}.line.{leg}"
        build.add(f"{circuit.id}.source.{leg}", GROUND, line, SOURCE_OHMS + ahead)
        feed = f"{circuit.id}.feed.{leg}"
        build.add(feed, line, f"{circuit.id}.{leg}", BREAKER_OHMS + behind, contact=True)


def _rungs(build: _Builder, unit: Unit) -> None:
    placed: set[str] = set()
    joined: set[tuple[str, str]] = set()
    for element in unit.elements:
        at = f"{element.circuit}.l1"
        for number, part in enumerate((*element.rung, None)):
            to = f"{part}.in" if part else f"{element.circuit}.l2"
            if (at, to) not in joined:
                joined.add((at, to))
                build.add(f"{element.id}.wire.{number}", at, to, WIRE_OHMS)
            if part is not None and part not in placed:
                placed.add(part)
                _part(build, unit, part)
            at = f"{part}.out"
    for name in unit.part_by_id:  # spares: in no rung, yet with ends to put a meter on
        if name not in placed:
            build.add(name, f"{name}.in", f"{name}.out", CONTACT_OHMS, contact=True)
            build.add(f"{name}.spare", f"{name}.in", GROUND, OPEN_OHMS)


def _part(build: _Builder, unit: Unit, part: str) -> None:
    element = unit.element_by_id.get(part)
    if element is None:
        build.add(part, f"{part}.in", f"{part}.out", CONTACT_OHMS, contact=True)
        return
    hot = element.rating.hot_ohms
    build.add(part, f"{part}.in", f"{part}.middle", GROUNDED_AT * hot)
    build.add(f"{part}.rest", f"{part}.middle", f"{part}.out", (1 - GROUNDED_AT) * hot)
    build.add(f"{part}.ground", f"{part}.middle", GROUND, CONTACT_OHMS, contact=True)


def _blower(build: _Builder, unit: Unit) -> None:
    blower = unit.blower
    if blower is None:
        return
    l1, l2 = f"{blower.circuit}.l1", f"{blower.circuit}.l2"
    volts = unit.circuit_by_id[blower.circuit].rated_volts
    build.add("blower", "blower.in", "blower.out", volts / (blower.running_amps or DEFAULT_BLOWER_AMPS))
    build.add("blower.wire", "blower.out", l2, WIRE_OHMS)
    relay, tie = blower.relay, blower.interlock
    feeds = []
    if relay is not None:
        feeds.append((f"{relay.id}.no", l1))
        if tie.kind == "nc-contact":
            feeds.append((f"{relay.id}.nc", _tap(build, unit)))
        elif relay.kind.normally_closed:
            # Its normally-closed set has no wire; it can still be read.
            build.add(f"{relay.id}.nc", f"{relay.id}.nc.in", "blower.in", CONTACT_OHMS, contact=True)
            build.add(f"{relay.id}.nc.spare", f"{relay.id}.nc.in", GROUND, OPEN_OHMS)
    if blower.taps:
        build.add("blower.run", l1, "blower.in", CONTACT_OHMS, contact=True)
        for call, _ in blower.taps:
            build.add(f"blower.tap.{call}", call, "C", BOARD_INPUT_OHMS)
    for name, source in feeds:
        build.add(name, f"{name}.in", "blower.in", CONTACT_OHMS, contact=True)
        build.add(f"{name}.wire", source, f"{name}.in", WIRE_OHMS)
    if tie.kind == "sequencer-switch" and tie.switch:
        # The switch's own branch was made as a spare; here it gets its wires.
        build.add(f"{tie.switch}.wire.in", l1, f"{tie.switch}.in", WIRE_OHMS)
        build.add(f"{tie.switch}.wire.out", f"{tie.switch}.out", "blower.in", WIRE_OHMS)


def _tap(build: _Builder, unit: Unit) -> str:
    """Where the wire of the tie begins. Nobody having followed it, it may be behind each of some switches:
    it is joined to them by contacts ``tap.…`` of which one is closed."""
    taps = unit.possible_taps
    if len(taps) == 1:
        return f"{taps[0]}.out"
    if not taps:
        build.add("tap.spare", "tap", GROUND, OPEN_OHMS)
    for tap in taps:
        build.add(f"tap.{tap}", f"{tap}.out", "tap", CONTACT_OHMS, contact=True)
    return "tap"


def _control(build: _Builder, unit: Unit) -> None:
    power = unit.control_power
    primary_volts = power.primary_volts or unit.circuit_by_id[power.circuit].rated_volts
    ratio = EMF_RATIO * power.volts / primary_volts
    build.add_row(
        "transformer",
        {"C": 1.0, "transformer.hot": -1.0, f"{power.circuit}.l1": ratio, f"{power.circuit}.l2": -ratio},
        SOURCE_SHARE * power.volts**2 / power.va,
    )
    supply = f"{power.circuit}.l1", f"{power.circuit}.l2"
    build.add("transformer.magnetising", *supply, MAGNETISING_OHMS)
    build.add("C.bond", "C", GROUND, CONTACT_OHMS if power.c_grounded else OPEN_OHMS)
    build.add("control-fuse", "transformer.hot", "R", CONTACT_OHMS, contact=True)
    build.add("R.ground", "R", GROUND, CONTACT_OHMS, contact=True)
    for call in CALLS:
        build.add(f"thermostat.{call}", "R", call, CONTACT_OHMS, contact=True)
        build.add(f"{call}.ground", call, GROUND, CONTACT_OHMS, contact=True)
    for control in unit.controls:
        if control.through is not None:
            before = unit.control_of_switch[control.through]
            build.add(f"{control.through}.feed", f"{before.id}.coil.in", f"{control.through}.in", WIRE_OHMS)
            feed = f"{control.through}.out"
        else:
            feed = control.call or "R"
        _coil(build, control.id, feed, control.coil.volts**2 / control.coil_va)
    relay = unit.relay
    if relay is not None:
        _coil(build, relay.id, relay.call, relay.coil.volts**2 / relay.coil_va)
    if unit.blower and unit.blower.interlock.kind == "g-with-w":
        build.add("board.G", "R", "G", CONTACT_OHMS, contact=True)
        for call in sorted(HEAT_CALLS):
            build.add(f"board.{call}", call, "C", BOARD_INPUT_OHMS)
    for load in unit.other_loads:
        _coil(build, load.id, load.call, power.volts**2 / load.va)


def _coil(build: _Builder, device: str, feed: str, ohms: float) -> None:
    """A coil from its feed to C. The part has its own ends, so that it can be lifted off."""
    build.add(f"{device}.coil.wire", feed, f"{device}.coil.in", WIRE_OHMS)
    build.add(f"{device}.coil", f"{device}.coil.in", "C", ohms)
