"""What the relay bench's forms send, as typed values."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from plentar.core.visit.events import FEELS, WIRE_ACTS
from plentar.files.part_kind_json import Short
from plentar.web.entry import MAYBE, Entry

Terminal = Annotated[str, Field(min_length=1, max_length=8)]


class TestedEntry(Entry):
    """One pair of terminals: ohms, or a tone by ear; or the leads on each other."""

    __test__ = False
    pair: Annotated[str, Field(pattern=r"^[^:]{1,8}:[^:]{1,8}$")]
    driven: bool = False
    new: bool = False
    part: Annotated[str, Field(max_length=40)] = ""
    tone: bool | None = None
    ohms: Annotated[Annotated[float, Field(ge=0)] | None, MAYBE] = None


class TriedEntry(Entry):
    """One start: it acted, after so many seconds where somebody timed it, or it did not."""

    acted: bool
    after_s: Annotated[Annotated[float, Field(ge=0, le=3600)] | None, MAYBE] = None


class FeltEntry(Entry):
    """What a hand or an ear says of the motor."""

    what: Literal[tuple(FEELS)]  # type: ignore[valid-type]


class WiredEntry(Entry):
    """What is on every terminal, as ``terminal:end``, and of which part kind."""

    part: Annotated[str, Field(max_length=40)]
    on: Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=48)] = ()


class PrintedEntry(Entry):
    """What is printed at common, normally open and normally closed; empty for their names."""

    printed: Annotated[str, Field(max_length=40)] = ""


class SwapEntry(Entry):
    """A swap begins: what goes in, and for every wire its terminal there, colour and label."""

    part: Annotated[str, Field(max_length=40)]
    wire: Annotated[tuple[Short, ...], Field(min_length=1, max_length=48)]
    new: Annotated[tuple[Terminal, ...], Field(max_length=48)]
    colour: Annotated[tuple[Short, ...], Field(max_length=48)] = ()
    label: Annotated[tuple[Short, ...], Field(max_length=48)] = ()


class MovedEntry(Entry):
    wire: Short
    act: Literal[WIRE_ACTS]  # type: ignore[valid-type]
    at: Annotated[str, Field(max_length=8)] = ""
    renewed: Annotated[str, Field(max_length=200)] = ""


class KindEntry(Entry):
    """A part kind of the shop's own: a grid of terminals, and what is printed."""

    title: Annotated[str, Field(min_length=2, max_length=80)]
    device: str
    grid: Annotated[tuple[Annotated[str, Field(max_length=10)], ...], Field(max_length=32)]
    coil: Annotated[str, Field(max_length=20)]
    sets: Annotated[tuple[Annotated[str, Field(max_length=30)], ...], Field(max_length=8)]
    windows: Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(max_length=8)] = ()
    tied: Annotated[str, Field(max_length=20)] = ""
    coil_ohms: Annotated[str, Field(max_length=30)] = ""
    blade: Literal["1/4", "3/16", "screw", "pin"] = "1/4"
    resistive_amps: Annotated[Annotated[float, Field(gt=0, le=400)] | None, MAYBE] = None
    motor_amps: Annotated[Annotated[float, Field(gt=0, le=400)] | None, MAYBE] = None
    coil_volts: Annotated[float, Field(gt=0, le=300)] = 24.0
    coil_va: Annotated[Annotated[float, Field(gt=0, le=500)] | None, MAYBE] = None
