"""The visit as the visit file writes it: settings and events."""

from __future__ import annotations

import math
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import AwareDatetime, BeforeValidator, Field, model_validator

from plentar.core import events as core
from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.ratings import Tolerance
from plentar.files.unit_json import Call, Strict, Text

TimeS = Annotated[float, Field(ge=0, le=1e8)]
#: Far above anything a field meter shows, far below what would spoil the arithmetic.
Value = Annotated[float, Field(ge=-1e4, le=1e12)] | Literal["OL"]
_KINDS = ("power", "calls", "read", "observe", "replaced")


class EventJson(Strict):
    """One event: ``t`` and exactly one of power, calls, read, observe, replaced."""

    t: TimeS
    lead_s: Annotated[float, Field(ge=0, le=3600)] = 0
    power: Literal["on", "off", "proved-dead"] | None = None
    circuit: str | None = None
    calls: Annotated[list[Call], Field(max_length=4)] | None = None
    lifted: bool | None = None
    read: Literal["amps", "volts", "volts_dc", "ohms", "temp_f", "uf"] | None = None
    at: Annotated[str, Field(max_length=90)] | None = None
    value: Value | None = None
    meter: Text | None = None
    note: Annotated[str, Field(max_length=2000)] | None = None
    driven: bool | None = None
    observe: Literal["on", "off", "cycling", "steady"] | None = None
    part: str | None = None
    replaced: Annotated[str, Field(max_length=60)] | None = None

    @model_validator(mode="after")
    def _one_kind(self) -> EventJson:
        kinds = [kind for kind in _KINDS if getattr(self, kind) is not None]
        if len(kinds) != 1:
            raise ValueError(f"an event has exactly one of {', '.join(_KINDS)}")
        belongs = {
            "power": {"circuit"}, "calls": {"lifted"}, "observe": {"part"}, "replaced": set(),
            "read": {"at", "value", "meter", "note", "driven"},
        }  # fmt: skip
        given = {
            name for names in belongs.values() for name in names if getattr(self, name) is not None
        }
        if stray := given - belongs[kinds[0]]:
            raise ValueError(f"{sorted(stray)[0]!r} does not go with {kinds[0]!r}")
        if self.read and (self.at is None or self.value is None):
            raise ValueError("a reading needs 'at' and 'value'")
        if self.observe and self.part is None:
            raise ValueError("an observation needs 'part'")
        return self

    def to_core(self) -> core.Event:
        """The event in the core's terms."""
        return event_from_json(self.model_dump(exclude_none=True))


#: What may be struck out: breakers that were moved and parts that were replaced stay.
STRUCK_OUT = frozenset({"read", "observe", "calls"})


class StruckJson(Strict):
    """A reading, observation or call that was struck out, kept for the record; no evidence."""

    event: EventJson
    reason: Annotated[str, Field(min_length=1, max_length=500)]


class SettingsJson(Strict):
    """By which band amps are judged. The altitude is kept and not judged yet."""

    band: Literal["plate", "house"] = "plate"
    altitude_ft: Annotated[
        float, Field(ge=-1500, le=20000, description="Of the unit. Not judged yet.")
    ] = 0

    def to_core(self) -> core.Settings:
        """The settings in the core's terms."""
        return core.Settings(Tolerance(self.band), self.altitude_ft)


def _as_time(value: Any) -> Any:
    """ISO text to a time, in strict mode too."""
    if isinstance(value, str):
        try:
            return datetime.fromisoformat(value)
        except ValueError:
            raise ValueError("an ISO 8601 time with its zone, like 2026-10-05T09:00:00Z") from None
    return value


class LookedJson(Strict):
    """One item of the look at the whole unit."""

    t: TimeS
    item: Literal[tuple(core.LOOK_ITEMS)]  # type: ignore[valid-type]
    state: Literal["fine", "poor", "burnt"]

    def to_core(self) -> core.Looked:
        """The item in the core's terms."""
        return core.Looked(self.t, self.item, self.state)


class AnsweredJson(Strict):
    """A stop-now finding made safe."""

    t: TimeS
    code: Annotated[str, Field(max_length=60)]
    component: Annotated[str, Field(max_length=60)]
    how: Annotated[str, Field(min_length=3, max_length=500)]
    by: Annotated[str, Field(max_length=120)] = ""

    def to_core(self) -> core.Answered:
        """The answer in the core's terms."""
        return core.Answered(self.t, self.code, self.component, self.how, self.by)


class VisitJson(Strict):
    """One visit. ``started`` and ``struck`` are for the record; judging does not read them."""

    complaint: Literal[tuple(core.COMPLAINTS)] | None = None  # type: ignore[valid-type]
    settings: SettingsJson = SettingsJson()
    started: Annotated[AwareDatetime, BeforeValidator(_as_time)] | None = None
    events: Annotated[list[EventJson], Field(max_length=20000, default_factory=list)]
    struck: Annotated[list[StruckJson], Field(max_length=5000, default_factory=list)]
    looked: Annotated[list[LookedJson], Field(max_length=500, default_factory=list)]
    answered: Annotated[list[AnsweredJson], Field(max_length=500, default_factory=list)]

    def to_core(self) -> core.Visit:
        """The visit in the core's terms; struck readings stay out."""
        return core.Visit(
            self.complaint,
            self.settings.to_core(),
            tuple(event.to_core() for event in self.events),
            tuple(seen.to_core() for seen in self.looked),
            tuple(answer.to_core() for answer in self.answered),
        )


def event_from_json(body: dict[str, Any], key: str = "") -> core.Event:
    """An event's JSON, already checked (as stored ones are), in the core's terms."""
    t_s, lead_s = body["t"], body.get("lead_s", 0.0)
    if "read" in body:
        value = body["value"]
        return core.Reading(
            t_s=t_s,
            lead_s=lead_s,
            key=key,
            quantity=Quantity(body["read"]),
            at=body["at"],
            value=math.inf if value == "OL" else value,
            meter=body.get("meter", ""),
            note=body.get("note", ""),
            driven=body.get("driven", False),
        )
    when = {"t_s": t_s, "lead_s": lead_s, "key": key}
    if "power" in body:
        return core.Power(**when, state=body["power"], circuit=body.get("circuit"))
    if "calls" in body:
        asked = frozenset(body["calls"])
        return core.Calls(**when, calls=asked, lifted=body.get("lifted", False))
    if "observe" in body:
        return core.Observed(**when, action=body["observe"], part=body["part"])
    return core.Replaced(**when, component=body["replaced"])


def event_to_json(event: core.Event) -> dict[str, Any]:
    """The event in the visit file's terms; what is at its default is left out."""
    written: dict[str, Any] = {"t": event.t_s}
    if event.lead_s:
        written["lead_s"] = event.lead_s
    match event:
        case core.Power():
            written["power"] = event.state
            if event.circuit:
                written["circuit"] = event.circuit
        case core.Calls():
            written["calls"] = sorted(event.calls)
            if event.lifted:
                written["lifted"] = True
        case core.Reading():
            value = "OL" if math.isinf(event.value) else event.value
            written |= {"read": str(event.quantity), "at": event.at, "value": value}
            written |= {"meter": event.meter} if event.meter else {}
            written |= {"note": event.note} if event.note else {}
            written |= {"driven": True} if event.driven else {}
        case core.Observed():
            written |= {"observe": event.action, "part": event.part}
        case core.Replaced():
            written["replaced"] = event.component
        case _:
            raise BadInput("", f"no such event: {event!r}")
    return written
