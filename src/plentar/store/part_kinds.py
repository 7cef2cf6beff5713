"""Part kinds of a shop's own."""

from __future__ import annotations

import uuid

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.terminals import PartKind
from plentar.files.part_kind_json import PartKindJson, part_kind_to_json
from plentar.store.errors import Conflict, NotFound
from plentar.store.models import ShopPartKind
from plentar.words import phrase

#: How many a shop may keep.
MOST_KINDS = 200


def part_kinds_of(session: Session, shop_id: uuid.UUID) -> dict[str, PartKind]:
    """The kinds that a shop has laid out, by name, in the order of their titles."""
    rows = session.scalars(select(ShopPartKind.body).where(ShopPartKind.shop_id == shop_id))
    found = [PartKindJson.model_validate(body).to_core() for body in rows]
    return {kind.name: kind for kind in sorted(found, key=lambda kind: str(kind.title))}


def keep_part_kind(session: Session, shop_id: uuid.UUID, kind: PartKind) -> None:
    """Store a kind; one of the same name is stored anew. Raises Conflict for a name of the drawer,
    or where the shop has as many as it may."""
    if kind.name in PART_KINDS:
        raise Conflict(phrase("store.part-kinds.drawer-already-give-another", kind=kind.name))
    known = part_kinds_of(session, shop_id)
    if kind.name not in known and len(known) >= MOST_KINDS:
        raise Conflict(phrase("store.part-kinds.shop-keeps-kinds-own", most_kinds=MOST_KINDS))
    body = part_kind_to_json(kind)
    session.execute(
        insert(ShopPartKind)
        .values(id=uuid.uuid4(), shop_id=shop_id, name=kind.name, body=body)
        .on_conflict_do_update(index_elements=["shop_id", "name"], set_={"body": body})
    )


def drop_part_kind(session: Session, shop_id: uuid.UUID, name: str) -> None:
    """Take a kind out of the drawer; units that name it carry it themselves. Raises NotFound."""
    gone = session.execute(
        delete(ShopPartKind)
        .where(ShopPartKind.shop_id == shop_id, ShopPartKind.name == name)
        .returning(ShopPartKind.id)
    ).first()
    if gone is None:
        raise NotFound(phrase("store.part-kinds.no-such-part-kind"))
