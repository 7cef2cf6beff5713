"""The first day of a shop: its addresses and units from a CSV file, each by a starting kit, with a look
at them and complaints by line before anything is made."""

from __future__ import annotations

import csv
import io
import uuid
from collections.abc import Iterator
from dataclasses import dataclass

from pydantic import ValidationError

from plentar.core.errors import BadInput
from plentar.core.unit.unit import Unit
from plentar.files.text import check_text
from plentar.files.visit_file import bad_input
from plentar.store.units import Whereabouts
from plentar.web.lane.view import kit_in_words
from plentar.web.units.entry import KIT_AT_FIRST, KIT_TILES, KitEntry
from plentar.web.units.places import WhereEntry
from plentar.words import phrase

#: Columns beside those of a kit; ``label`` must be there.
OWN = ("label", "place", "door", "on_site", "tags", "note")
COLUMNS = (*OWN, *KIT_TILES)
MOST_LINES = 5_000


@dataclass(frozen=True, slots=True)
class UnitLine:
    """One line that fits: a unit, and where it is."""

    line: int
    unit: Unit
    where: Whereabouts

    @property
    def words(self) -> str:
        return kit_in_words(self.unit)

    def key(self, shop_id: uuid.UUID) -> uuid.UUID:
        """The same address in the same shop is the same unit, however often it is sent."""
        return uuid.uuid5(shop_id, f"{self.where.place}\n{self.where.door}\n{self.unit.label}")


@dataclass(frozen=True, slots=True)
class Complaint:
    line: int
    column: str
    reason: str


def read_units(raw: bytes) -> tuple[list[UnitLine], list[Complaint]]:
    """The lines that fit, and complaints about those that don't. Raises BadInput where it is no table of
    units at all."""
    rows = _rows(raw)
    good: list[UnitLine] = []
    wrong: list[Complaint] = []
    seen: dict[tuple[str, str, str], int] = {}
    for line, row in rows:
        where = (row.get("place", ""), row.get("door", ""), row.get("label", ""))
        if where in seen:
            wrong.append(
                Complaint(line, "label", phrase("shop.first-day.same-address-line", seen=seen[where]))
            )
            continue
        seen[where] = line
        try:
            good.append(_unit(line, row))
        except BadInput as bad:
            wrong.append(Complaint(line, bad.path, str(bad.reason)))
    return good, wrong


def _rows(raw: bytes) -> Iterator[tuple[int, dict[str, str]]]:
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput("", phrase("shop.first-day.not-utf-8-save")) from None
    check_text(text.replace("\t", " ").replace("\r", "\n"), "")
    try:
        dialect = csv.Sniffer().sniff(text.split("\n", 1)[0], ",;\t")
    except csv.Error:
        dialect = csv.get_dialect("excel")  # type: ignore[assignment]
    reader = csv.reader(io.StringIO(text), dialect)
    try:
        every = list(reader)
    except csv.Error as error:
        raise BadInput(
            "", phrase("shop.first-day.line", line_num=reader.line_num, error=str(error))
        ) from None
    heads = [head.strip().lower() for head in every[0]] if every else []
    if "label" not in heads:
        raise BadInput("", phrase("shop.first-day.line-1-header-label", columns=", ".join(COLUMNS[1:])))
    if unknown := [head for head in heads if head and head not in COLUMNS]:
        raise BadInput(
            "", phrase("shop.first-day.line-1-no-column", unknown=unknown[0], columns=", ".join(COLUMNS))
        )
    if len(every) - 1 > MOST_LINES:
        raise BadInput("", phrase("shop.first-day.most-lines-once", most_lines=f"{MOST_LINES:,}"))
    for number, cells in enumerate(every[1:], start=2):
        values = {h: c.strip() for h, c in zip(heads, cells, strict=False) if h}
        if any(values.values()):
            yield number, values


def _unit(line: int, row: dict[str, str]) -> UnitLine:
    kit = KIT_AT_FIRST | {name: row[name] for name in KIT_TILES if row.get(name)}
    try:
        unit = KitEntry.model_validate(kit | {"label": row.get("label", "")}).unit()
    except ValidationError as error:
        raise bad_input(error) from None
    if not unit.label:
        raise BadInput("label", phrase("shop.first-day.where"))
    own = {name: row.get(name, "") for name in OWN if name != "label"}
    try:
        where = WhereEntry.model_validate(own).where()
    except ValidationError as error:
        raise bad_input(error) from None
    return UnitLine(line, unit, where)
