"""The events of the relay bench as the visit file writes them."""

from __future__ import annotations

import dataclasses
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from plentar.core.visit import events as core
from plentar.files.event_model import EventModel, PartName, given, ohms_from_json, ohms_to_json
from plentar.files.part_kind_json import KindName, Short, TerminalName
from plentar.files.shapes import Strict, Text


class TestedJson(EventModel):
    """Ohms or a tone between two terminals of a device on the relay bench, or of the leads alone."""

    __test__ = False
    kind: ClassVar[type[core.Event]] = core.Tested
    named = {"tested": "device"}
    reads = {"pair": tuple, "ohms": ohms_from_json}
    writes = {"pair": list, "ohms": ohms_to_json}

    tested: PartName
    pair: Annotated[tuple[TerminalName, TerminalName], Field(strict=False)]
    ohms: Annotated[float, Field(ge=0, le=1e12)] | Literal["OL"] | None = None
    tone: bool | None = None
    driven: bool = False
    new: bool = False
    part: KindName | None = None


class TriedJson(EventModel):
    """One start of a device, and whether it acted."""

    kind: ClassVar[type[core.Event]] = core.Tried
    named = {"tried": "device"}

    tried: PartName
    acted: bool
    after_s: Annotated[float, Field(ge=0, le=3600)] | None = None


class FeltJson(EventModel):
    """What a hand or an ear says of the blower's motor."""

    kind: ClassVar[type[core.Event]] = core.Felt
    named = {"felt": "what"}
    always = frozenset({"part"})

    felt: Literal[tuple(core.FEELS)]  # type: ignore[valid-type]
    part: Literal["blower"] = "blower"


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
    named = {"swap": "device", "sheet": "wires"}
    reads = {"sheet": lambda wires: tuple(core.SheetWire(**wire) for wire in wires)}
    writes = {"sheet": lambda wires: [given(**dataclasses.asdict(wire)) for wire in wires]}

    swap: PartName
    part: KindName
    sheet: Annotated[list[SheetWireJson], Field(min_length=1, max_length=core.MOST_WIRES)]


class WireMovedJson(EventModel):
    """A wire of a sheet was taken off, landed, or put back."""

    kind: ClassVar[type[core.Event]] = core.WireMoved
    named = {"of": "device", "is": "act"}

    wire: Short
    of: PartName
    is_: Annotated[Literal[core.WIRE_ACTS], Field(alias="is")]  # type: ignore[valid-type]
    at: TerminalName | None = None
    renewed: Text | None = None
