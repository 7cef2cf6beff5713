"""What the forms of the handover send, as typed values."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, Field

from plentar.core.handover.work import PARTS, STANDS, WHEN
from plentar.core.said import say
from plentar.core.visit.events import OUTCOMES
from plentar.files.handover_json import PHOTO_KINDS
from plentar.files.times import Day
from plentar.store.owner_links import LASTS_DAYS
from plentar.web.entry import MAYBE, Entry, empty_as_none, required
from plentar.words import phrase


def _left(typed: str) -> str:
    if typed not in OUTCOMES:
        raise ValueError(phrase("handover.entry.say-how-unit-left"))
    return typed


def _lasts(days: int) -> int:
    if days not in LASTS_DAYS:
        raise ValueError(phrase("handover.entry.one", map=", ".join(map(str, LASTS_DAYS))))
    return days


Why = Annotated[str, Field(max_length=500), required(say("required.why")), AfterValidator(str.strip)]


class CloseEntry(BaseModel):
    outcome: Annotated[str, AfterValidator(_left)] = Field("", validate_default=True)
    left_note: Annotated[str, Field(max_length=4000)] = ""
    follow_up: Annotated[str, Field(max_length=500)] = ""
    told: Annotated[str, Field(max_length=120)] = ""


class LineEntry(Entry):
    """A line of work, whole: a new one where it has no ``line`` yet."""

    line: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{0,40}$")] = ""
    when: Literal[tuple(WHEN)]  # type: ignore[valid-type]
    text: Annotated[str, Field(max_length=500), required(say("required.work"))]
    part: Annotated[str, Field(max_length=60)] = ""
    stands: Literal[tuple(STANDS)] = "open"  # type: ignore[valid-type]
    parts: Literal[tuple(PARTS)] = ""  # type: ignore[valid-type]
    meanwhile: Annotated[str, Field(max_length=300)] = ""
    due_on: Annotated[Day | None, empty_as_none] = None
    minutes: Annotated[Annotated[float, Field(ge=0, le=10_000)] | None, MAYBE] = None
    price: Annotated[Annotated[float, Field(ge=0, le=1e7)] | None, MAYBE] = None
    source: Annotated[str, Field(max_length=160)] = ""
    #: The suggestion that the text was taken from, as JSON.
    text_said: Annotated[str, Field(max_length=6000)] = ""


class LeaveOutEntry(Entry):
    """Lines of the retest that are not read through, and why."""

    line: Annotated[tuple[Annotated[str, Field(max_length=200)], ...], Field(max_length=80)] = ()
    #: All of them that are open, whichever are marked.
    every: bool = False
    reason: Why = ""


class PhotoEntry(Entry):
    shows: Literal[tuple(PHOTO_KINDS)] = "before"  # type: ignore[valid-type]
    part: Annotated[str, Field(max_length=60)] = ""
    text: Annotated[str, Field(max_length=300)] = ""
    #: The device whose swap it was taken at; the page goes back there.
    swap: Annotated[str, Field(max_length=60)] = ""


class TakeOutEntry(BaseModel):
    """Which photo is taken out."""

    key: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class ReopenEntry(BaseModel):
    """Why a visit that was closed is opened again."""

    reason: Why = ""


class LinkEntry(BaseModel):
    """For how many days the owner's link shows the sheet."""

    days: Annotated[int, AfterValidator(_lasts)] = 30
