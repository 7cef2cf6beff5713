"""What the tape's buttons send, as typed values."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from plentar.core.errors import BadInput
from plentar.core.unit.parts import CALLS
from plentar.store.record import VisitRecord
from plentar.web.entry import Entry
from plentar.words import phrase

#: A press that could not be sent at once may come this much later, and a clock differ by this.
LATE_S, AHEAD_S = 1800.0, 5.0
MOST_LEAD_S = 3600.0


class Pressed(Entry):
    """A button of a lane. ``t`` is the visit's time of the press, by the clock of the phone;
    without it the time is now."""

    t: Annotated[float, Field(ge=0, le=1e8, allow_inf_nan=False)] | None = None

    def when_s(self, record: VisitRecord) -> float:
        """The time of the press; raises BadInput where it can't have been then."""
        now_s = record.elapsed_s
        if self.t is None:
            return now_s
        if not now_s - LATE_S <= self.t <= now_s + AHEAD_S:
            raise BadInput("t", phrase("tape.entry.time-not-within-last"))
        return round(min(self.t, now_s), 1)


class SeenEntry(Pressed):
    part: Annotated[str, Field(min_length=1, max_length=60)]
    action: Literal["on", "off"]


class CallEntry(Pressed):
    """One terminal's call was raised or ended."""

    call: Literal[CALLS]  # type: ignore[valid-type]


class LeadEntry(Entry):
    """How long the call had been there before the watch was started, s."""

    lead_s: Annotated[float, Field(ge=0, le=MOST_LEAD_S, allow_inf_nan=False)]


class UndoEntry(Entry):
    """An entry taken back."""

    event: int


class ConfirmEntry(Entry):
    """The events of a log that enter the visit, by their numbers."""

    event: tuple[Annotated[int, Field(ge=0, lt=100_000)], ...] = ()
