"""The events as the visit file writes them: one model a kind, in a union told by its key."""

from __future__ import annotations

import math
from abc import abstractmethod
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from plentar.core import events as core
from plentar.core import parts as core_parts
from plentar.core.quantity import Quantity
from plentar.files.part_kind_json import KindName, Short, TerminalName
from plentar.files.shapes import Strict, Text
from plentar.files.unit_json import Call, ControlJson, RelayJson, control_to_json, relay_to_json

TimeS = Annotated[float, Field(ge=0, le=1e8)]
#: Far above anything a field meter shows, far below what would spoil the arithmetic.
Value = Annotated[float, Field(ge=-1e4, le=1e12)] | Literal["OL"] | bool
PartName = Annotated[str, Field(max_length=60)]
Note = Annotated[str, Field(max_length=2000)]


class EventModel(Strict):
    """One event of the file: ``t``, and the keys of its kind."""

    #: The core's class of this kind.
    kind: ClassVar[type[core.Event]]

    t: TimeS
    lead_s: Annotated[float, Field(ge=0, le=3600)] = 0
    clock: (
        Annotated[
            float,
            Field(
                ge=0,
                le=1e8,
                description="The clock's own time, where it had stepped back behind t.",
            ),
        ]
        | None
    ) = None

    @classmethod
    @abstractmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """The core's event from a checked body; ``when`` holds its time, lead and key."""

    @classmethod
    @abstractmethod
    def write(cls, event: Any) -> dict[str, Any]:
        """The keys of the kind; what is at its default is left out."""

    def to_core(self) -> core.Event:
        """The event in the core's terms."""
        return event_from_json(self.model_dump(exclude_none=True, by_alias=True))


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
        return {"power": event.state, **_given(circuit=event.circuit)}


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
            **when, quantity=Quantity(body["read"]), at=body["at"],
            value=math.inf if value == "OL" else float(value), meter=body.get("meter", ""),
            note=body.get("note", ""), driven=body.get("driven", False), turns=body.get("turns") or 1,
        )  # fmt: skip

    @classmethod
    def write(cls, event: core.Reading) -> dict[str, Any]:
        """As ``EventModel`` says."""
        value: Any = "OL" if math.isinf(event.value) else event.value
        if event.quantity is Quantity.TONE:
            value = bool(event.value)
        return {
            "read": str(event.quantity), "at": event.at, "value": value,
            **_given(meter=event.meter, note=event.note, driven=event.driven),
            **({"turns": event.turns} if event.turns > 1 else {}),
        }  # fmt: skip


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
        return {"replaced": event.component, **_given(by=by, note=event.note)}


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
        return {"did": event.verb, "part": event.part, **_given(note=event.note)}


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


class TestedJson(EventModel):
    """Ohms or a tone between two terminals of a device on the relay bench, or of the leads alone."""

    __test__ = False
    kind: ClassVar[type[core.Event]] = core.Tested

    tested: PartName
    pair: Annotated[tuple[TerminalName, TerminalName], Field(strict=False)]
    ohms: Annotated[float, Field(ge=0, le=1e12)] | Literal["OL"] | None = None
    tone: bool | None = None
    driven: bool = False
    new: bool = False
    part: KindName | None = None

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        ohms = body.get("ohms")
        return core.Tested(
            **when, device=body["tested"], pair=(body["pair"][0], body["pair"][1]),
            ohms=math.inf if ohms == "OL" else ohms, tone=body.get("tone"),
            driven=body.get("driven", False), new=body.get("new", False), part=body.get("part"),
        )  # fmt: skip

    @classmethod
    def write(cls, event: core.Tested) -> dict[str, Any]:
        """As ``EventModel`` says."""
        ohms = (
            {} if event.ohms is None else {"ohms": "OL" if math.isinf(event.ohms) else event.ohms}
        )
        tone = {} if event.tone is None else {"tone": event.tone}
        return {
            "tested": event.device, "pair": list(event.pair), **ohms, **tone,
            **_given(driven=event.driven, new=event.new, part=event.part),
        }  # fmt: skip


