"""What lies on the terminals of a device: as somebody looked and wrote it on the plate, else as its
rungs, its call and the blower's tie say that it is wired.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from plentar.core.relay_bench.circuit import TIE
from plentar.core.relay_bench.fitted import fitted, places
from plentar.core.unit.parts import BlowerRelay, Control, RelayWires, Switch, Wire
from plentar.core.unit.terminals import ContactSet, PartKind
from plentar.core.unit.unit import Device, Unit

NOTHING = "none"


def wires_of(unit: Unit, device: Device) -> dict[str, tuple[Wire, ...]]:
    """The wires of a device by its terminals; those without a wire are left out."""
    found: dict[str, tuple[Wire, ...]] = {}
    kind = fitted(unit, device)
    for written in device.wired or tuple(_as_drawn(unit, device)):
        wire = replace(written, terminal=kind.named(written.terminal))
        found[wire.terminal] = (*found.get(wire.terminal, ()), wire)
    return found


def right_wires(unit: Unit, device: Device, kind: PartKind) -> tuple[Wire, ...]:
    """How a kind of part is wired in a device's place, in the order in which it is best done: coil
    first, line last. Sets beyond those in use get none."""
    if isinstance(device, BlowerRelay):
        ends = list(_relay(unit, device, kind, RelayWires("blower", "L1", "heat")))
    else:
        ends = list(_control(unit, device, kind))
    return tuple(_numbered([*_coil(device, kind), *ends]))


def _as_drawn(unit: Unit, device: Device) -> Iterator[Wire]:
    kind = fitted(unit, device)
    if isinstance(device, BlowerRelay):
        wires = device.wires or RelayWires("blower", "L1", "heat")
        ends = list(_relay(unit, device, kind, wires))
    else:
        ends = list(_control(unit, device, kind))
    yield from _numbered([*_coil(device, kind), *ends])


def _numbered(ends: list[tuple[str, str]]) -> Iterator[Wire]:
    for number, (terminal, to) in enumerate(ends, 1):
        yield Wire(f"w{number}", terminal, to)


def _coil(device: Device, kind: PartKind) -> Iterator[tuple[str, str]]:
    fed_by = device.call or (device.through if isinstance(device, Control) else None) or NOTHING
    yield kind.coil[0], fed_by
    yield kind.coil[1], "C"


def _relay(unit: Unit, relay: BlowerRelay, kind: PartKind, wires: RelayWires) -> Iterator[tuple[str, str]]:
    """The set in use: the first that has what the tie asks for."""
    tied = unit.blower is not None and unit.blower.interlock.kind == "nc-contact"
    nc = wires.nc if tied or relay.wires else NOTHING
    one = next((s for s in kind.sets if s.nc or nc == NOTHING), kind.sets[0])
    for terminal, to in ((one.no, wires.no), (one.nc, nc), (one.common, wires.common)):
        if terminal and to != NOTHING:
            yield terminal, to


def _control(unit: Unit, control: Control, kind: PartKind) -> Iterator[tuple[str, str]]:
    for switch, one in places(unit, control, kind):
        yield from _switch(unit, control, switch, one)


def _switch(unit: Unit, control: Control, switch: Switch, one: ContactSet) -> Iterator[tuple[str, str]]:
    out = one.no or one.nc or one.common
    if switch.role == "blower":
        yield one.common, "L1"
        yield out, "blower"
        return
    if switch.role == "auxiliary":
        yield one.common, control.call or control.through or NOTHING
        yield from ((out, f"{c.id}.coil") for c in unit.controls if c.through == switch.id)
        return
    ahead, behind = [], []
    for element in unit.elements_through(switch.id):
        at = element.rung.index(switch.id)
        strip_behind = element.rung.index(element.id) > at
        ahead.append("L1" if strip_behind else f"{element.id}.out")
        behind.append(element.id if strip_behind else "L2")
    yield from ((one.common, end) for end in dict.fromkeys(ahead))
    yield from ((out, end) for end in dict.fromkeys(behind))
    tie = unit.blower.interlock if unit.blower else None
    if tie is not None and tie.kind == "nc-contact" and tie.tap == switch.id:
        yield out, TIE
