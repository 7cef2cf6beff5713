"""How a unit was handed over, as the visit file writes it: lines of work, what was left out of the
retest, who was told, photos, and how the visit ended."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from plentar.core.handover.work import PARTS, STANDS, WHEN, WorkLine
from plentar.core.said import Said
from plentar.core.visit import events as core
from plentar.files.event_model import TimeS
from plentar.files.said_json import SaidJson
from plentar.files.shapes import Strict
from plentar.files.times import Day, TimeOfDay

By = Annotated[str, Field(max_length=120)]
Reason = Annotated[str, Field(min_length=3, max_length=500)]
Key = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
#: What a photo shows, the usual first.
PHOTO_KINDS = {"before": "before", "after": "after", "plate": "plate", "wiring": "wiring"}
#: A photo as it is stored, in base64.
MOST_BASE64 = 280_000
#: Photos of one visit.
MOST_PHOTOS = 40


class WorkLineJson(Strict):
    """A line of work as it stood from then on; the newest of one ``id`` counts."""

    t: TimeS
    id: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{1,40}$")]
    when: Literal[tuple(WHEN)]  # type: ignore[valid-type]
    text: Annotated[str, Field(min_length=3, max_length=500)]
    part: Annotated[str, Field(max_length=60)] = ""
    stands: Literal[tuple(STANDS)] = "open"  # type: ignore[valid-type]
    parts: Literal[tuple(PARTS)] = ""  # type: ignore[valid-type]
    meanwhile: Annotated[str, Field(max_length=300)] = ""
    due_on: Day | None = None
    minutes: Annotated[float, Field(ge=0, le=10_000)] | None = None
    price: (
        Annotated[float, Field(ge=0, le=1e7, description="In the shop's own currency, as it typed it.")]
        | None
    ) = None
    source: Annotated[str, Field(max_length=160)] = ""
    by: By = ""
    text_said: SaidJson | None = None
    meanwhile_said: SaidJson | None = None

    def to_core(self) -> WorkLine:
        """The line, in the language that is spoken where it was suggested; as it was written elsewhere."""
        values = self.__dict__ | {"t_s": self.t}
        for name, said in (("text", self.text_said), ("meanwhile", self.meanwhile_said)):
            values[name] = (said and said.to_core()) or values[name]
        return WorkLine(**{name: values[name] for name in WorkLine.__dataclass_fields__})

    @classmethod
    def of(cls, line: WorkLine) -> WorkLineJson:
        values = {name: getattr(line, name) for name in WorkLine.__dataclass_fields__}
        for name in ("text", "meanwhile"):
            if isinstance(values[name], Said):
                values |= {f"{name}_said": SaidJson.of(values[name]), name: str(values[name])}
        return cls(t=values.pop("t_s"), **values)


class LeftOutJson(Strict):
    """A line of the retest answered instead of read through."""

    t: TimeS
    line: Annotated[str, Field(min_length=1, max_length=200)]
    reason: Reason
    by: By = ""

    def to_core(self) -> core.LeftOut:
        return core.LeftOut(self.t, self.line, self.reason, self.by)


class ToldJson(Strict):
    """Who was told what stays unsafe or undone."""

    t: TimeS
    name: Annotated[str, Field(min_length=2, max_length=120)]
    what: Annotated[str, Field(max_length=4000)] = ""
    by: By = ""


class PhotoJson(Strict):
    """A photo: of what, and where it was taken up; its picture is JPEG in base64, without metadata.
    ``key`` is the SHA-256 of the picture as it came from the camera."""

    t: TimeS
    key: Key
    shows: Literal[tuple(PHOTO_KINDS)]  # type: ignore[valid-type]
    part: Annotated[str, Field(max_length=60)] = ""
    text: Annotated[str, Field(max_length=300)] = ""
    by: By = ""
    jpeg: Annotated[str, Field(max_length=MOST_BASE64)] | None = None


class ReopenedJson(Strict):
    """The visit had been closed, and was opened again."""

    t: TimeS
    reason: Reason
    outcome: Literal[tuple(core.OUTCOMES)]  # type: ignore[valid-type]
    by: By = ""


class ClosedJson(Strict):
    """How the unit was left, and when."""

    at: TimeOfDay
    outcome: Literal[tuple(core.OUTCOMES)]  # type: ignore[valid-type]
    note: Annotated[str, Field(max_length=4000)] = ""
    follow_up: Annotated[str, Field(max_length=500)] = ""