class TriedJson(EventModel):
    """One start of a device, and whether it acted."""

    kind: ClassVar[type[core.Event]] = core.Tried

    tried: PartName
    acted: bool
    after_s: Annotated[float, Field(ge=0, le=3600)] | None = None

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        after = body.get("after_s")
        return core.Tried(**when, device=body["tried"], acted=body["acted"], after_s=after)

    @classmethod
    def write(cls, event: core.Tried) -> dict[str, Any]:
        """As ``EventModel`` says."""
        after = {} if event.after_s is None else {"after_s": event.after_s}
        return {"tried": event.device, "acted": event.acted, **after}


class FeltJson(EventModel):
    """What a hand or an ear says of the blower's motor."""

    kind: ClassVar[type[core.Event]] = core.Felt

    felt: Literal[tuple(core.FEELS)]  # type: ignore[valid-type]
    part: Literal["blower"] = "blower"

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        return core.Felt(**when, what=body["felt"], part=body.get("part", "blower"))

    @classmethod
    def write(cls, event: core.Felt) -> dict[str, Any]:
        """As ``EventModel`` says."""
        return {"felt": event.what, "part": event.part}


class SheetWireJson(Strict):
    """A line of a transfer sheet: the wire, from which terminal to which."""

    id: Short
    old: TerminalName
    new: TerminalName
    to: Short = ""
    colour: Short = ""
    label: Short = ""
    awg: Short = ""


class SwapJson(EventModel):
    """A swap begins: what goes in, and every wire of what goes out."""

    kind: ClassVar[type[core.Event]] = core.Swap

    swap: PartName
    part: KindName
    sheet: Annotated[list[SheetWireJson], Field(min_length=1, max_length=core.MOST_WIRES)]

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        wires = tuple(core.SheetWire(**wire) for wire in body["sheet"])
        return core.Swap(**when, device=body["swap"], part=body["part"], wires=wires)

    @classmethod
    def write(cls, event: core.Swap) -> dict[str, Any]:
        """As ``EventModel`` says."""
        keys = ("id", "old", "new", "to", "colour", "label", "awg")
        wires = [_given(**{key: getattr(wire, key) for key in keys}) for wire in event.wires]
        return {"swap": event.device, "part": event.part, "sheet": wires}


class WireMovedJson(EventModel):
    """A wire of a sheet was taken off, landed, or put back."""

    kind: ClassVar[type[core.Event]] = core.WireMoved

    wire: Short
    of: PartName
    is_: Annotated[Literal[core.WIRE_ACTS], Field(alias="is")]  # type: ignore[valid-type]
    at: TerminalName | None = None
    renewed: Text | None = None

    @classmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """As ``EventModel`` says."""
        return core.WireMoved(
            **when, wire=body["wire"], device=body["of"], act=body["is"],
            at=body.get("at") or "", renewed=body.get("renewed") or "",
        )  # fmt: skip

    @classmethod
    def write(cls, event: core.WireMoved) -> dict[str, Any]:
        """As ``EventModel`` says."""
        return {
            "wire": event.wire, "of": event.device, "is": event.act,
            **_given(at=event.at, renewed=event.renewed),
        }  # fmt: skip


MODELS: dict[str, type[EventModel]] = {
    model.kind.name: model
    for model in (
        PowerJson, CallsJson, ReadingJson, ObservedJson, ReplacedJson, DidJson, WiresJson, TestedJson,
        TriedJson, FeltJson, SwapJson, WireMovedJson,
    )
}  # fmt: skip
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
        _kind_of, custom_error_type="event_kind",
        custom_error_message=f"an event has exactly one of {', '.join(MODELS)}",
    ),
]  # fmt: skip


def _given(**values: Any) -> dict[str, Any]:
    return {name: value for name, value in values.items() if value}


def event_from_json(body: dict[str, Any], key: str = "") -> core.Event:
    """An event's JSON, already checked (as stored ones are), in the core's terms."""
    model = next(model for name, model in MODELS.items() if name in body)
    when = {"t_s": body["t"], "lead_s": body.get("lead_s", 0.0), "key": key}
    return model.read(body, when | {"clock_s": body.get("clock")})


def event_to_json(event: core.Event) -> dict[str, Any]:
    """The event in the visit file's terms; what is at its default is left out."""
    clock = {} if event.clock_s is None else {"clock": event.clock_s}
    when = {"t": event.t_s, **_given(lead_s=event.lead_s), **clock}
    return {**when, **MODELS[event.name].write(event)}
