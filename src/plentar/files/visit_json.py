"""The visit as the visit file writes it: settings and events."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, AwareDatetime, BeforeValidator, Field

from plentar.core import events as core
from plentar.core.events import Tolerance
from plentar.files.events_json import EventJson, TimeS
from plentar.files.shapes import Strict

FIRST_YEAR, LAST_YEAR = 1970, 2200


class StruckJson(Strict):
    """A reading, observation or call that was struck out, kept for the record; no evidence."""

    event: EventJson
    reason: Annotated[str, Field(min_length=1, max_length=500)]


class SettingsJson(Strict):
    """By which band amps are judged, and how high the site lies: the air is thinner there."""

    band: Literal["plate", "house"] = "plate"
    altitude_ft: Annotated[
        float, Field(ge=-1500, le=20000, description="Of the unit above the sea.")
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


def _of_our_time(value: datetime) -> datetime:
    """Within a span that every clock, zone and database can hold."""
    if not FIRST_YEAR <= value.year <= LAST_YEAR:
        raise ValueError(f"a time from {FIRST_YEAR} to {LAST_YEAR}")
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
    """One visit. ``started``, ``struck``, ``notes``, ``plates`` and ``clock_steps`` are for the
    record; judging does not read them."""

    complaint: Literal[tuple(core.COMPLAINTS)] | None = None  # type: ignore[valid-type]
    settings: SettingsJson = SettingsJson()
    started: (
        Annotated[AwareDatetime, BeforeValidator(_as_time), AfterValidator(_of_our_time)] | None
    ) = None
    events: Annotated[list[EventJson], Field(max_length=20000)] = Field(default_factory=list)
    struck: Annotated[list[StruckJson], Field(max_length=5000)] = Field(default_factory=list)
    looked: Annotated[list[LookedJson], Field(max_length=500)] = Field(default_factory=list)
    answered: Annotated[list[AnsweredJson], Field(max_length=500)] = Field(default_factory=list)
    clock_steps: Annotated[list[ClockStepJson], Field(max_length=500)] = Field(default_factory=list)
    notes: Annotated[list[NoteJson], Field(max_length=500)] = Field(default_factory=list)
    plates: Annotated[list[PlateChangeJson], Field(max_length=500)] = Field(default_factory=list)

    def to_core(self) -> core.Visit:
        """The visit in the core's terms; struck readings stay out."""
        return core.Visit(
            self.complaint,
            self.settings.to_core(),
            tuple(event.to_core() for event in self.events),
            tuple(seen.to_core() for seen in self.looked),
            tuple(answer.to_core() for answer in self.answered),
        )
