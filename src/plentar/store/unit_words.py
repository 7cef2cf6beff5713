"""What a unit is found by: where it is, and what it is made of."""

from __future__ import annotations

import uuid
from collections.abc import Iterator

from sqlalchemy import func
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from plentar.core.unit.unit import Unit
from plentar.store.models import Unit as UnitRow
from plentar.store.models import UnitWords
from plentar.words import phrase

#: Words are kept as they are typed, whatever their language.
CONFIG = "simple"


def unit_words(unit: Unit) -> Iterator[str]:
    yield unit.label
    yield unit.id
    yield unit.kind
    yield from dict.fromkeys(control.type for control in unit.controls)
    if unit.relay is not None:
        yield phrase("store.unit-words.relay", kind=unit.relay.kind.name)


def write_unit_words(session: Session, shop_id: uuid.UUID, row: UnitRow, unit: Unit) -> None:
    where = (row.place, str(row.door or ""), row.on_site, *row.tags, row.note)
    words = " ".join([*unit_words(unit), *where])
    values = {"label": unit.label or unit.id, "words": func.to_tsvector(CONFIG, words)}
    session.execute(
        insert(UnitWords)
        .values(unit_id=row.id, shop_id=shop_id, **values)
        .on_conflict_do_update(index_elements=["unit_id"], set_=values)
    )
