"""A shop's archive: a zip of visit files, and this document that says what they belong to."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from plentar.files.part_kind_json import PartKindJson
from plentar.files.shapes import Strict
from plentar.files.sheet_settings import SheetSettings
from plentar.files.visit_json import SettingsJson

FORMAT, VERSION = "plentar-shop", 1
#: The document's name in the archive, the table of all visits, the folders of units and their visits.
SHOP_NAME, TABLE_NAME, UNITS, VISITS = "shop.json", "visits.csv", "units", "visits"
MOST_UNITS = 20_000
#: In JSON a day is text.
Day = Annotated[date, Field(strict=False)]
Key = Annotated[str, Field(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$")]


#: What a shop calls a unit by, beside its name.
Tag = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[^,]*$")]
MOST_TAGS, MOST_DOOR = 12, 100_000


class ArchivedUnit(Strict):
    """A unit: the name of its folder, where it is, and how many visits the folder holds."""

    key: Key
    place: Annotated[str, Field(max_length=200)] = ""
    door: Annotated[int, Field(ge=0, le=MOST_DOOR)] | None = None
    on_site: Annotated[str, Field(max_length=120)] = ""
    tags: Annotated[tuple[Tag, ...], Field(strict=False, max_length=MOST_TAGS)] = ()
    note: Annotated[str, Field(max_length=4000)] = ""
    visits: Annotated[int, Field(ge=0)] = 0


class ArchivedRound(Strict):
    """A round by the keys of its units, and of its finished visits. Who takes which is not in it: people
    are not."""

    title: Annotated[str, Field(min_length=1, max_length=80)]
    opened_on: Day
    due_on: Day | None = None
    units: Annotated[list[Key], Field(max_length=MOST_UNITS)] = Field(default_factory=list)
    visits: Annotated[list[Key], Field(max_length=MOST_UNITS)] = Field(default_factory=list)


class ShopJson(Strict):
    """What an archive holds. ``open_visits`` are not in it: they are not over. The settings are told, and
    taken in by hand."""

    format: Literal["plentar-shop"] = "plentar-shop"
    version: Literal[1] = 1
    name: Annotated[str, Field(max_length=200)]
    settings: SettingsJson = SettingsJson()
    sheets: SheetSettings = SheetSettings()
    part_kinds: Annotated[list[PartKindJson], Field(max_length=200)] = Field(default_factory=list)
    units: Annotated[list[ArchivedUnit], Field(max_length=MOST_UNITS)] = Field(default_factory=list)
    rounds: Annotated[list[ArchivedRound], Field(max_length=10_000)] = Field(default_factory=list)
    open_visits: Annotated[int, Field(ge=0)] = 0
