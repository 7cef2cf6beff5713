"""What has a coil, and the blower, as the visit file writes them."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from plentar.core.quantity import Band
from plentar.core.unit import parts as core
from plentar.files.part_kind_json import KindName, TerminalName, Wired, wires_to_json
from plentar.files.shapes import (
    Amps,
    Id,
    Named,
    OhmsRange,
    Strict,
    Va,
    WindowS,
    fields_of,
    pair,
    present,
    rising,
)

Call = Literal[core.CALLS]  # type: ignore[valid-type]
ContactAmps = Annotated[float, Field(gt=0, le=400, description="What the contact may carry.")]


class CoilJson(Strict):
    """A coil: volts, what an ohmmeter reads, what it draws."""

    volts: Annotated[float, Field(gt=0, le=300)] = 24
    ohms: OhmsRange | None = None
    va: Va | None = None

    @model_validator(mode="after")
    def _order(self) -> CoilJson:
        if self.ohms is not None:
            rising(self.ohms)
        return self

    def to_core(self) -> core.Coil:
        return core.Coil(self.volts, Band(*self.ohms) if self.ohms else None, self.va)


class SwitchJson(Named):
    """A switch, pole or contact: what it carries, and its windows in seconds."""

    contact_amps: ContactAmps | None = None
    role: Literal["element", "blower", "auxiliary"] = "element"
    on_s: WindowS | None = None
    off_s: WindowS | None = None

    @model_validator(mode="after")
    def _order(self) -> SwitchJson:
        for window in (self.on_s, self.off_s):
            if window is not None:
                rising(window)
        return self


class ThroughJson(Strict):
    """A coil fed through an auxiliary switch of the device before it."""

    through: Id


class OutdoorJson(Strict):
    """An outdoor thermostat that may withhold the call: asked about, not judged."""

    closes_below_f: Annotated[float, Field(ge=-40, le=120)] | None = None


class ControlJson(Named):
    """A sequencer, contactor or relay, the call that drives it, and its switches."""

    type: Literal[tuple(core.CONTROL_KINDS)]  # type: ignore[valid-type]
    call: Call | ThroughJson
    coil: CoilJson = CoilJson()
    switches: Annotated[list[SwitchJson], Field(min_length=1, max_length=10)]
    outdoor_thermostat: OutdoorJson | None = None
    part: (
        Annotated[KindName, Field(description="Its part kind: one of the drawer, or of part_kinds.")] | None
    ) = None
    wired: Wired = []

    def to_core(self) -> core.Control:
        """The device in the core’s terms; what it prints no window for acts as its kind does."""
        return control_from(self)


class RelayWiresJson(Strict):
    """What is on the terminals of the set in use; absent, it is wired as its interlock says."""

    common: Literal[core.RELAY_ENDS] = "none"  # type: ignore[valid-type]
    no: Literal[core.RELAY_ENDS] = "none"  # type: ignore[valid-type]
    nc: Literal[core.RELAY_ENDS] = "none"  # type: ignore[valid-type]


class RelayJson(Strict):
    """The blower’s relay."""

    id: Id
    type: Literal[tuple(core.RELAY_KINDS)]  # type: ignore[valid-type]
    call: Call = "G"
    coil: CoilJson = CoilJson()
    contact_amps: ContactAmps | None = None
    on_s: WindowS | None = None
    off_s: WindowS | None = None
    wires: Annotated[RelayWiresJson, Field(description="What is on the set in use.")] | None = None
    part: KindName | None = None
    wired: Wired = []
    printed: Annotated[
        dict[TerminalName, TerminalName],
        Field(max_length=24, description="What is printed at its terminals, where that is another name."),
    ] = {}

    @model_validator(mode="after")
    def _order(self) -> RelayJson:
        for window in (self.on_s, self.off_s):
            if window is not None:
                rising(window)
        return self

    def to_core(self) -> core.BlowerRelay:
        return _relay(self)


class InterlockJson(Strict):
    """What runs the blower with heat."""

    kind: Literal["nc-contact", "sequencer-switch", "g-with-w", "none"]
    tap: Id | None = None
    switch: Id | None = None


class OtherSpeedJson(Strict):
    """A second speed of the motor."""

    tap: Annotated[str, Field(min_length=1, max_length=40)]
    lead: Annotated[
        Literal["capped", "relay"],
        Field(description="Where its lead lies: capped, or on the blower's relay."),
    ] = "capped"


class BlowerJson(Strict):
    """The blower: motor, capacitor, air, relay and tie."""

    circuit: Id
    motor: Literal["psc", "ecm"] = "psc"
    fla: Amps | None = None
    typical_amps: Amps | None = None
    capacitor_uf: Annotated[float, Field(gt=0, le=200)] | None = None
    rated_cfm: Annotated[float, Field(gt=0, le=10000)] | None = None
    tons: Annotated[float, Field(gt=0, le=20)] | None = None
    min_cfm: Annotated[float, Field(gt=0, le=10000, description="The least air with heat.")] | None = None
    speed_tap: Annotated[str, Field(max_length=40)] | None = None
    other_speed: OtherSpeedJson | None = None
    taps: Annotated[
        dict[Literal["G", "W1", "W2"], Annotated[int, Field(ge=1, le=9)]] | None,
        Field(description="Of a motor with 24 V taps of its own and no relay: which tap each call is on."),
    ] = None
    relay: RelayJson | None = None
    interlock: InterlockJson | None = None


def control_from(control: ControlJson) -> core.Control:
    """The device in the core's terms; windows that are not printed are its kind's."""
    kind = core.CONTROL_KINDS[control.type]
    through = control.call.through if isinstance(control.call, ThroughJson) else None
    return core.Control(
        id=control.id,
        type=control.type,
        coil=control.coil.to_core(),
        switches=tuple(
            core.Switch(
                s.id,
                _window(s.on_s, kind.on_s),
                _window(s.off_s, kind.off_s),
                s.contact_amps,
                s.role,
                _not_printed(s),
            )
            for s in control.switches
        ),
        call=None if isinstance(control.call, ThroughJson) else control.call,
        through=through,
        outdoor=_outdoor(control.outdoor_thermostat),
        part=control.part,
        wired=tuple(wire.to_core() for wire in control.wired),
    )


def _outdoor(outdoor: OutdoorJson | None) -> core.OutdoorThermostat | None:
    return core.OutdoorThermostat(outdoor.closes_below_f) if outdoor else None


def _relay(relay: RelayJson) -> core.BlowerRelay:
    kind = core.RELAY_KINDS[relay.type]
    return core.BlowerRelay(
        relay.id,
        kind.name,
        relay.call,
        relay.coil.to_core(),
        _window(relay.on_s, kind.on_s),
        _window(relay.off_s, kind.off_s),
        relay.contact_amps,
        core.RelayWires(**relay.wires.model_dump()) if relay.wires else None,
        relay.part,
        tuple(wire.to_core() for wire in relay.wired),
        _not_printed(relay),
        tuple(relay.printed.items()),
    )


def blower_from(blower: BlowerJson) -> core.Blower:
    """The blower in the core's terms, its relay and tie among them."""
    return core.Blower(
        circuit=blower.circuit,
        motor=blower.motor,
        interlock=core.Interlock(**blower.interlock.model_dump())
        if blower.interlock
        else core.Interlock("unknown"),
        relay=_relay(blower.relay) if blower.relay else None,
        taps=tuple((blower.taps or {}).items()),
        other_speed=core.OtherSpeed(**blower.other_speed.model_dump()) if blower.other_speed else None,
        **blower.model_dump(exclude={"circuit", "motor", "interlock", "relay", "taps", "other_speed"}),
    )


