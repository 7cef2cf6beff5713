"""A shop that shares a database with the demo is parted from it: the demo goes."""

from __future__ import annotations

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from plentar.store.demo.load import PEOPLE, SHOP
from plentar.store.models import Account, Base, Shop


def part_demo(session: Session) -> dict[str, int]:
    """Delete the demo's shop and all that belongs to it; the rows that went, by table. Its shop is known by
    its name together with its published sign-ins."""
    published = [login for login, _, _ in PEOPLE]
    its_shop = (
        select(Shop.id)
        .join(Account, Account.shop_id == Shop.id)
        .where(Shop.name == SHOP, Account.login.in_(published))
        .limit(1)
    )
    shop_id = session.scalar(its_shop)
    if shop_id is None:
        return {}
    gone: dict[str, int] = {}
    for table in reversed(Base.metadata.sorted_tables):
        if (column := table.c.get("shop_id")) is not None:
            gone[table.name] = session.execute(delete(table).where(column == shop_id)).rowcount  # type: ignore[attr-defined]
    session.execute(delete(Shop).where(Shop.id == shop_id))
    return {name: rows for name, rows in gone.items() if rows}
