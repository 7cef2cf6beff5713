"""A shop's data as one archive, out and in: every unit's newest plate and every finished visit as visit
files with their photos, and the part kinds of its own.

Out: a unit at a time, whatever the shop's size. In: a unit at a time, each committed by itself, so that
what was cut off goes on where it was; what is there already, by the ids that the archive carries, is left
as it is.
"""

from __future__ import annotations

import uuid
import zipfile
from collections import Counter
from collections.abc import Iterator
from dataclasses import asdict, dataclass, field
from typing import BinaryIO

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.files.part_kind_json import part_kind_to_json
from plentar.files.sheet_settings import SheetSettings
from plentar.files.shop_json import SHOP_NAME, UNITS, VISITS, ArchivedUnit, ShopJson
from plentar.files.text import read_json
from plentar.files.unit_json import unit_to_json
from plentar.files.visit_file import (
    MAX_BYTES,
    VisitFile,
    parse_model,
    parse_visit_file,
    write_visit_file,
)
from plentar.store.accounts import SignedIn
from plentar.store.exchange import export_visit, import_visit
from plentar.store.models import Shop, Visit
from plentar.store.models import Unit as UnitRow
from plentar.store.part_kinds import keep_part_kind, part_kinds_of
from plentar.store.photos import pictures
from plentar.store.record import VisitRecord
from plentar.store.units import Whereabouts, find_unit, make_unit, save_plate
from plentar.store.visits import records_of_unit, visit_by_client

#: Every entry says the same time: the archive is its content.
_TIME = (1980, 1, 1, 0, 0, 0)
#: What a zip may hold, so that none fills the disk; an archive's text shrinks to a tenth.
MOST_ENTRIES, MOST_RATIO = 1_000_000, 200


def write_archive(session: Session, shop_id: uuid.UUID, out: BinaryIO) -> None:
    """Write the archive of a shop; one unit with its visits is in memory at a time."""
    shop = session.get_one(Shop, shop_id)
    unit_ids = session.scalars(
        select(UnitRow.id)
        .where(UnitRow.shop_id == shop_id)
        .order_by(UnitRow.created_at, UnitRow.id)
    ).all()
    units, opened = [], 0
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for unit_id in unit_ids:
            unit, still_open = _write_unit(session, archive, shop_id, unit_id)
            units.append(unit)
            opened += still_open
            session.expunge_all()
        kinds = [part_kind_to_json(kind) for kind in part_kinds_of(session, shop_id).values()]
        document = ShopJson.model_validate({
            "name": shop.name, "sheets": SheetSettings.model_validate(shop.sheets).model_dump(),
            "part_kinds": kinds, "units": [unit.model_dump() for unit in units],
            "open_visits": opened,
        })  # fmt: skip
        _put(archive, SHOP_NAME, document.model_dump_json(indent=1, exclude_defaults=False) + "\n")


def _write_unit(
    session: Session, archive: zipfile.ZipFile, shop_id: uuid.UUID, unit_id: uuid.UUID
) -> tuple[ArchivedUnit, int]:
    record = find_unit(session, shop_id, unit_id)
    row = record.row
    folder = f"{UNITS}/{row.client_id or row.id}"
    _put(
        archive, f"{folder}/unit.json", write_visit_file(unit_to_json(record.unit), {"events": []})
    )
    visits = records_of_unit(session, shop_id, unit_id)
    closed = [visit for visit in visits if visit.row.closed_at is not None]
    for visit in closed:
        _put(archive, f"{folder}/{VISITS}/{_name(session, visit)}.json", _exported(session, visit))
    unit = ArchivedUnit(
        key=str(row.client_id or row.id), visits=len(closed), **asdict(record.where),
    )  # fmt: skip
    return unit, len(visits) - len(closed)


def _name(session: Session, visit: VisitRecord) -> str:
    """A visit's day and the id that it came by."""
    known = session.get_one(Visit, visit.row.id)
    return f"{visit.row.started_at:%Y-%m-%d}_{known.client_id or known.id}"


def _exported(session: Session, visit: VisitRecord) -> str:
    keys = [photo.key for photo in visit.photos]
    return export_visit(visit, pictures(session, visit.row.shop_id, keys) if keys else {})


def _put(archive: zipfile.ZipFile, name: str, text: str) -> None:
    archive.writestr(zipfile.ZipInfo(name, _TIME), text, zipfile.ZIP_DEFLATED)


@dataclass
class Taken:
    """What an archive would change, or has changed: how many of what."""

    new: Counter[str] = field(default_factory=Counter)
    known: Counter[str] = field(default_factory=Counter)

    @property
    def rows(self) -> list[tuple[str, int, int]]:
        """Of what, how many are new, how many are there already."""
        return [
            (what, self.new[what], self.known[what]) for what in ("units", "visits", "part kinds")
        ]


