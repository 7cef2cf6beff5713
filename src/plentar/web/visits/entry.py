"""What a bench's forms send, as typed values."""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, ValidationInfo, field_validator

from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.web.entry import MAYBE, CallSet, Entry, Number, PointName
from plentar.words import measures

Reason = Annotated[str, Field(min_length=3, max_length=500)]


class ReadingEntry(Entry):
    """One reading off the meter; with ten turns in the clamp it shows ten times the amps."""

    quantity: Quantity
    value: Number
    at: PointName
    driven: bool = False
    driven_s: Annotated[Annotated[float, Field(ge=0, le=3600)] | None, MAYBE] = None
    low_z: bool = False
    turns: Annotated[int, Field(ge=1, le=10)] = 1
    note: Annotated[str, Field(max_length=2000)] = ""

    @field_validator("value", mode="before")
    @classmethod
    def _in_fahrenheit(cls, typed: Any, info: ValidationInfo) -> Any:
        """A temperature as it is kept, whichever scale it was typed in."""
        if info.data.get("quantity") is not Quantity.TEMP_F:
            return typed
        try:
            value = measures.read_typed(str(typed), Quantity.TEMP_F.sign)
        except BadInput as bad:
            raise ValueError(bad.reason) from None
        return f"{value:.4f}" if math.isfinite(value) else typed


class TakeEntry(Entry):
    """A proposal taken up: the point, and the state to bring the unit into before."""

    at: PointName
    quantity: str = ""
    power: Literal["on", "proved-dead"] | None = None
    calls: CallSet | None = None
    lifted: bool | None = None
    begins: CallSet | None = None
    fresh: bool = False
    driven: bool = False
    after_s: Annotated[float, Field(ge=0, le=86400)] = 0.0
    observe: Literal["cycling", "steady", "blown", "whole"] | None = None


class PowerEntry(Entry):
    """A breaker moved, or the unit proved dead by its checks."""

    state: Literal["on", "off", "proved-dead"]
    circuit: str | None = None
    proof: frozenset[str] = frozenset()
    at: str = ""
    driven: bool = False


class CallsEntry(Entry):
    """What the thermostat asks for from now on: all of it, or what is raised and what is ended of
    what stands by then, so that two hands that touch two calls at once both get theirs."""

    calls: CallSet | None = None
    raised: CallSet = frozenset()
    ended: CallSet = frozenset()
    at: str = ""

    def asked(self, standing: frozenset[str]) -> frozenset[str]:
        if self.raised or self.ended:
            return (standing - self.ended) | self.raised
        return self.calls or frozenset()


class WiresEntry(Entry):
    """The thermostat wires at the board, or the two of a coil."""

    state: Literal["lifted", "restored"]
    part: Annotated[str, Field(max_length=60)] = ""
    at: str = ""


class DidEntry(Entry):
    verb: str = ""
    parts: Annotated[tuple[PointName, ...], Field(max_length=40)] = ()
    by: str = ""
    note: Annotated[str, Field(max_length=2000)] = ""
    #: It was done with the power off, and nobody recorded that; so many minutes ago.
    was_off: bool = False
    ago_min: Annotated[Annotated[int, Field(ge=0, le=1440)] | None, MAYBE] = None
    #: The parts that were clear together with these.
    clear: Annotated[str, Field(max_length=400)] = ""


class NoteEntry(Entry):
    part: Annotated[str, Field(max_length=60)] = ""
    text: Annotated[str, Field(max_length=2000)] = ""


class LookEntry(Entry):
    """One item of the look at the whole unit, as ``item:state``."""

    seen: str


class AnswerEntry(Entry):
    """How a stop-now finding was made safe."""

    code: str
    component: str
    how: Reason


class TestEntry(BaseModel):
    """Which guided test is begun; empty to leave one."""

    __test__ = False
    test: Annotated[str, Field(max_length=60)] = ""


class StrikeEntry(BaseModel):
    """Why a reading is struck out."""

    reason: Reason
