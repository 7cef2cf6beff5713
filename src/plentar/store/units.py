"""Units and the versions of their plates."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Collection, Sequence
from dataclasses import asdict, dataclass, fields, replace

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.unit.unit import Unit
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.store.errors import Conflict, NotFound
from plentar.store.models import RoundUnit, UnitVersion, Visit
from plentar.store.models import Unit as UnitRow
from plentar.store.unit_words import write_unit_words
from plentar.words import phrase

#: About what a unit of a few elements takes, its look-ups included.
UNIT_BYTES = 30_000


@dataclass(frozen=True, slots=True)
class UnitRecord:
    """A unit's row, its newest version, and that version as a checked unit."""

    row: UnitRow
    version: UnitVersion
    unit: Unit

    @property
    def where(self) -> Whereabouts:
        known = {f.name: getattr(self.row, f.name) for f in fields(Whereabouts)}
        return Whereabouts(**known | {"tags": tuple(self.row.tags)})


@dataclass(frozen=True, slots=True)
class Whereabouts:
    """Where a unit is: its street or site, its door, where it is at its address; and what a shop calls
    it by beside its name."""

    place: str = ""
    door: int | None = None
    on_site: str = ""
    tags: tuple[str, ...] = ()
    note: str = ""


def make_unit(
    session: Session,
    shop_id: uuid.UUID,
    unit: Unit,
    where: Whereabouts = Whereabouts(),
    client_id: uuid.UUID | None = None,
) -> UnitRecord:
    """Store a new unit with its first version; the same client's id again is the same unit."""
    row = UnitRow(shop_id=shop_id, client_id=client_id, **asdict(where))
    try:
        with session.begin_nested():
            session.add(row)
    except IntegrityError:
        known = select(UnitRow.id).where(UnitRow.shop_id == shop_id, UnitRow.client_id == client_id)
        return find_unit(session, shop_id, session.scalars(known).one())
    version = UnitVersion(shop_id=shop_id, unit_id=row.id, number=1, plate=unit_to_json(unit))
    session.add(version)
    session.flush()
    write_unit_words(session, shop_id, row, unit)
    return UnitRecord(row, version, unit)


def move_unit(session: Session, record: UnitRecord, where: Whereabouts) -> None:
    """Say where a unit is, in the place of what was said before."""
    for name, value in asdict(where).items():
        setattr(record.row, name, value)
    session.flush()
    write_unit_words(session, record.row.shop_id, record.row, record.unit)


def find_unit(session: Session, shop_id: uuid.UUID, unit_id: uuid.UUID) -> UnitRecord:
    """A unit of this shop with its newest version; raises NotFound."""
    found = session.execute(
        select(UnitRow, UnitVersion)
        .join(UnitVersion, UnitVersion.unit_id == UnitRow.id)
        .where(UnitRow.shop_id == shop_id, UnitRow.id == unit_id)
        .order_by(UnitVersion.number.desc())
        .limit(1)
    ).first()
    if found is None:
        raise NotFound(phrase("store.units.no-such-unit"))
    row, version = found
    return UnitRecord(row, version, checked_plate(version))


def list_units(
    session: Session, shop_id: uuid.UUID, unit_ids: Collection[uuid.UUID] | None = None
) -> list[UnitRecord]:
    """Units of the shop with their newest versions, by place and door: some, or all of them."""
    newest = (
        select(UnitRow, UnitVersion)
        .join(UnitVersion, UnitVersion.unit_id == UnitRow.id)
        .where(UnitRow.shop_id == shop_id)
        .ext(distinct_on(UnitRow.id))
        .order_by(UnitRow.id, UnitVersion.number.desc())
    )
    if unit_ids is not None:
        newest = newest.where(UnitRow.id.in_(unit_ids))
    found = [UnitRecord(row, ver, checked_plate(ver)) for row, ver in session.execute(newest)]
    return sorted(found, key=lambda r: (r.row.place, r.row.door or 0, r.row.created_at))