def read_archive(
    session: Session, account: SignedIn, file: BinaryIO, most_photo_bytes: int, *, dry: bool = False
) -> Taken:
    """Take an archive in, or with ``dry`` say what it would change. Raises BadInput, with the entry’s name
    and the path in it; with ``dry`` every entry is read, so that none is taken in of an archive that
    does not fit."""
    taken = Taken()
    with _opened(file) as archive:
        shop = parse_model(ShopJson, read_json(_text(archive, SHOP_NAME)))
        for kind in shop.part_kinds:
            known = kind.name in part_kinds_of(session, account.shop_id)
            (taken.known if known else taken.new)["part kinds"] += 1
            if not known and not dry:
                keep_part_kind(session, account.shop_id, kind.to_core())
        for unit in shop.units:
            _take_unit(session, account, archive, unit, taken, most_photo_bytes, dry=dry)
            if not dry:
                session.commit()
            session.expunge_all()
    return taken


def _take_unit(
    session: Session,
    account: SignedIn,
    archive: zipfile.ZipFile,
    unit: ArchivedUnit,
    taken: Taken,
    most_photo_bytes: int,
    *,
    dry: bool,
) -> None:
    shop_id, key = account.shop_id, uuid.UUID(unit.key)
    folder = f"{UNITS}/{unit.key}"
    newest = _file(archive, f"{folder}/unit.json").to_core()[0]
    unit_id = session.scalar(
        select(UnitRow.id).where(
            UnitRow.shop_id == shop_id, func.coalesce(UnitRow.client_id, UnitRow.id) == key
        )
    )
    (taken.new if unit_id is None else taken.known)["units"] += 1
    changed = False
    for name in _visits_in(archive, folder):
        visit_key = uuid.UUID(name.rsplit("_", 1)[1].removesuffix(".json"))
        file = _file(archive, name)
        known = visit_by_client(session, shop_id, visit_key) or session.scalar(
            select(Visit).where(Visit.shop_id == shop_id, Visit.id == visit_key)
        )
        (taken.new if known is None else taken.known)["visits"] += 1
        if known is not None or dry:
            continue
        if unit_id is None:
            first = file.to_core()[0]
            unit_id = make_unit(session, shop_id, first, _where(unit), key).row.id
        onto = find_unit(session, shop_id, unit_id)
        import_visit(session, account, file, onto, visit_key, most_photo_bytes)
        changed = True
    if dry:
        return
    if unit_id is None:
        make_unit(session, shop_id, newest, _where(unit), key)
    elif changed:
        onto = find_unit(session, shop_id, unit_id)
        save_plate(session, onto, newest, onto.version.number)


def _where(unit: ArchivedUnit) -> Whereabouts:
    return Whereabouts(unit.place, unit.door, unit.on_site, unit.tags, unit.note)


def _opened(file: BinaryIO) -> zipfile.ZipFile:
    try:
        archive = zipfile.ZipFile(file)
        entries = archive.infolist()
    except (zipfile.BadZipFile, ValueError, OSError, NotImplementedError):
        raise BadInput("archive", "no zip that can be read") from None
    if len(entries) > MOST_ENTRIES:
        raise BadInput("archive", f"more than {MOST_ENTRIES:,} entries")
    for entry in entries:
        large = entry.file_size > MAX_BYTES
        if large or entry.file_size > MOST_RATIO * max(entry.compress_size, 1_000):
            raise BadInput(entry.filename[:200], "too large for what it is")
    return archive


def _visits_in(archive: zipfile.ZipFile, folder: str) -> Iterator[str]:
    """The visits of a unit, the oldest first."""
    below = f"{folder}/{VISITS}/"
    names = sorted(n for n in archive.namelist() if n.startswith(below) and n.endswith(".json"))
    for name in names:
        try:
            uuid.UUID(name.rsplit("_", 1)[1].removesuffix(".json"))
        except (IndexError, ValueError):
            raise BadInput(name[:200], "a visit is named by its day and id") from None
        yield name


def _file(archive: zipfile.ZipFile, name: str) -> VisitFile:
    try:
        return parse_visit_file(_text(archive, name))
    except BadInput as bad:
        raise BadInput(f"{name}: {bad.path}".rstrip(": "), bad.reason) from None


def _text(archive: zipfile.ZipFile, name: str) -> bytes:
    try:
        with archive.open(name) as entry:
            text = entry.read(MAX_BYTES + 1)
    except KeyError:
        raise BadInput(name, "is not in the archive") from None
    except (zipfile.BadZipFile, RuntimeError, OSError, NotImplementedError, EOFError):
        raise BadInput(name, "can’t be read") from None
    return text
