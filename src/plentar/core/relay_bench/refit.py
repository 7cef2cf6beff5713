"""The unit with a new part in an old one's place."""

from __future__ import annotations

from dataclasses import replace

from plentar.core.relay_bench.fitted import places, switches_of
from plentar.core.tables.devices import CONTROLS
from plentar.core.unit.parts import BlowerRelay, Control
from plentar.core.unit.terminals import PartKind
from plentar.core.unit.unit import Device, Unit

#: How a blower relay's kind acts where it closes a rung.
AS_CONTROL = {"spdt": "relay-ac", "dpdt": "relay-ac", "board": "relay-ac", "time-delay": "relay-ac"}


def refit(unit: Unit, device: Device, new: PartKind) -> Unit | None:
    """The unit with the new part in the old one's place; None where it has too few sets for it."""
    coil = replace(device.coil, volts=new.coil_volts, ohms=new.coil_ohms, va=new.coil_va)
    if isinstance(device, BlowerRelay):
        assert unit.blower is not None
        first = new.sets[0]
        type_ = new.device if new.device in ("spdt", "dpdt", "time-delay", "board") else "spdt"
        relay = replace(
            device,
            type=type_,
            coil=coil,
            on_s=new.on_s(first),
            off_s=new.off_s(first),
            contact_amps=new.motor_amps,
            part=None,
        )
        return replace(unit, blower=replace(unit.blower, relay=relay))
    sets = {switch.id: one for switch, one in places(unit, device, new)}
    if len(sets) < len(switches_of(unit, device)):
        return None
    switches = tuple(
        replace(
            switch,
            on_s=new.on_s(sets[switch.id]),
            off_s=new.off_s(sets[switch.id]),
            contact_amps=new.resistive_amps,
        )
        if switch.id in sets
        else switch
        for switch in device.switches
    )
    type_ = new.device if new.device in CONTROLS else AS_CONTROL[new.device]
    control = Control(device.id, type_, coil, switches, device.call, device.through, device.outdoor)
    return replace(unit, controls=tuple(control if c.id == device.id else c for c in unit.controls))
