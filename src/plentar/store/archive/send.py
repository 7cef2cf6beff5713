"""The archive of a shop, written a unit at a time, whatever the shop's size."""

from __future__ import annotations

import csv
import tempfile
import uuid
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import asdict
from typing import IO, BinaryIO

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from plentar.files.found_csv import cell
from plentar.files.part_kind_json import part_kind_to_json
from plentar.files.sheet_settings import SheetSettings
from plentar.files.shop_json import (
    SHOP_NAME,
    TABLE_NAME,
    UNITS,
    VISITS,
    ArchivedRound,
    ArchivedUnit,
    ShopJson,
)
from plentar.files.unit_json import unit_to_json
from plentar.files.visit_file import write_visit_file
from plentar.files.visit_json import SettingsJson
from plentar.store.exchange import export_visit
from plentar.store.models import Digest, Round, RoundUnit, Shop, Visit
from plentar.store.models import Unit as UnitRow
from plentar.store.part_kinds import part_kinds_of
from plentar.store.photos import pictures
from plentar.store.record import VisitRecord
from plentar.store.units import find_unit
from plentar.store.visits import find_visit

#: Every entry says the same time: the archive is its content.
_TIME = (1980, 1, 1, 0, 0, 0)
_COLUMNS = ("file", "unit", "started", "closed", "complaint", "outcome", "findings", "mended", "note")
_CHUNK = 1 << 20


def write_archive(session: Session, shop_id: uuid.UUID, out: BinaryIO) -> None:
    """Write the archive of a shop; one visit is in memory at a time, and the names of all."""
    unit_ids = session.scalars(
        select(UnitRow.id).where(UnitRow.shop_id == shop_id).order_by(UnitRow.created_at, UnitRow.id)
    ).all()
    units: list[ArchivedUnit] = []
    with (
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive,
        tempfile.TemporaryFile("w+", encoding="utf-8", newline="") as table,
    ):
        csv.writer(table).writerow(_COLUMNS)
        for unit_id in unit_ids:
            units.append(_write_unit(session, archive, table, shop_id, unit_id))
            session.expunge_all()
        table.seek(0)
        with archive.open(zipfile.ZipInfo(TABLE_NAME, _TIME), "w") as entry:
            while chunk := table.read(_CHUNK):
                entry.write(chunk.encode())
        document = _shop_json(session, shop_id, units)
        _put(archive, SHOP_NAME, document.model_dump_json(indent=1) + "\n")


def _shop_json(session: Session, shop_id: uuid.UUID, units: Sequence[ArchivedUnit]) -> ShopJson:
    shop = session.get_one(Shop, shop_id)
    opened = session.scalar(select(func.count()).where(Visit.shop_id == shop_id, Visit.closed_at.is_(None)))
    kinds = [part_kind_to_json(kind) for kind in part_kinds_of(session, shop_id).values()]
    return ShopJson.model_validate(
        {
            "name": shop.name,
            "part_kinds": kinds,
            "units": [unit.model_dump() for unit in units],
            "sheets": SheetSettings.model_validate(shop.sheets).model_dump(),
            "open_visits": opened,
            "settings": SettingsJson.model_validate(shop.settings).model_dump(),
            "rounds": [one.model_dump() for one in _rounds(session, shop_id)],
        }
    )


def _rounds(session: Session, shop_id: uuid.UUID) -> Iterator[ArchivedRound]:
    of_shop = select(Round).where(Round.shop_id == shop_id).order_by(Round.opened_on, Round.title)
    key = func.coalesce(UnitRow.client_id, UnitRow.id)
    for round_ in session.scalars(of_shop).all():
        units = session.scalars(
            select(key)
            .join(RoundUnit, RoundUnit.unit_id == UnitRow.id)
            .where(RoundUnit.round_id == round_.id)
            .order_by(key)
        )
        visit_key = func.coalesce(Visit.client_id, Visit.id)
        visits = session.scalars(
            select(visit_key)
            .where(Visit.round_id == round_.id, Visit.closed_at.is_not(None))
            .order_by(visit_key)
        )
        yield ArchivedRound(
            title=round_.title,
            opened_on=round_.opened_on,
            due_on=round_.due_on,
            units=[str(one) for one in units],
            visits=[str(one) for one in visits],
        )


def _write_unit(
    session: Session, archive: zipfile.ZipFile, table: IO[str], shop_id: uuid.UUID, unit_id: uuid.UUID
) -> ArchivedUnit:
    record = find_unit(session, shop_id, unit_id)
    key = str(record.row.client_id or record.row.id)
    folder = f"{UNITS}/{key}"
    _put(archive, f"{folder}/unit.json", write_visit_file(unit_to_json(record.unit), {"events": []}))
    visits = session.execute(
        select(Visit.id, Visit.client_id, Digest.findings, Digest.mended)
        .outerjoin(Digest, Digest.visit_id == Visit.id)
        .where(Visit.shop_id == shop_id, Visit.unit_id == unit_id, Visit.closed_at.is_not(None))
        .order_by(Visit.started_at)
    ).all()
    for visit_id, client_id, findings, mended in visits:
        visit = find_visit(session, shop_id, visit_id)
        name = f"{folder}/{VISITS}/{visit.row.started_at:%Y-%m-%d}_{client_id or visit_id}.json"
        _put(archive, name, _exported(session, visit))
        row = visit.row
        csv.writer(table).writerow(
            cell(value)
            for value in (
                name,
                visit.unit.label,
                row.started_at,
                row.closed_at,
                row.complaint or "",
                row.outcome,
                " ".join(findings or ()),
                " ".join(mended or ()),
                row.left_note,
            )
        )
    return ArchivedUnit(key=key, visits=len(visits), **asdict(record.where))


def _exported(session: Session, visit: VisitRecord) -> str:
    keys = [photo.key for photo in visit.photos]
    return export_visit(visit, pictures(session, visit.row.shop_id, keys) if keys else {})


def _put(archive: zipfile.ZipFile, name: str, text: str) -> None:
    archive.writestr(zipfile.ZipInfo(name, _TIME), text, zipfile.ZIP_DEFLATED)
