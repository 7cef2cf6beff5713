"""What the forms of a unit send, as typed values, and the tiles that the kit form offers."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping
from typing import Annotated

from pydantic import AfterValidator, BaseModel, BeforeValidator, Field

from plentar.core.said import Said, say
from plentar.core.unit.kits import (
    KIT_CONTROLS,
    KIT_KINDS,
    KIT_KW,
    KIT_RELAYS,
    KIT_SUPPLIES,
    KIT_TIES,
    KIT_VOLTS,
    MOST_ELEMENTS,
    Kit,
    build_kit,
)
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import COMPLAINTS
from plentar.words import phrase


def _same(values: Iterable[object]) -> dict[str, Said | str]:
    return {str(v): str(v) for v in values}


#: The tiles of the kit form: field → its legend, and its values with what a person reads.
KIT_TILES: Mapping[str, tuple[Said, Mapping[str, Said | str]]] = {
    "kind": (say("units.entry.what"), KIT_KINDS),
    "elements": (say("units.entry.elements"), _same(range(1, MOST_ELEMENTS + 1))),
    "kw": (say("units.entry.each"), _same(f"{kw:g}" for kw in KIT_KW)),
    "volts": (say("units.entry.rated-volts"), _same(f"{v:g}" for v in KIT_VOLTS)),
    "circuits": (say("units.entry.strips-fed"), KIT_SUPPLIES),
    "control": (say("units.entry.closed"), KIT_CONTROLS),
    "relay": (say("units.entry.blower-brought"), KIT_RELAYS),
    "tie": (say("units.entry.blower-tied"), KIT_TIES),
}
KIT_AT_FIRST = {
    "kind": "air-handler",
    "relay": "spdt",
    "elements": "2",
    "kw": "5",
    "volts": "240",
    "circuits": "1",
    "control": "double-sequencers",
    "tie": "nc-contact",
}


def _one_of(name: str) -> AfterValidator:
    def check(typed: str) -> str:
        if typed not in KIT_TILES[name][1]:
            raise ValueError(phrase("units.entry.choose-one-list"))
        return typed

    return AfterValidator(check)


class KitEntry(BaseModel):
    client_id: uuid.UUID | None = None
    label: Annotated[str, Field(max_length=80)] = ""
    elements: Annotated[str, _one_of("elements")]
    kw: Annotated[str, _one_of("kw")]
    volts: Annotated[str, _one_of("volts")]
    circuits: Annotated[str, _one_of("circuits")] = "1"
    control: Annotated[str, _one_of("control")]
    tie: Annotated[str, _one_of("tie")]
    kind: Annotated[str, _one_of("kind")] = "air-handler"
    relay: Annotated[str, _one_of("relay")] = "spdt"

    def unit(self) -> Unit:
        """The unit of these choices; raises BadInput at the field that does not fit."""
        kit = Kit(
            (float(self.kw) * 1000,) * int(self.elements),
            float(self.volts),
            self.control,
            1 if self.circuits == "apart" else int(self.circuits),
            self.tie,
            self.kind,
            self.relay,
            self.circuits == "apart",
        )
        return build_kit(kit, f"unit-{uuid.uuid4().hex[:8]}", self.label.strip())


class FileEntry(BaseModel):
    """A file sent in."""

    client_id: uuid.UUID | None = None


def _complaint(typed: str) -> str:
    if typed not in COMPLAINTS:
        raise ValueError(phrase("units.entry.choose-what-call-about"))
    return typed


class ComplaintEntry(FileEntry):
    """What the call is about."""

    complaint: Annotated[str, AfterValidator(_complaint)] = Field("", validate_default=True)


def _version(typed: str) -> int:
    return int(typed) if typed.isdecimal() else 0


class PlateEntry(BaseModel):
    """The plate's version that the sender saw; 0 where the form did not say."""

    seen: Annotated[int, BeforeValidator(_version)] = 0


class ActEntry(PlateEntry):
    """Something is done to a part's place in the unit, with a choice where it takes one."""

    act: Annotated[str, Field(max_length=40)]
    element: Annotated[str, Field(max_length=60)] = ""
    chosen: Annotated[str, Field(max_length=60)] = ""


class CopyEntry(BaseModel):
    client_id: uuid.UUID | None = None
    like: uuid.UUID
    label: Annotated[str, Field(max_length=80)] = ""
