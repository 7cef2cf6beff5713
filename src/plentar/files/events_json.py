"""The events as the visit file writes them: one model a kind, in a union told by its key."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal, Union

from pydantic import Discriminator, Field, Tag, model_validator

from plentar.core.quantity import Quantity
from plentar.core.unit import parts as core_parts
from plentar.core.visit import events as core
from plentar.files.bench_events_json import FeltJson, SwapJson, TestedJson, TriedJson, WireMovedJson
from plentar.files.device_json import Call, ControlJson, RelayJson, control_to_json, relay_to_json
from plentar.files.event_model import EventModel, Note, PartName, given, ohms_from_json, ohms_to_json
from plentar.files.shapes import Text
from plentar.words import phrase

#: Far above anything a field meter shows, far below what would spoil the arithmetic.
Value = Annotated[float, Field(ge=-1e4, le=1e12)] | Literal["OL"] | bool


class PowerJson(EventModel):
    """A breaker was moved, or the unit proved dead."""

    kind: ClassVar[type[core.Event]] = core.Power
    named = {"power": "state"}

    power: Literal["on", "off", "proved-dead"]
    circuit: PartName | None = None


class CallsJson(EventModel):
    """What is asked for from now on."""

    kind: ClassVar[type[core.Event]] = core.Calls
    reads = {"calls": frozenset}
    writes = {"calls": sorted}
    always = frozenset({"calls"})

    calls: Annotated[list[Call], Field(max_length=5)]
    lifted: bool | None = None


class ReadingJson(EventModel):
    """A number off a meter."""

    kind: ClassVar[type[core.Event]] = core.Reading
    named = {"read": "quantity"}
    reads = {"read": Quantity, "value": ohms_from_json}
    writes = {"read": str, "value": ohms_to_json}

    read_: Annotated[Literal[tuple(map(str, Quantity))], Field(alias="read")]  # type: ignore[valid-type]
    at: Annotated[str, Field(max_length=90)]
    value: Value
    meter: Text | None = None
    note: Note | None = None
    driven: bool | None = None
    turns: Annotated[int, Field(ge=1, le=50)] | None = None
    driven_s: (
        Annotated[float, Field(ge=0, le=1e5, description="Seconds the coil had been fed when it was read.")]
        | None
    ) = None
    low_z: bool | None = None

    @model_validator(mode="after")
    def _told_by_ear(self) -> ReadingJson:
        if (self.read_ == "tone") != isinstance(self.value, bool):
            raise ValueError(phrase("files.events-json.tone-true-or-false"))
        return self

    @classmethod
    def write(cls, event: core.Event) -> dict[str, Any]:
        found = super().write(event)
        if isinstance(event, core.Reading) and event.quantity is Quantity.TONE:
            found["value"] = bool(event.value)
        return found


class ObservedJson(EventModel):
    """Seen or heard."""

    kind: ClassVar[type[core.Event]] = core.Observed
    named = {"observe": "action"}

    observe: Literal["on", "off", "cycling", "steady", "blown", "whole"]
    part: PartName


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


def _device(body: dict[str, Any]) -> core_parts.Control | core_parts.BlowerRelay:
    model = ControlJson if body["type"] in core_parts.CONTROL_KINDS else RelayJson
    return model.model_validate(body).to_core()


def _device_to_json(device: core_parts.Control | core_parts.BlowerRelay) -> dict[str, Any]:
    if isinstance(device, core_parts.BlowerRelay):
        return relay_to_json(device)
    return control_to_json(device)


class ReplacedJson(EventModel):
    """A part was replaced or repaired."""

    kind: ClassVar[type[core.Event]] = core.Replaced
    named = {"replaced": "component"}
    reads = {"by": _device}
    writes = {"by": _device_to_json}

    replaced: PartName
    by: DeviceJson | None = None
    note: Note | None = None


class DidJson(EventModel):
    """Other work than a replacement."""

    kind: ClassVar[type[core.Event]] = core.Did
    named = {"did": "verb"}

    did: Literal[tuple(core.VERBS)]  # type: ignore[valid-type]
    part: PartName
    note: Note | None = None


class WiresJson(EventModel):
    """The thermostat wires at the board, or the two wires of a coil."""

    kind: ClassVar[type[core.Event]] = core.Wires
    named = {"wires": "state"}

    wires: Literal["lifted", "restored"]
    part: PartName | None = None


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


if TYPE_CHECKING:
    EventJson = EventModel
else:
    EventJson = Annotated[
        Union[tuple(Annotated[model, Tag(TAG + name)] for name, model in MODELS.items())],  # noqa: UP007
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