def units_off_round(
    session: Session, shop_id: uuid.UUID, round_id: uuid.UUID | None, most: int
) -> Sequence[uuid.UUID]:
    """The first units, by place and door, that a round does not go over; where none is given, of all."""
    query = select(UnitRow.id).where(UnitRow.shop_id == shop_id)
    if round_id is not None:
        on_it = select(RoundUnit.unit_id).where(RoundUnit.round_id == round_id)
        query = query.where(UnitRow.id.not_in(on_it))
    in_order = query.order_by(UnitRow.place, UnitRow.door, UnitRow.created_at)
    return session.scalars(in_order.limit(most)).all()


def how_many_units(session: Session, shop_id: uuid.UUID) -> int:
    return session.scalar(select(func.count()).where(UnitRow.shop_id == shop_id)) or 0


def save_plate(session: Session, record: UnitRecord, unit: Unit, seen_number: int) -> UnitRecord:
    """Store a changed plate as the next version; visits keep the one they have.

    Raises Conflict when somebody else saved since ``seen_number`` was shown.
    """
    session.execute(select(UnitRow.id).where(UnitRow.id == record.row.id).with_for_update()).scalar_one()
    newest = session.scalar(select(func.max(UnitVersion.number)).where(UnitVersion.unit_id == record.row.id))
    if newest != seen_number:
        raise Conflict(phrase("store.units.somebody-else-changed-this"))
    plate = unit_to_json(unit)
    if plate == record.version.plate:
        return record
    version = UnitVersion(shop_id=record.row.shop_id, unit_id=record.row.id, number=newest + 1, plate=plate)
    session.add(version)
    session.flush()
    write_unit_words(session, record.row.shop_id, record.row, unit)
    return replace(record, version=version, unit=unit)


def version_number(session: Session, version_id: uuid.UUID) -> int:
    return session.get_one(UnitVersion, version_id).number


def undo_plate(session: Session, record: UnitRecord, seen_number: int) -> UnitRecord:
    """The plate before the newest. The newest is gone where no visit is judged by it; else the one
    before becomes the next version. Raises Conflict where there is none, or as ``save_plate``.
    """
    session.execute(select(UnitRow.id).where(UnitRow.id == record.row.id).with_for_update()).scalar_one()
    newest, *before = session.scalars(
        select(UnitVersion)
        .where(UnitVersion.unit_id == record.row.id)
        .order_by(UnitVersion.number.desc())
        .limit(2)
    )
    if newest.number != seen_number:
        raise Conflict(phrase("store.units.somebody-else-changed-this"))
    if not before:
        raise Conflict(phrase("store.units.there-nothing-undo-this"))
    used = session.scalar(select(Visit.id).where(Visit.version_id == newest.id).limit(1))
    if used is not None:
        return save_plate(session, record, checked_plate(before[0]), seen_number)
    try:
        with session.begin_nested():
            session.delete(newest)
    except IntegrityError:  # a visit has begun on it meanwhile
        raise Conflict(phrase("store.units.visit-has-begun-this")) from None
    unit = checked_plate(before[0])
    write_unit_words(session, record.row.shop_id, record.row, unit)
    return replace(record, version=before[0], unit=unit)


_CHECKED: Cache[uuid.UUID, Unit] = Cache("checked plates", 32 * MEGABYTE, lambda unit: UNIT_BYTES)
_ALIKE: Cache[Unit, Unit] = Cache("units", 8 * MEGABYTE, lambda unit: UNIT_BYTES)


def the_one(unit: Unit) -> Unit:
    """The one object that stands for all units alike, so that what is kept of it is found soon."""
    return _ALIKE.get_or_make(unit, lambda: unit)


def checked_plate(version: UnitVersion) -> Unit:
    return checked_version(version.id, lambda: version)


def checked_version(version_id: uuid.UUID, load: Callable[[], UnitVersion]) -> Unit:
    """The unit of a version. A version never changes, so it is loaded and checked once.

    Plates alike are one unit, so that what is kept of a unit is found by identity.
    """

    def check() -> Unit:
        return the_one(UnitJson.model_validate(load().plate).to_core())

    return _CHECKED.get_or_make(version_id, check)
