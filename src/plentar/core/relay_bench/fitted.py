"""What stands in a device's place: its kind from the drawer, with what the plate prints of it."""

from __future__ import annotations

from dataclasses import replace

from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.parts import BlowerRelay, Control, Switch
from plentar.core.unit.terminals import ContactSet, PartKind
from plentar.core.unit.unit import Device, Unit

_RELAYS = {"spdt": "relay-spdt", "dpdt": "relay-dpdt", "time-delay": "relay-delay", "board": "relay-board"}
_AT_ONCE = {"relay-ac": "heat-relay-ac", "relay-dc": "heat-relay-dc"}


def drawer(unit: Unit) -> dict[str, PartKind]:
    """The kinds that ship, and those that the unit's file brings, by name."""
    return PART_KINDS | {kind.name: kind for kind in unit.part_kinds}


def usual_kind(unit: Unit, device: Device) -> PartKind:
    """The kind that a device most likely is: by its part where the plate names it, else by its
    type and the number of its switches."""
    kinds = drawer(unit)
    if device.part is not None:
        return kinds[device.part]
    if isinstance(device, BlowerRelay):
        return kinds[_RELAYS[device.type]]
    count = len(device.switches)
    if device.type == "sequencer":
        return kinds[next((f"sequencer-{n}" for n in (1, 2, 3) if count <= n), "sequencer-5")]
    if device.type == "contactor":
        return kinds["contactor-1" if count == 1 else "contactor-2"]
    return kinds[_AT_ONCE[device.type]]


def fitted(unit: Unit, device: Device) -> PartKind:
    """The device in its place, as a part: its kind with the ohms, VA, amps and windows that the
    plate prints. Switches beyond the kind's sets are added as such."""
    kind, coil = usual_kind(unit, device), device.coil
    kind = replace(kind, coil_volts=coil.volts, coil_ohms=coil.ohms, coil_va=coil.va)
    if isinstance(device, BlowerRelay):
        timed = replace(kind.sets[0], on_s=device.on_s, off_s=device.off_s)
        amps = device.contact_amps or kind.motor_amps
        return replace(kind, sets=(timed, *kind.sets[1:]), motor_amps=amps)
    printed = [switch.contact_amps for switch in device.switches if switch.contact_amps]
    there = {one.name: switch for switch, one in zip(device.switches, kind.sets, strict=False)}
    sets = tuple(_printed(one, there.get(one.name)) for one in kind.sets)
    return replace(kind, sets=sets, resistive_amps=min(printed, default=kind.resistive_amps))


def _printed(one: ContactSet, switch: Switch | None) -> ContactSet:
    """A set with what the plate says of the switch in its place."""
    if switch is None:
        return one
    return replace(one, role=switch.role, on_s=switch.on_s, off_s=switch.off_s)


def switches_of(unit: Unit, device: Device) -> tuple[Switch, ...]:
    """The switches of a control device that carry something; none of a blower relay."""
    if isinstance(device, BlowerRelay):
        return ()
    return tuple(switch for switch in device.switches if switch.id not in unit.idle_switches)


def places(unit: Unit, control: Control, kind: PartKind) -> list[tuple[Switch, ContactSet]]:
    """Which set of a part serves each switch that is in use: the blower's switch gets the first,
    which in a stack drops last, an auxiliary one its like where there is one. Fewer pairs than
    switches where the part has too few sets."""
    left, found = list(kind.sets), []
    for switch in sorted(switches_of(unit, control), key=lambda s: _ORDER[s.role]):
        own = [one for one in left if one.role == switch.role]
        fits = own or [one for one in left if switch.role == "auxiliary" or one.role != "auxiliary"]
        if fits:
            left.remove(fits[0])
            found.append((switch, fits[0]))
    return found


_ORDER = {"blower": 0, "element": 1, "auxiliary": 2}
