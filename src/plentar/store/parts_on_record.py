"""Every device of a shop with the time that it is on record, from the digests of its visits."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from plentar.core.door import Watched
from plentar.store.models import Digest, UnitVersion

SECONDS_A_YEAR = 365.2425 * 86_400


def watched_devices(session: Session, shop_id: uuid.UUID) -> dict[str, list[Watched]]:
    """Of each type of device how long each was watched, and whether it was replaced then."""
    types = _types(session, shop_id)
    found: dict[str, list[Watched]] = {}
    for unit_id, visits in _visits(session, shop_id):
        for device, kind in types.get(unit_id, {}).items():
            found.setdefault(kind, []).extend(_of_device(device, visits))
    return found


def _of_device(device: str, visits: list[tuple[datetime, list[str]]]) -> Iterator[Watched]:
    """A device and those that came into its place."""
    began = visits[0][0]
    for at, mended in visits:
        if device in mended:
            yield Watched((at - began).total_seconds() / SECONDS_A_YEAR, True)
            began = at
    yield Watched((visits[-1][0] - began).total_seconds() / SECONDS_A_YEAR, False)


def _types(session: Session, shop_id: uuid.UUID) -> dict[uuid.UUID, dict[str, str]]:
    """The devices of every unit's newest plate, with their types."""
    newest = (
        select(
            UnitVersion.unit_id, UnitVersion.plate["controls"], UnitVersion.plate["blower"]["relay"]
        )
        .where(UnitVersion.shop_id == shop_id)
        .ext(distinct_on(UnitVersion.unit_id))
        .order_by(UnitVersion.unit_id, UnitVersion.number.desc())
    )
    found = {}
    for unit_id, controls, relay in session.execute(newest):
        devices = {c["id"]: c["type"] for c in controls or []}
        if relay:
            devices[relay.get("id", "BR")] = f"{relay['type']} blower relay"
        found[unit_id] = devices
    return found


def _visits(
    session: Session, shop_id: uuid.UUID
) -> Iterator[tuple[uuid.UUID, list[tuple[datetime, list[str]]]]]:
    """Each unit's finished visits in order: when, and what was mended."""
    rows = session.execute(
        select(
            Digest.unit_id,
            func.array_agg(func.jsonb_build_array(Digest.started_at, func.to_jsonb(Digest.mended))),
        )
        .where(Digest.shop_id == shop_id)
        .group_by(Digest.unit_id)
    )
    for unit_id, visits in rows:
        yield unit_id, sorted((datetime.fromisoformat(at), mended) for at, mended in visits)
