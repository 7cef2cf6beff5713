"""The unit as the visit file writes it: shape and ranges here, fit of the parts in the core."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from plentar.core.errors import BadInput
from plentar.core.unit import parts as core
from plentar.core.unit.terminals import PartKind
from plentar.core.unit.unit import Unit
from plentar.files.circuit_json import CircuitJson, FeederJson, circuit_from, circuit_to_json, feeder_to_json
from plentar.files.device_json import (
    BlowerJson,
    Call,
    ControlJson,
    blower_from,
    blower_to_json,
    control_from,
    control_to_json,
)
from plentar.files.part_kind_json import PartKindJson, part_kind_to_json
from plentar.files.shapes import Amps, Id, Named, Strict, SupplyVolts, Text, Va, fields_of, present
from plentar.words import phrase

#: More than any unit of a home has; what a judge has to weigh grows with them.
MOST_SWITCHES = 40
#: Whose parts may have a name that is printed in the unit, beside the switches of the controls.
_NAMED = ("circuits", "limits", "links", "elements", "controls")


class LimitJson(Named):
    """A limit: where it opens and closes, °F."""

    opens_f: Annotated[float, Field(ge=80, le=400)] | None = None
    closes_f: Annotated[float, Field(ge=60, le=400)] | None = None

    @model_validator(mode="after")
    def _order(self) -> LimitJson:
        if self.opens_f is not None and self.closes_f is not None and self.closes_f >= self.opens_f:
            raise ValueError(phrase("files.unit-json.limit-closes-again-below"))
        return self


class LinkJson(Named):
    """A fusible link."""


class ElementJson(Named):
    """An element as rated, and the parts in series with it from L1 to L2."""

    rated_kw: Annotated[float, Field(gt=0, le=40)]
    rated_volts: SupplyVolts
    circuit: Id
    rung: Annotated[list[Id], Field(min_length=1, max_length=12)]


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
    elements: Annotated[
        list[ElementJson], Field(max_length=12, description="Empty where a blower’s relay alone is at issue.")
    ]
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
            raise ValueError(phrase("files.unit-json.switches-most-those-all", most_switches=MOST_SWITCHES))
        return controls

    def to_core(self) -> Unit:
        """The checked unit; raises BadInput (path below ``unit``)."""
        power = self.control_power or ControlPowerJson(circuit=self.circuits[0].id)
        return Unit(
            id=self.id,
            label=self.label,
            kind=self.kind,
            circuits=tuple(circuit_from(c) for c in self.circuits),
            limits=tuple(core.Limit(limit.id, limit.opens_f, limit.closes_f) for limit in self.limits),
            links=tuple(core.Link(link.id) for link in self.links),
            elements=tuple(
                core.Element(e.id, e.rated_kw * 1000, e.rated_volts, e.circuit, tuple(e.rung))
                for e in self.elements
            ),
            controls=tuple(control_from(c) for c in self.controls),
            blower=blower_from(self.blower) if self.blower else None,
            control_power=core.ControlPower(**power.model_dump()),
            other_loads=tuple(core.OtherLoad(**load.model_dump()) for load in self.other_loads),
            feeder=self.feeder.to_core() if self.feeder else None,
            part_kinds=tuple(self._kinds()),
            printed=tuple((part.id, part.name) for part in self._named() if part.name),
        )

    def _named(self) -> Iterator[Named]:
        yield from (part for group in _NAMED for part in getattr(self, group))
        yield from (switch for control in self.controls for switch in control.switches)

    def _kinds(self) -> Iterator[PartKind]:
        for at, kind in enumerate(self.part_kinds):
            try:
                yield kind.to_core()
            except BadInput as bad:
                raise bad.under(f"part_kinds[{at}]") from None


def unit_to_json(unit: Unit) -> dict[str, Any]:
    """The unit in the visit file's terms; what is None is left out."""
    written: dict[str, Any] = {
        "id": unit.id,
        "label": unit.label,
        "kind": unit.kind,
        "circuits": [circuit_to_json(c) for c in unit.circuits],
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
        **present(blower=blower_to_json(unit.blower) if unit.blower else None),
        "control_power": present(**fields_of(unit.control_power)),
        "other_loads": [fields_of(load) for load in unit.other_loads],
        **present(
            feeder=feeder_to_json(unit.feeder) if unit.feeder else None,
            part_kinds=[part_kind_to_json(kind) for kind in unit.part_kinds] or None,
        ),
    }
    parts = [part for group in _NAMED for part in written[group]]
    printed = dict(unit.printed)
    for part in (*parts, *(switch for control in written["controls"] for switch in control["switches"])):
        if part["id"] in printed:
            part["name"] = printed[part["id"]]
    return written
