"""Every part of a shop with the time that it is on record, from the digests of its visits."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from plentar.core.history.shop import own_frequencies, relay_kind, trade_frequency
from plentar.core.history.survival import Watched
from plentar.core.judgement import FindingCode
from plentar.store.models import Digest, UnitVersion

SECONDS_A_YEAR = 365.2425 * 86_400


@dataclass
class OnRecord:
    """All parts of one kind: how long each was watched, and how often one fails in the trade."""

    watched: list[Watched] = field(default_factory=list)
    trade: list[float] = field(default_factory=list)
    #: How many were replaced on a visit on which an element drew without a call: welded, or a fellow.
    welded: int = 0
    #: Those in place now: since when each is on record, its unit and its name there.
    standing: list[tuple[datetime, uuid.UUID, str]] = field(default_factory=list)

    @property
    def trade_frequency(self) -> float:
        return sum(self.trade) / len(self.trade)


def parts_on_record(session: Session, shop_id: uuid.UUID) -> dict[str, OnRecord]:
    """Of each kind of part how long each was watched, and whether it was replaced then."""
    parts = _parts(session, shop_id)
    found: dict[str, OnRecord] = {}
    for unit_id, seen in _seen(session, shop_id).items():
        for part, (kind, switches) in parts.get(unit_id, {}).items():
            record = found.setdefault(kind, OnRecord())
            began = seen.first
            for at, uncalled in seen.mended.get(part, ()):
                record.watched.append(Watched(_years(began, at), True))
                record.welded += uncalled
                began = at
            record.watched.append(Watched(_years(began, seen.last), False))
            record.trade.append(trade_frequency(kind, switches))
            record.standing.append((began, unit_id, part))
    return found


def shops_frequencies(found: Mapping[str, OnRecord]) -> dict[str, float]:
    """The factors on the trade's frequencies; empty with too few replacements."""
    return own_frequencies(
        {kind: record.watched for kind, record in found.items()},
        {kind: record.trade_frequency for kind, record in found.items()},
    )


def _years(since: datetime, until: datetime) -> float:
    return (until - since).total_seconds() / SECONDS_A_YEAR


def _parts(session: Session, shop_id: uuid.UUID) -> dict[uuid.UUID, dict[str, tuple[str, int]]]:
    """The parts of every unit's newest plate, each with its kind and how many switches it has."""
    names = ("elements", "limits", "links", "controls")
    newest = (
        select(
            UnitVersion.unit_id,
            *(UnitVersion.plate[name] for name in names),
            UnitVersion.plate["blower"]["relay"],
        )
        .where(UnitVersion.shop_id == shop_id)
        .ext(distinct_on(UnitVersion.unit_id))
        .order_by(UnitVersion.unit_id, UnitVersion.number.desc())
    )
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


@dataclass(frozen=True, slots=True)
class _Seen:
    """A unit's first and last finished visit, and when each of its parts was mended, in order, and whether
    an element drew without a call on that visit."""

    first: datetime
    last: datetime
    mended: dict[str, list[tuple[datetime, bool]]]


def _seen(session: Session, shop_id: uuid.UUID) -> dict[uuid.UUID, _Seen]:
    ends = session.execute(
        select(Digest.unit_id, func.min(Digest.started_at), func.max(Digest.started_at))
        .where(Digest.shop_id == shop_id)
        .group_by(Digest.unit_id)
    )
    found = {unit_id: _Seen(first, last, {}) for unit_id, first, last in ends}
    repairs = session.execute(
        select(Digest.unit_id, Digest.started_at, Digest.mended, Digest.findings)
        .where(Digest.shop_id == shop_id, Digest.mended != [])
        .order_by(Digest.started_at)
    )
    for unit_id, at, mended, findings in repairs:
        uncalled = FindingCode.DRAW_WITHOUT_CALL in findings
        for part in mended:
            found[unit_id].mended.setdefault(part, []).append((at, uncalled))
    return found
