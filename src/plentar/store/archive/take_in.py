"""An archive taken in, a unit at a time, each committed by itself, so that what was cut off goes on where
it was; what is there already, by the ids that the archive carries, is left as it is."""

from __future__ import annotations

import struct
import uuid
import zipfile
import zlib
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import BinaryIO

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.files.shop_json import SHOP_NAME, UNITS, VISITS, ArchivedRound, ArchivedUnit, ShopJson
from plentar.files.text import read_json
from plentar.files.visit_file import MAX_BYTES, VisitFile, parse_model, parse_visit_file
from plentar.store.accounts import SignedIn
from plentar.store.exchange import import_visit
from plentar.store.models import Round, RoundUnit, Visit
from plentar.store.models import Unit as UnitRow
from plentar.store.part_kinds import keep_part_kind, part_kinds_of
from plentar.store.units import Whereabouts, find_unit, make_unit, save_plate
from plentar.store.visits import visit_by_client
from plentar.words import phrase

#: What a zip may hold, so that none fills the disk; an archive's text shrinks to a tenth.
MOST_ENTRIES, MOST_RATIO = 1_000_000, 200
#: What reading a zip raises that is cut short, damaged or encrypted.
BROKEN = (
    zipfile.BadZipFile,
    zlib.error,
    struct.error,
    ValueError,
    OSError,
    RuntimeError,
    EOFError,
    OverflowError,
)
#: What an archive holds, in the order in which it is told.
ARCHIVED = ("units", "visits", "part-kinds", "rounds")


@dataclass
class Taken:
    """What an archive would change, or has changed: how many of what."""

    new: Counter[str] = field(default_factory=Counter)
    known: Counter[str] = field(default_factory=Counter)
    #: Of each unit that changes its name, whether it is new, and how many visits come to it.
    units: list[tuple[str, bool, int]] = field(default_factory=list)

    @property
    def rows(self) -> list[tuple[str, int, int]]:
        """What it is, how many are new, how many known."""
        return [(phrase(f"archived.{what}"), self.new[what], self.known[what]) for what in ARCHIVED]


def read_archive(
    session: Session, account: SignedIn, file: BinaryIO, most_photo_bytes: int, *, dry: bool = False
) -> Taken:
    """Take an archive in, or with ``dry`` say what it would change. Every entry is read before anything is
    taken in. Raises BadInput, with the entry’s name and the path in it."""
    told = _go_through(session, account, file, most_photo_bytes, dry=True)
    session.rollback()
    if dry:
        return told
    file.seek(0)
    return _go_through(session, account, file, most_photo_bytes, dry=False)


def _go_through(
    session: Session, account: SignedIn, file: BinaryIO, most_photo_bytes: int, *, dry: bool
) -> Taken:
    taken = Taken()
    with _opened(file) as archive:
        names = _names(archive)
        shop = parse_model(ShopJson, read_json(_text(archive, SHOP_NAME)))
        for kind in shop.part_kinds:
            known = kind.name in part_kinds_of(session, account.shop_id)
            (taken.known if known else taken.new)["part-kinds"] += 1
            if not known and not dry:
                keep_part_kind(session, account.shop_id, kind.to_core())
        for unit in shop.units:
            visits = names.get(f"{UNITS}/{unit.key}/{VISITS}/", [])
            _take_unit(session, account, archive, unit, visits, taken, most_photo_bytes, dry=dry)
            if not dry:
                session.commit()
            session.expunge_all()
        for one in shop.rounds:
            _take_round(session, account.shop_id, one, taken, dry=dry)
        if not dry:
            session.commit()
    return taken


def _take_round(session: Session, shop_id: uuid.UUID, one: ArchivedRound, taken: Taken, *, dry: bool) -> None:
    """A round of a title that is not there; its units and visits are found by their keys."""
    title = select(Round.id).where(Round.shop_id == shop_id, Round.title == one.title)
    known = session.scalar(title) is not None
    (taken.known if known else taken.new)["rounds"] += 1
    if known or dry:
        return
    made = Round(shop_id=shop_id, title=one.title, opened_on=one.opened_on, due_on=one.due_on)
    session.add(made)
    session.flush()
    key = func.coalesce(UnitRow.client_id, UnitRow.id)
    units = select(UnitRow.id).where(UnitRow.shop_id == shop_id, key.in_(map(uuid.UUID, one.units)))
    for unit_id in session.scalars(units).all():
        session.add(RoundUnit(round_id=made.id, unit_id=unit_id, shop_id=shop_id))
    visit_key = func.coalesce(Visit.client_id, Visit.id)
    session.execute(
        update(Visit)
        .where(Visit.shop_id == shop_id, visit_key.in_(map(uuid.UUID, one.visits)))
        .values(round_id=made.id)
    )


def _take_unit(
    session: Session,
    account: SignedIn,
    archive: zipfile.ZipFile,
    unit: ArchivedUnit,
    visits: Sequence[str],
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
    changed, new_visits, is_new = False, 0, unit_id is None
    for name in visits:
        visit_key = uuid.UUID(name.rsplit("_", 1)[1].removesuffix(".json"))
        file = _file(archive, name)
        known = visit_by_client(session, shop_id, visit_key) or session.scalar(
            select(Visit).where(Visit.shop_id == shop_id, Visit.id == visit_key)
        )
        (taken.new if known is None else taken.known)["visits"] += 1
        new_visits += known is None
        if known is not None or dry:
            continue
        if unit_id is None:
            first = file.to_core()[0]
            unit_id = make_unit(session, shop_id, first, _where(unit), key).row.id
        onto = find_unit(session, shop_id, unit_id)
        import_visit(session, account, file, onto, visit_key, most_photo_bytes)
        changed = True
    if is_new or new_visits:
        taken.units.append((newest.label or unit.key, is_new, new_visits))
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
    except BROKEN:
        raise BadInput("archive", phrase("store.archive.take-in.no-zip-can-read")) from None
    if len(entries) > MOST_ENTRIES:
        raise BadInput(
            "archive", phrase("store.archive.take-in.more-than-entries", most_entries=f"{MOST_ENTRIES:,}")
        )
    for entry in entries:
        large = entry.file_size > MAX_BYTES
        if large or entry.file_size > MOST_RATIO * max(entry.compress_size, 1_000):
            raise BadInput(entry.filename[:200], phrase("store.archive.take-in.too-large-what"))
    return archive


def _names(archive: zipfile.ZipFile) -> dict[str, list[str]]:
    """The visits by their folders, the oldest first."""
    found: dict[str, list[str]] = {}
    for name in sorted(archive.namelist()):
        folder, _, file = name.rpartition("/")
        if not folder.endswith(f"/{VISITS}") or not file.endswith(".json"):
            continue
        try:
            uuid.UUID(file.rsplit("_", 1)[1].removesuffix(".json"))
        except (IndexError, ValueError):
            raise BadInput(name[:200], phrase("store.archive.take-in.visit-named-day-id")) from None
        found.setdefault(f"{folder}/", []).append(name)
    return found


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
        raise BadInput(name, phrase("store.archive.take-in.not-archive")) from None
    except BROKEN:
        raise BadInput(name, phrase("store.archive.take-in.cant-read")) from None
    return text
