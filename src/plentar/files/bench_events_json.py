"""The events of the relay bench as the visit file writes them."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from plentar.core.visit import events as core
from plentar.files.event_model import EventModel, PartName, given
from plentar.files.part_kind_json import KindName, Short, TerminalName
from plentar.files.shapes import Strict, Text


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
            **when,
            device=body["tested"],
            pair=(body["pair"][0], body["pair"][1]),
            ohms=math.inf if ohms == "OL" else ohms,
            tone=body.get("tone"),
            driven=body.get("driven", False),
            new=body.get("new", False),
            part=body.get("part"),
        )

    @classmethod
    def write(cls, event: core.Tested) -> dict[str, Any]:
        """As ``EventModel`` says."""
        ohms = {} if event.ohms is None else {"ohms": "OL" if math.isinf(event.ohms) else event.ohms}
        tone = {} if event.tone is None else {"tone": event.tone}
        return {
            "tested": event.device,
            "pair": list(event.pair),
            **ohms,
            **tone,
            **given(driven=event.driven, new=event.new, part=event.part),
        }


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
        wires = [given(**{key: getattr(wire, key) for key in keys}) for wire in event.wires]
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
            **when,
            wire=body["wire"],
            device=body["of"],
            act=body["is"],
            at=body.get("at") or "",
            renewed=body.get("renewed") or "",
        )

    @classmethod
    def write(cls, event: core.WireMoved) -> dict[str, Any]:
        """As ``EventModel`` says."""
        return {
            "wire": event.wire,
            "of": event.device,
            "is": event.act,
            **given(at=event.at, renewed=event.renewed),
        }
