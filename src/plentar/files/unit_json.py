"""The unit as the visit file writes it: shape and ranges here, fit of the parts in the core."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from plentar.core import parts as core
from plentar.core.errors import BadInput
from plentar.core.quantity import Band
from plentar.core.terminals import PartKind
from plentar.core.unit import Unit
from plentar.files.part_kind_json import (
    KindName,
    PartKindJson,
    Wired,
    part_kind_to_json,
    wires_to_json,
)
from plentar.files.shapes import Amps, OhmsRange, Strict, Text, Va, WindowS, pair, present, rising

Id = Annotated[str, Field(pattern=r"^[A-Za-z][A-Za-z0-9-]*(\.[A-Za-z0-9]+)?$", max_length=40)]
Call = Literal["W1", "W2", "G", "Y"]
SupplyVolts = Annotated[float, Field(ge=100, le=300)]
ContactAmps = Annotated[float, Field(gt=0, le=400, description="What the contact may carry.")]
#: More than any unit of a home has; what a judge has to weigh grows with them.
MOST_SWITCHES = 40


BreakerLegs = Annotated[
    Literal[1, 2], Field(description="1 where the breaker opens and protects one leg only.")
]


class ConductorJson(Strict):
    """The wire that feeds a kit: size, metal, insulation, how it lies, how long."""

    awg: Literal["14", "12", "10", "8", "6", "4", "3", "2", "1", "1/0", "2/0"]
    material: Literal["copper", "aluminium"]
    insulation_c: Literal[60, 75, 90] = 90
    termination_c: (
        Annotated[
            Literal[60, 75],
            Field(description="Not given: 60 °C up to 100 A and 1 AWG, 75 °C above."),
        ]
        | None
    ) = None
    cable: Literal["nm", "other"] = "other"
    ambient_c: Annotated[float, Field(ge=-40, le=90)] = 30
    length_ft: Annotated[float, Field(ge=0, le=2000)] = 0


class PlateJson(Strict):
    """What a plate asks of a circuit: least circuit amps, largest breaker."""

    min_circuit_amps: Amps | None = None
    max_breaker_amps: Amps | None = None
    dual: (
        Annotated[str, Field(pattern=r"^\d{3}/\d{3}$", description="Both volts, such as 208/230.")]
        | None
    ) = None


class CircuitJson(Strict):
    """One supply circuit: its volts, its breaker, its wire and plate where known."""

    id: Id
    rated_volts: SupplyVolts
    breaker_amps: Amps | None = None
    conductor: ConductorJson | None = None
    plate: PlateJson | None = None
    subdivided: (
        Annotated[
            bool,
            Field(description="The kit splits it inside, each part behind a breaker of its own."),
        ]
        | None
    ) = None
    breaker_legs: BreakerLegs = 2


class FeederJson(Strict):
    """What lies ahead of some circuits: breaker or disconnect, and the wire."""

    circuits: Annotated[list[Id], Field(min_length=1, max_length=6)]
    breaker_amps: Amps | None = None
    conductor: ConductorJson | None = None
    disconnect: Literal[core.DISCONNECTS] | None = None  # type: ignore[valid-type]
    breaker_legs: BreakerLegs = 2

    def to_core(self) -> core.Feeder:
        """The feeder in the core’s terms."""
        return core.Feeder(
            tuple(self.circuits), self.breaker_amps, _conductor(self.conductor), self.disconnect,
            self.breaker_legs,
        )  # fmt: skip


class LimitJson(Strict):
    """A limit: where it opens and closes, °F."""

    id: Id
    opens_f: Annotated[float, Field(ge=80, le=400)] | None = None
    closes_f: Annotated[float, Field(ge=60, le=400)] | None = None

    @model_validator(mode="after")
    def _order(self) -> LimitJson:
        if self.opens_f is not None and self.closes_f is not None and self.closes_f >= self.opens_f:
            raise ValueError("a limit closes again below the temperature that it opens at")
        return self


class LinkJson(Strict):
    """A fusible link."""

    id: Id


class ElementJson(Strict):
    """An element as rated, and the parts in series with it from L1 to L2."""

    id: Id
    rated_kw: Annotated[float, Field(gt=0, le=40)]
    rated_volts: SupplyVolts
    circuit: Id
    rung: Annotated[list[Id], Field(min_length=1, max_length=12)]


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
        """The coil in the core’s terms."""
        return core.Coil(self.volts, Band(*self.ohms) if self.ohms else None, self.va)


class SwitchJson(Strict):
    """A switch, pole or contact: what it carries, and its windows in seconds."""

    id: Id
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


class ControlJson(Strict):
    """A sequencer, contactor or relay, the call that drives it, and its switches."""

    id: Id
    type: Literal[tuple(core.CONTROL_KINDS)]  # type: ignore[valid-type]
    call: Call | ThroughJson
    coil: CoilJson = CoilJson()
    switches: Annotated[list[SwitchJson], Field(min_length=1, max_length=10)]
    outdoor_thermostat: OutdoorJson | None = None
    part: (
        Annotated[
            KindName, Field(description="Its part kind: one of the drawer, or of part_kinds.")
        ]
        | None
    ) = None
    wired: Wired = []

    def to_core(self) -> core.Control:
        """The device in the core’s terms; what it prints no window for acts as its kind does."""
        return _control(self)


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

    @model_validator(mode="after")
    def _order(self) -> RelayJson:
        for window in (self.on_s, self.off_s):
            if window is not None:
                rising(window)
        return self

    def to_core(self) -> core.BlowerRelay:
        """The relay in the core’s terms."""
        return _relay(self)


class InterlockJson(Strict):
    """What runs the blower with heat."""

    kind: Literal["nc-contact", "sequencer-switch", "g-with-w", "none"]
    tap: Id | None = None
    switch: Id | None = None


class BlowerJson(Strict):
    """The blower: motor, capacitor, air, relay and tie."""

    circuit: Id
    motor: Literal["psc", "ecm"] = "psc"
    fla: Amps | None = None
    typical_amps: Amps | None = None
    capacitor_uf: Annotated[float, Field(gt=0, le=200)] | None = None
    rated_cfm: Annotated[float, Field(gt=0, le=10000)] | None = None
    tons: Annotated[float, Field(gt=0, le=20)] | None = None
    min_cfm: (
        Annotated[float, Field(gt=0, le=10000, description="The least air with heat.")] | None
    ) = None
    speed_tap: Annotated[str, Field(max_length=40)] | None = None
    relay: RelayJson | None = None
    interlock: InterlockJson | None = None


class ControlPowerJson(Strict):
    """The transformer, its fuse, and the circuit that feeds it."""

    va: Va = 40
    volts: Annotated[float, Field(gt=0, le=60)] = 24
    fuse_amps: Amps | None = None
    circuit: Id
    c_grounded: bool = True
    primary_volts: Annotated[float, Field(ge=100, le=300)] | None = None


class OtherLoadJson(Strict):
    """Another load of the control power, such as an outdoor contactor."""

    id: Id
    label: Text = ""
    call: Call
    va: Va


class UnitJson(Strict):
    """One unit. What is left out is not judged, and its absence is said."""

    id: Annotated[str, Field(min_length=1, max_length=80)]
    label: Text = ""
    kind: Literal["air-handler", "electric-furnace", "package-unit"] = "air-handler"
    circuits: Annotated[list[CircuitJson], Field(min_length=1, max_length=6)]
    limits: Annotated[list[LimitJson], Field(max_length=16)] = []
    links: Annotated[list[LinkJson], Field(max_length=16)] = []
    elements: Annotated[list[ElementJson], Field(min_length=1, max_length=12)]
    controls: Annotated[list[ControlJson], Field(max_length=12)] = []
    blower: BlowerJson | None = None
    control_power: ControlPowerJson | None = None
    other_loads: Annotated[list[OtherLoadJson], Field(max_length=8)] = []
    feeder: FeederJson | None = None
    part_kinds: Annotated[list[PartKindJson], Field(max_length=12)] = []

    @field_validator("controls")
    @classmethod
    def _not_too_many(cls, controls: list[ControlJson]) -> list[ControlJson]:
        if sum(len(control.switches) for control in controls) > MOST_SWITCHES:
            raise ValueError(f"{MOST_SWITCHES} switches at most, those of all devices together")
        return controls

    def to_core(self) -> Unit:
        """The checked unit; raises BadInput (path below ``unit``)."""
        power = self.control_power or ControlPowerJson(circuit=self.circuits[0].id)
        return Unit(
            id=self.id,
            label=self.label,
            kind=self.kind,
            circuits=tuple(_circuit(c) for c in self.circuits),
            limits=tuple(core.Limit(**limit.model_dump()) for limit in self.limits),
            links=tuple(core.Link(link.id) for link in self.links),
            elements=tuple(
                core.Element(e.id, e.rated_kw * 1000, e.rated_volts, e.circuit, tuple(e.rung))
                for e in self.elements
            ),
            controls=tuple(_control(c) for c in self.controls),
            blower=_blower(self.blower) if self.blower else None,
            control_power=core.ControlPower(**power.model_dump()),
            other_loads=tuple(core.OtherLoad(**load.model_dump()) for load in self.other_loads),
            feeder=self.feeder.to_core() if self.feeder else None,
            part_kinds=tuple(self._kinds()),
        )

    def _kinds(self) -> Iterator[PartKind]:
        for at, kind in enumerate(self.part_kinds):
            try:
                yield kind.to_core()
            except BadInput as bad:
                raise bad.under(f"part_kinds[{at}]") from None


def _circuit(circuit: CircuitJson) -> core.Circuit:
    plate = circuit.plate
    return core.Circuit(
        circuit.id,
        circuit.rated_volts,
        circuit.breaker_amps,
        _conductor(circuit.conductor),
        core.CircuitPlate(**plate.model_dump()) if plate else None,
        circuit.subdivided,
        circuit.breaker_legs,
    )


def _conductor(wire: ConductorJson | None) -> core.Conductor | None:
    return core.Conductor(**wire.model_dump()) if wire else None


def _window(printed: tuple[float, float] | None, usual: Band) -> Band:
    return Band(*printed) if printed else usual


def _control(control: ControlJson) -> core.Control:
    kind = core.CONTROL_KINDS[control.type]
    through = control.call.through if isinstance(control.call, ThroughJson) else None
    return core.Control(
        id=control.id,
        type=control.type,
        coil=control.coil.to_core(),
        switches=tuple(
            core.Switch(s.id, _window(s.on_s, kind.on_s), _window(s.off_s, kind.off_s),
                        s.contact_amps, s.role)
            for s in control.switches
        ),
        call=None if isinstance(control.call, ThroughJson) else control.call,
        through=through,
        outdoor=_outdoor(control.outdoor_thermostat),
        part=control.part,
        wired=tuple(wire.to_core() for wire in control.wired),
    )  # fmt: skip


def _outdoor(outdoor: OutdoorJson | None) -> core.OutdoorThermostat | None:
    return core.OutdoorThermostat(outdoor.closes_below_f) if outdoor else None


def _relay(relay: RelayJson) -> core.BlowerRelay:
    kind = core.RELAY_KINDS[relay.type]
    return core.BlowerRelay(
        relay.id, kind.name, relay.call, relay.coil.to_core(),
        _window(relay.on_s, kind.on_s), _window(relay.off_s, kind.off_s), relay.contact_amps,
        core.RelayWires(**relay.wires.model_dump()) if relay.wires else None,
        relay.part, tuple(wire.to_core() for wire in relay.wired),
    )  # fmt: skip


def _blower(blower: BlowerJson) -> core.Blower:
    return core.Blower(
        circuit=blower.circuit,
        motor=blower.motor,
        interlock=core.Interlock(**blower.interlock.model_dump())
        if blower.interlock
        else core.Interlock("unknown"),
        relay=_relay(blower.relay) if blower.relay else None,
        **blower.model_dump(exclude={"circuit", "motor", "interlock", "relay"}),
    )


def unit_to_json(unit: Unit) -> dict[str, Any]:
    """The unit in the visit file's terms; what is None is left out."""
    return {
        "id": unit.id,
        "label": unit.label,
        "kind": unit.kind,
        "circuits": [_circuit_to_json(c) for c in unit.circuits],
        "limits": [present(id=x.id, opens_f=x.opens_f, closes_f=x.closes_f) for x in unit.limits],
        "links": [{"id": link.id} for link in unit.links],
        "elements": [
            {
                "id": e.id,
                "rated_kw": e.rated_watts / 1000,
                "rated_volts": e.rated_volts,
                "circuit": e.circuit,
                "rung": list(e.rung),
            }
            for e in unit.elements
        ],
        "controls": [control_to_json(c) for c in unit.controls],
        **present(blower=_blower_to_json(unit.blower) if unit.blower else None),
        "control_power": present(**_fields(unit.control_power)),
        "other_loads": [_fields(load) for load in unit.other_loads],
        **present(
            feeder=_feeder_to_json(unit.feeder) if unit.feeder else None,
            part_kinds=[part_kind_to_json(kind) for kind in unit.part_kinds] or None,
        ),
    }


