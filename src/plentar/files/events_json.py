"""The events as the visit file writes them: one model a kind, in a union told by its key."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from plentar.core.quantity import Quantity
from plentar.core.unit import parts as core_parts
from plentar.core.visit import events as core
from plentar.files.bench_events_json import FeltJson, SwapJson, TestedJson, TriedJson, WireMovedJson
from plentar.files.device_json import Call, ControlJson, RelayJson, control_to_json, relay_to_json
from plentar.files.event_model import EventModel, Note, PartName, given
from plentar.files.shapes import Text

#: Far above anything a field meter shows, far below what would spoil the arithmetic.
Value = Annotated[float, Field(ge=-1e4, le=1e12)] | Literal["OL"] | bool


class PowerJson(EventModel):
    """A breaker was moved, or the unit proved dead."""

    kind: ClassVar[type[core.Event]] = core.Power

    power: Literal["on", "off", "proved-dead"]
    circuit: PartName | None = None

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        return core.Power(**when, state=body["power"], circuit=body.get("circuit"))

    @classmethod
    def write(cls, event: core.Power) -> dict[str, Any]:
        """As ``EventModel`` says."""
        return {"power": event.state, **given(circuit=event.circuit)}


class CallsJson(EventModel):
    """What is asked for from now on."""

    kind: ClassVar[type[core.Event]] = core.Calls

    calls: Annotated[list[Call], Field(max_length=4)]
    lifted: bool | None = None

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        asked = frozenset(body["calls"])
        return core.Calls(**when, calls=asked, lifted=body.get("lifted"))

    @classmethod
    def write(cls, event: core.Calls) -> dict[str, Any]:
        """As ``EventModel`` says."""
        lifted = {} if event.lifted is None else {"lifted": event.lifted}
        return {"calls": sorted(event.calls), **lifted}


class ReadingJson(EventModel):
    """A number off a meter."""

    kind: ClassVar[type[core.Event]] = core.Reading

    read_: Annotated[Literal[tuple(map(str, Quantity))], Field(alias="read")]  # type: ignore[valid-type]
    at: Annotated[str, Field(max_length=90)]
    value: Value
    meter: Text | None = None
    note: Note | None = None
    driven: bool | None = None
    turns: Annotated[int, Field(ge=1, le=50)] | None = None

    @model_validator(mode="after")
    def _told_by_ear(self) -> ReadingJson:
        if (self.read_ == "tone") != isinstance(self.value, bool):
            raise ValueError("a tone is true or false, and nothing else is")
        return self

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        value = body["value"]
        return core.Reading(
            **when,
            quantity=Quantity(body["read"]),
            at=body["at"],
            value=math.inf if value == "OL" else float(value),
            meter=body.get("meter", ""),
            note=body.get("note", ""),
            driven=body.get("driven", False),
            turns=body.get("turns") or 1,
        )

    @classmethod
    def write(cls, event: core.Reading) -> dict[str, Any]:
        """As ``EventModel`` says."""
        value: Any = "OL" if math.isinf(event.value) else event.value
        if event.quantity is Quantity.TONE:
            value = bool(event.value)
        return {
            "read": str(event.quantity),
            "at": event.at,
            "value": value,
            **given(meter=event.meter, note=event.note, driven=event.driven),
            **({"turns": event.turns} if event.turns > 1 else {}),
        }


class ObservedJson(EventModel):
    """Seen or heard."""

    kind: ClassVar[type[core.Event]] = core.Observed

    observe: Literal["on", "off", "cycling", "steady"]
    part: PartName

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        return core.Observed(**when, action=body["observe"], part=body["part"])

    @classmethod
    def write(cls, event: core.Observed) -> dict[str, Any]:
        """As ``EventModel`` says."""
        return {"observe": event.action, "part": event.part}


def _which_device(value: Any) -> str:
    """A blower's relay by its type; anything else is told by what a control device wants."""
    kind = value.get("type") if isinstance(value, dict) else getattr(value, "type", None)
    return TAG + ("relay" if kind in core_parts.RELAY_KINDS else "control")


#: Marks the arms of a union in a complaint's path, where they are left out again.
TAG = "kind:"
DeviceJson = Annotated[
    Annotated[ControlJson, Tag(TAG + "control")] | Annotated[RelayJson, Tag(TAG + "relay")],
    Discriminator(_which_device),
]


