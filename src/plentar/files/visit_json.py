"""The visit as the visit file writes it: settings and events."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, SerializerFunctionWrapHandler, model_serializer

from plentar.core.history.shop import COUNTED_KINDS, LEAST_FACTOR, MOST_FACTOR
from plentar.core.visit import events as core
from plentar.core.visit.events import Tolerance
from plentar.files.event_model import TimeS
from plentar.files.events_json import EventJson
from plentar.files.handover_json import (
    MOST_PHOTOS,
    ClosedJson,
    LeftOutJson,
    PhotoJson,
    ReopenedJson,
    ToldJson,
    WorkLineJson,
)
from plentar.files.shapes import Strict
from plentar.files.times import TimeOfDay


class StruckJson(Strict):
    """A reading, observation or call that was struck out, kept for the record; no evidence."""

    event: EventJson
    reason: Annotated[str, Field(min_length=1, max_length=500)]


class SettingsJson(Strict):
    """By which band amps are judged, and how high the site lies: the air is thinner there."""

    band: Literal["plate", "house"] = "plate"
    altitude_ft: Annotated[float, Field(ge=-1500, le=20000, description="Of the unit above the sea.")] = 0
    frequencies: Annotated[
        dict[Literal[COUNTED_KINDS], Annotated[float, Field(ge=LEAST_FACTOR, le=MOST_FACTOR)]],  # type: ignore[valid-type]
        Field(
            description="By kind of part how much oftener than the trade has it the shop replaced it,"
            " from its own repairs; what is not named is as in the trade."
        ),
    ] = Field(default_factory=dict)

    @model_serializer(mode="wrap")
    def _written(self, write: SerializerFunctionWrapHandler) -> dict[str, Any]:
        written: dict[str, Any] = write(self)
        if not self.frequencies:
            del written["frequencies"]
        return written

    def to_core(self) -> core.Settings:
        own = tuple(sorted(self.frequencies.items()))
        return core.Settings(Tolerance(self.band), self.altitude_ft, own)


class LookedJson(Strict):
    """One item of the look at the whole unit."""

    t: TimeS
    item: Literal[tuple(core.LOOK_ITEMS)]  # type: ignore[valid-type]
    state: Literal["fine", "poor", "burnt"]

    def to_core(self) -> core.Looked:
        return core.Looked(self.t, self.item, self.state)


class AnsweredJson(Strict):
    """A stop-now finding made safe."""

    t: TimeS
    code: Annotated[str, Field(max_length=60)]
    component: Annotated[str, Field(max_length=60)]
    how: Annotated[str, Field(min_length=3, max_length=500)]
    by: Annotated[str, Field(max_length=120)] = ""
    events: (
        Annotated[int, Field(ge=0, le=20000, description="How many events stood then: it covers those only.")]
        | None
    ) = None

    @model_serializer(mode="wrap")
    def _written(self, write: SerializerFunctionWrapHandler) -> dict[str, Any]:
        written: dict[str, Any] = write(self)
        if self.events is None:
            del written["events"]
        return written

    def to_core(self) -> core.Answered:
        return core.Answered(self.t, self.code, self.component, self.how, self.by, self.events)


class ClockStepJson(Strict):
    """The clock was set back: at which time of the visit, and how far."""

    t: TimeS
    back_s: Annotated[float, Field(gt=0, le=1e8)]


class NoteJson(Strict):
    """What somebody noted of a part, or of the whole unit where none is named."""

    t: TimeS
    part: Annotated[str, Field(max_length=60)] = ""
    text: Annotated[str, Field(min_length=1, max_length=2000)]
    by: Annotated[str, Field(max_length=120)] = ""


class PlateChangeJson(Strict):
    """The plate had been wrong all along: from then on the visit was judged by another version."""

    t: TimeS
    was: Annotated[int, Field(ge=1)]
    now: Annotated[int, Field(ge=1)]
    by: Annotated[str, Field(max_length=120)] = ""


class VisitJson(Strict):
    """One visit. Judging reads the settings, the events, what was looked at, answered and left out of
    the retest; the rest is for the record."""

    complaint: Literal[tuple(core.COMPLAINTS)] | None = None  # type: ignore[valid-type]
    settings: SettingsJson = SettingsJson()
    started: TimeOfDay | None = None
    events: Annotated[list[EventJson], Field(max_length=20000)] = Field(default_factory=list)
    struck: Annotated[list[StruckJson], Field(max_length=5000)] = Field(default_factory=list)
    looked: Annotated[list[LookedJson], Field(max_length=500)] = Field(default_factory=list)
    answered: Annotated[list[AnsweredJson], Field(max_length=500)] = Field(default_factory=list)
    clock_steps: Annotated[list[ClockStepJson], Field(max_length=500)] = Field(default_factory=list)
    notes: Annotated[list[NoteJson], Field(max_length=500)] = Field(default_factory=list)
    plates: Annotated[list[PlateChangeJson], Field(max_length=500)] = Field(default_factory=list)
    work: Annotated[list[WorkLineJson], Field(max_length=1000)] = Field(default_factory=list)
    left_out: Annotated[list[LeftOutJson], Field(max_length=500)] = Field(default_factory=list)
    told: Annotated[list[ToldJson], Field(max_length=50)] = Field(default_factory=list)
    photos: Annotated[list[PhotoJson], Field(max_length=MOST_PHOTOS)] = Field(default_factory=list)
    reopened: Annotated[list[ReopenedJson], Field(max_length=50)] = Field(default_factory=list)
    closed: ClosedJson | None = None

    def to_core(self) -> core.Visit:
        """The visit in the core's terms; struck readings stay out."""
        return core.Visit(
            self.complaint,
            self.settings.to_core(),
            tuple(event.to_core() for event in self.events),
            tuple(seen.to_core() for seen in self.looked),
            tuple(answer.to_core() for answer in self.answered),
            tuple(left.to_core() for left in self.left_out),
        )