def _feeder_to_json(feeder: core.Feeder) -> dict[str, Any]:
    wire = present(**_fields(feeder.conductor)) if feeder.conductor else None
    return present(**_fields(feeder) | {
        "circuits": list(feeder.circuits), "conductor": wire, "breaker_legs": _legs(feeder),
    })  # fmt: skip


def _legs(one: core.Circuit | core.Feeder) -> int | None:
    """Said only where it is not both."""
    return one.breaker_legs if one.breaker_legs != 2 else None


def _fields(thing: Any) -> dict[str, Any]:
    return {name: getattr(thing, name) for name in thing.__dataclass_fields__}


def _circuit_to_json(circuit: core.Circuit) -> dict[str, Any]:
    return present(
        id=circuit.id,
        rated_volts=circuit.rated_volts,
        breaker_amps=circuit.breaker_amps,
        conductor=present(**_fields(circuit.conductor)) if circuit.conductor else None,
        plate=present(**_fields(circuit.plate)) if circuit.plate else None,
        subdivided=circuit.subdivided,
        breaker_legs=_legs(circuit),
    )


def _coil_to_json(coil: core.Coil) -> dict[str, Any]:
    return present(volts=coil.volts, ohms=pair(coil.ohms), va=coil.va)


def control_to_json(control: core.Control) -> dict[str, Any]:
    """A device in the visit file's terms; what is None is left out."""
    return {
        "id": control.id,
        "type": control.type,
        "call": control.call or {"through": control.through},
        "coil": _coil_to_json(control.coil),
        "switches": [
            present(
                id=s.id, contact_amps=s.contact_amps, role=s.role,
                on_s=pair(s.on_s), off_s=pair(s.off_s),
            )
            for s in control.switches
        ],
        **present(
            outdoor_thermostat=present(**_fields(control.outdoor)) if control.outdoor else None,
            part=control.part, wired=wires_to_json(control.wired),
        ),
    }  # fmt: skip


def _blower_to_json(blower: core.Blower) -> dict[str, Any]:
    tie = blower.interlock
    known = present(**_fields(tie)) if tie.kind != "unknown" else None
    written = present(**_fields(blower) | {"interlock": known})
    if blower.relay is not None:
        written["relay"] = relay_to_json(blower.relay)
    return written


def relay_to_json(relay: core.BlowerRelay) -> dict[str, Any]:
    """A blower's relay in the visit file's terms; what is None is left out."""
    return present(
        id=relay.id, type=relay.type, call=relay.call, coil=_coil_to_json(relay.coil),
        contact_amps=relay.contact_amps, on_s=pair(relay.on_s), off_s=pair(relay.off_s),
        wires=_fields(relay.wires) if relay.wires else None,
        part=relay.part, wired=wires_to_json(relay.wired),
    )  # fmt: skip