class ReplacedJson(EventModel):
    """A part was replaced or repaired."""

    kind: ClassVar[type[core.Event]] = core.Replaced

    replaced: PartName
    by: DeviceJson | None = None
    note: Note | None = None

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        by = _device(body["by"]) if body.get("by") else None
        return core.Replaced(**when, component=body["replaced"], by=by, note=body.get("note", ""))

    @classmethod
    def write(cls, event: core.Replaced) -> dict[str, Any]:
        """As ``EventModel`` says."""
        by = _device_to_json(event.by) if event.by else None
        return {"replaced": event.component, **given(by=by, note=event.note)}


def _device(body: dict[str, Any]) -> core_parts.Control | core_parts.BlowerRelay:
    model = ControlJson if body["type"] in core_parts.CONTROL_KINDS else RelayJson
    return model.model_validate(body).to_core()


def _device_to_json(device: core_parts.Control | core_parts.BlowerRelay) -> dict[str, Any]:
    if isinstance(device, core_parts.BlowerRelay):
        return relay_to_json(device)
    return control_to_json(device)


class DidJson(EventModel):
    """Other work than a replacement."""

    kind: ClassVar[type[core.Event]] = core.Did

    did: Literal[tuple(core.VERBS)]  # type: ignore[valid-type]
    part: PartName
    note: Note | None = None

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        return core.Did(**when, verb=body["did"], part=body["part"], note=body.get("note", ""))

    @classmethod
    def write(cls, event: core.Did) -> dict[str, Any]:
        """As ``EventModel`` says."""
        return {"did": event.verb, "part": event.part, **given(note=event.note)}


class WiresJson(EventModel):
    """The thermostat wires at the board."""

    kind: ClassVar[type[core.Event]] = core.Wires

    wires: Literal["lifted", "restored"]

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        return core.Wires(**when, state=body["wires"])

    @classmethod
    def write(cls, event: core.Wires) -> dict[str, Any]:
        """As ``EventModel`` says."""
        return {"wires": event.state}


MODELS: dict[str, type[EventModel]] = {
    model.kind.name: model
    for model in (
        PowerJson,
        CallsJson,
        ReadingJson,
        ObservedJson,
        ReplacedJson,
        DidJson,
        WiresJson,
        TestedJson,
        TriedJson,
        FeltJson,
        SwapJson,
        WireMovedJson,
    )
}
#: What may be struck out: breakers that were moved and parts that were replaced stay.
STRUCK_OUT = frozenset(kind.name for kind in core.KINDS if kind.may_be_struck)


def _kind_of(value: Any) -> str | None:
    """The one kind whose key an event has; none where there is none or more than one."""
    if isinstance(value, EventModel):
        return TAG + value.kind.name
    kinds = [name for name in MODELS if name in value] if isinstance(value, dict) else []
    return TAG + kinds[0] if len(kinds) == 1 else None


EventJson = Annotated[
    Annotated[PowerJson, Tag(TAG + "power")]
    | Annotated[CallsJson, Tag(TAG + "calls")]
    | Annotated[ReadingJson, Tag(TAG + "read")]
    | Annotated[ObservedJson, Tag(TAG + "observe")]
    | Annotated[ReplacedJson, Tag(TAG + "replaced")]
    | Annotated[DidJson, Tag(TAG + "did")]
    | Annotated[WiresJson, Tag(TAG + "wires")]
    | Annotated[TestedJson, Tag(TAG + "tested")]
    | Annotated[TriedJson, Tag(TAG + "tried")]
    | Annotated[FeltJson, Tag(TAG + "felt")]
    | Annotated[SwapJson, Tag(TAG + "swap")]
    | Annotated[WireMovedJson, Tag(TAG + "wire")],
    Discriminator(
        _kind_of,
        custom_error_type="event_kind",
        custom_error_message=f"an event has exactly one of {', '.join(MODELS)}",
    ),
]


def event_from_json(body: dict[str, Any], key: str = "") -> core.Event:
    """An event's JSON, already checked (as stored ones are), in the core's terms."""
    return next(model for name, model in MODELS.items() if name in body).from_body(body, key)


def event_to_json(event: core.Event) -> dict[str, Any]:
    """The event in the visit file's terms; what is at its default is left out."""
    clock = {} if event.clock_s is None else {"clock": event.clock_s}
    when = {"t": event.t_s, **given(lead_s=event.lead_s), **clock}
    return {**when, **MODELS[event.name].write(event)}