def _window(printed: tuple[float, float] | None, usual: Band) -> Band:
    return Band(*printed) if printed else usual


def _not_printed(part: SwitchJson | RelayJson) -> frozenset[str]:
    return frozenset(name for name in core.WINDOWS if getattr(part, name) is None)


def _printed_windows(part: core.Switch | core.BlowerRelay) -> dict[str, Any]:
    """The windows that somebody read off the part; what is typical is left out."""
    return {name: pair(getattr(part, name)) for name in core.WINDOWS if name not in part.typical}


def control_to_json(control: core.Control) -> dict[str, Any]:
    """A device in the visit file's terms; what is None is left out."""
    return {
        "id": control.id,
        "type": control.type,
        "call": control.call or {"through": control.through},
        "coil": _coil_to_json(control.coil),
        "switches": [
            present(id=s.id, contact_amps=s.contact_amps, role=s.role, **_printed_windows(s))
            for s in control.switches
        ],
        **present(
            outdoor_thermostat=present(**fields_of(control.outdoor)) if control.outdoor else None,
            part=control.part,
            wired=wires_to_json(control.wired),
        ),
    }


def relay_to_json(relay: core.BlowerRelay) -> dict[str, Any]:
    """A blower's relay in the visit file's terms; what is None is left out."""
    return present(
        id=relay.id,
        type=relay.type,
        call=relay.call,
        coil=_coil_to_json(relay.coil),
        contact_amps=relay.contact_amps,
        **_printed_windows(relay),
        wires=fields_of(relay.wires) if relay.wires else None,
        part=relay.part,
        wired=wires_to_json(relay.wired),
        printed=dict(relay.printed) or None,
    )


def blower_to_json(blower: core.Blower) -> dict[str, Any]:
    """The blower in the visit file's terms; a tie that nobody knows is left out."""
    tie = blower.interlock
    known = present(**fields_of(tie)) if tie.kind != "unknown" else None
    other = fields_of(blower.other_speed) if blower.other_speed else None
    own = {"interlock": known, "taps": blower.tap_of or None, "other_speed": other}
    written = present(**fields_of(blower) | own)
    if blower.relay is not None:
        written["relay"] = relay_to_json(blower.relay)
    return written


def _coil_to_json(coil: core.Coil) -> dict[str, Any]:
    return present(volts=coil.volts, ohms=pair(coil.ohms), va=coil.va)
