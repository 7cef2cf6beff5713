"""Every part of a shop with the time that it is on record, from the digests of its visits."""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from plentar.core.door import Watched, own_frequencies, relay_kind, trade_frequency
from plentar.store.models import Digest, UnitVersion

SECONDS_A_YEAR = 365.2425 * 86_400


@dataclass
class OnRecord:
    """All parts of one kind: how long each was watched, and how often one fails in the trade."""

    watched: list[Watched] = field(default_factory=list)
    trade: list[float] = field(default_factory=list)
    #: Those in place now: since when each is on record, its unit and its name there.
    standing: list[tuple[datetime, uuid.UUID, str]] = field(default_factory=list)

    @property
    def trade_frequency(self) -> float:
        """Of a part of the kind, the mean."""
        return sum(self.trade) / len(self.trade)


def parts_on_record(session: Session, shop_id: uuid.UUID) -> dict[str, OnRecord]:
    """Of each kind of part how long each was watched, and whether it was replaced then."""
    parts = _parts(session, shop_id)
    found: dict[str, OnRecord] = {}
    for unit_id, visits in _visits(session, shop_id):
        for part, (kind, switches) in parts.get(unit_id, {}).items():
            record = found.setdefault(kind, OnRecord())
            record.watched.extend(_of_part(part, visits))
            record.trade.append(trade_frequency(kind, switches))
            since = max((at for at, mended in visits if part in mended), default=visits[0][0])
            record.standing.append((since, unit_id, part))
    return found


def shops_frequencies(found: Mapping[str, OnRecord]) -> dict[str, float]:
    """The factors on the trade's frequencies; empty with too few replacements."""
    return own_frequencies(
        {kind: record.watched for kind, record in found.items()},
        {kind: record.trade_frequency for kind, record in found.items()},
    )


def _of_part(part: str, visits: list[tuple[datetime, list[str]]]) -> Iterator[Watched]:
    """A part and those that came into its place."""
    began = visits[0][0]
    for at, mended in visits:
        if part in mended:
            yield Watched((at - began).total_seconds() / SECONDS_A_YEAR, True)
            began = at
    yield Watched((visits[-1][0] - began).total_seconds() / SECONDS_A_YEAR, False)


def _parts(session: Session, shop_id: uuid.UUID) -> dict[uuid.UUID, dict[str, tuple[str, int]]]:
    """The parts of every unit's newest plate, each with its kind and how many switches it has."""
    names = ("elements", "limits", "links", "controls")
    newest = (
        select(
            UnitVersion.unit_id, *(UnitVersion.plate[name] for name in names),
            UnitVersion.plate["blower"]["relay"],
        )
        .where(UnitVersion.shop_id == shop_id)
        .ext(distinct_on(UnitVersion.unit_id))
        .order_by(UnitVersion.unit_id, UnitVersion.number.desc())
    )  # fmt: skip
    found = {}
    for unit_id, elements, limits, links, controls, relay in session.execute(newest):
        parts: dict[str, tuple[str, int]] = {}
        for kind, some in (("element", elements), ("limit", limits), ("link", links)):
            parts |= {one["id"]: (kind, 0) for one in some or []}
        parts |= {c["id"]: (c["type"], len(c["switches"])) for c in controls or []}
        if relay:
            parts[relay.get("id", "BR")] = relay_kind(relay["type"]), 0
        found[unit_id] = parts
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
