"""The wires of a device moved to a new one, each to the terminal that somebody chooses, and what that is in the unit."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from random import Random

from plentar.core.errors import BadInput
from plentar.core.relay_bench.circuit import HEAT, TIE
from plentar.core.relay_bench.fitted import drawer, fitted, places
from plentar.core.relay_bench.proof import Wrong, prove_wiring
from plentar.core.relay_bench.substitute import Fitness, substitute
from plentar.core.relay_bench.wires import right_wires
from plentar.core.said import say
from plentar.core.unit.parts import BlowerRelay, Control, Switch, Wire
from plentar.core.unit.terminals import ContactSet, PartKind
from plentar.core.unit.unit import Device, Unit
from plentar.stand_ins.wider.landing import End, Landing, coil_end, common_of
from plentar.stand_ins.wider.specimen import Plate, joints


@dataclass(frozen=True)
class Transfer:
    """A device of a unit, the part that takes its place, and the wires that go over; ``gone`` are those that nobody
    has in hand any more."""

    unit: Unit
    plate: Plate
    device_id: str
    kind: PartKind
    gone: frozenset[str] = frozenset()

    def losing(self, fault: str) -> Transfer:
        """Without the wire that such a fault is: a strip's, or the tie's; empty for none."""
        part, _, what = fault.partition(":")[0].partition(".")
        ends = {TIE, HEAT} if part == "tie" else {part, f"{part}.out"} if what == "wire" else set()
        return replace(self, gone=frozenset([wire.id for wire in self.right if wire.to in ends][:1]))

    def having(self, wires: Collection[str]) -> Transfer:
        """With these wires alone."""
        return replace(self, gone=frozenset(wire.id for wire in self.right if wire.id not in wires))

    @property
    def device(self) -> Device:
        return self.unit.device_by_id[self.device_id]

    @cached_property
    def right(self) -> tuple[Wire, ...]:
        """Every wire where it belongs on the new part."""
        return right_wires(self.unit, self.device, self.kind)

    @cached_property
    def wires(self) -> tuple[Wire, ...]:
        """Those that are there to be landed."""
        return tuple(wire for wire in self.right if wire.id not in self.gone)

    @cached_property
    def before(self) -> Mapping[str, str]:
        """The terminal of the old part that each wire comes from, by the wire."""
        old = right_wires(self.unit, self.device, fitted(self.unit, self.device))
        return {wire.id: wire.terminal for wire in old}

    def check(self, on: Mapping[str, str]) -> None:
        """Raises BadInput where a wire is not said, or a terminal does not take it."""
        if set(on) != {wire.id for wire in self.wires}:
            raise BadInput("on", say("practice.every-wire"))
        belong = Counter(wire.terminal for wire in self.wires)
        for terminal, count in Counter(filter(None, on.values())).items():
            known = self.kind.terminal_by_name.get(terminal)
            if known is None:
                raise BadInput("on", say("practice.no-such-terminal"))
            most = max(known.places, belong[terminal])
            if count > most:
                raise BadInput("on", say("practice.terminal-full", terminal=terminal, most=most))

    def wrong(self, on: Mapping[str, str]) -> list[Wire]:
        """The wires that do not lie where they belong, each with its right terminal."""
        return [wire for wire in self.wires if self._node(on[wire.id]) != self._node(wire.terminal)]

    def wrongs(self, on: Mapping[str, str]) -> list[Wrong]:
        """What comes of the wiring when every position is run, and does not come of the right one."""
        usual = self._proof({wire.id: wire.terminal for wire in self.right})
        return [code for code in self._proof(on) if code not in usual]

    def _proof(self, on: Mapping[str, str]) -> list[Wrong]:
        ends: dict[str, tuple[str, ...]] = {}
        for wire in self.right:
            if terminal := on.get(wire.id):
                ends[terminal] = (*ends.get(terminal, ()), wire.to)
        proof = prove_wiring(self.unit, self.device, self.kind, ends)
        return [*proof.wrong, *proof.beside]

    def landing(self, on: Mapping[str, str]) -> Landing:
        """The same for a simulated unit."""
        lies = {end: self._node(on[wire.id]) for wire in self.wires for end in self._ends(wire)}
        straps = tuple((self._node(one), self._node(other)) for one, other in self.kind.tied)
        return Landing(self.device_id, lies, straps, tuple(self._beside()))

    # The nodes of the simulated unit.

    @cached_property
    def _used(self) -> list[tuple[str, ContactSet]]:
        """Each set that a rung or the blower has, and the contact that it is there."""
        device = self.device
        if isinstance(device, Control):
            return [(switch.id, one) for switch, one in places(self.unit, device, self.kind)]
        taken = {wire.terminal for wire in self.right}
        return [(device.id, next(one for one in self.kind.sets if taken & set(one.ends)))]

    @cached_property
    def _node_of(self) -> dict[str, str]:
        found = dict(
            zip(self.kind.coil, (f"{self.device_id}.coil.in", coil_end(self.device_id)), strict=True)
        )
        for name, one in self._used:
            if isinstance(self.device, BlowerRelay):
                named = {one.common: common_of(name), one.no: f"{name}.no.in", one.nc: f"{name}.nc.in"}
            else:
                named = {one.common: f"{name}.in", one.no or one.nc: f"{name}.out"}
            found |= {terminal: node for terminal, node in named.items() if terminal}
        return found

    def _node(self, terminal: str) -> str:
        """A terminal's; empty where a wire is left off. One that nothing in the unit knows has its own."""
        return self._node_of.get(terminal, f"{self.device_id}@{terminal}") if terminal else ""

    def _beside(self) -> Iterator[tuple[str, str, str, bool]]:
        """Contacts of the part that the unit has no name for move with those that it has."""
        (first, _), relay = self._used[0], isinstance(self.device, BlowerRelay)
        known = {one.name: name for name, one in self._used}
        for one in self.kind.sets:
            leads = known.get(one.name, first)
            made = f"{leads}.no" if relay else leads
            if one.no and self._node(one.no) not in self._node_of.values():
                yield made, self._node(one.common), self._node(one.no), True
            if one.nc and self._node(one.nc) not in self._node_of.values():
                yield made, self._node(one.common), self._node(one.nc), False

    def _ends(self, wire: Wire) -> Sequence[End]:
        """The ends that a wire has in the net, by its name there and the node that it belongs on."""
        node, name = self._node(wire.terminal), self.device_id
        if wire.terminal == self.kind.coil[0]:
            return [(f"{name}.coil.wire", node)]
        if wire.terminal == self.kind.coil[1]:
            return [(f"{name}.coil.back", node)]
        if isinstance(self.device, BlowerRelay):
            return [(f"{node.removesuffix('.in')}.wire", node)]
        switch = self.unit.switch_by_id[node.rpartition(".")[0]]
        return list(self._of_switch(switch, node, wire.to))

    def _of_switch(self, switch: Switch, node: str, to: str) -> Iterator[End]:
        side = node.rpartition(".")[2]
        if to == TIE:
            assert self.unit.relay is not None
            yield f"{self.unit.relay.id}.nc.wire", node
        elif switch.role == "blower":
            yield f"{switch.id}.wire.{side}", node
        elif switch.role == "auxiliary":
            for control in self.unit.controls:
                if control.through == switch.id and (side == "in" or to == f"{control.id}.coil"):
                    yield f"{control.id}.{'feed' if side == 'in' else 'coil.wire'}", node
        else:
            yield from dict.fromkeys((f"wire/{joint}", node) for joint in self._joints(switch, node, to))

    def _joints(self, switch: Switch, node: str, to: str) -> Iterator[str]:
        """The joints of rungs at a switch's terminal that a wire stands for: one element's, or the line's."""
        named = to.removesuffix(".out")
        for element in self.plate["elements"]:
            if switch.id not in element["rung"]:
                continue
            if named in self.unit.element_by_id and named != element["id"]:
                continue
            yield from (joint for joint in joints(element) if node in joint.split("/"))


def transfer(unit: Unit, plate: Plate, device_id: str, seed: str) -> Transfer:
    """What goes in for a device: a part of the drawer that may stand there, which the scene's word chooses."""
    device = unit.device_by_id[device_id]
    old = fitted(unit, device)
    kinds = [
        kind for kind in drawer(unit).values() if kind.device == old.device and _fits(unit, device_id, kind)
    ]
    ends = [wire.to for wire in right_wires(unit, device, old)]
    kinds = [kind for kind in kinds if [wire.to for wire in right_wires(unit, device, kind)] == ends]
    chosen = Random(f"{plate['id']}/{seed}/{device_id}/kind").choice(kinds or [old])
    return Transfer(unit, plate, device_id, chosen)


def _fits(unit: Unit, device_id: str, kind: PartKind) -> bool:
    return substitute(unit, device_id, kind).verdict is not Fitness.NO
