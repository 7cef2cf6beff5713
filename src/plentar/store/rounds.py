"""Rounds over any units: planned from a search or from what an earlier round left, and how far they are."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.store.errors import NotFound
from plentar.store.models import Round, RoundUnit, UnitWords, Visit
from plentar.store.models import Unit as UnitRow
from plentar.store.people import people_of
from plentar.store.search import NATURAL_LABEL, find_units, units_named
from plentar.words import phrase

#: How many units a round goes over at most.
MOST_UNITS = 5_000
#: A visit that was left open overnight says nothing of how long one takes, minutes.
LONGEST_MINUTES = 240.0


@dataclass(frozen=True, slots=True)
class RoundStop:
    """One unit of a round: where it is, who takes it, and its visit on this round with what it has left
    to follow."""

    unit_id: uuid.UUID
    label: str
    place: str
    door: int | None
    who: uuid.UUID | None
    visit_id: uuid.UUID | None = None
    begun_at: datetime | None = None
    done: bool = False
    follow_up: str = ""


def plan_round(
    session: Session,
    shop_id: uuid.UUID,
    title: str,
    due_on: date | None,
    words: str = "",
    left_by: uuid.UUID | None = None,
    names: Sequence[str] = (),
) -> Round:
    """A round over the units that fit some words, over those of some names, or over what an earlier round
    has left undone. Raises BadInput for a title that is taken, or where there is no unit."""
    if left_by is not None:
        unit_ids = [s.unit_id for s in stops_of(session, find_round(session, shop_id, left_by)) if not s.done]
    elif names:
        unit_ids = _named(session, shop_id, names)
    else:
        unit_ids = [unit_id for unit_id, _ in find_units(session, shop_id, words, MOST_UNITS)]
    if not unit_ids:
        raise BadInput("words", phrase("store.rounds.no-unit-fits"))
    planned = Round(shop_id=shop_id, title=title, opened_on=date.today(), due_on=due_on)
    try:
        with session.begin_nested():
            session.add(planned)
    except IntegrityError:
        raise BadInput("title", phrase("store.rounds.there-route-name")) from None
    rows = [{"round_id": planned.id, "unit_id": u, "shop_id": shop_id} for u in unit_ids]
    session.execute(insert(RoundUnit).on_conflict_do_nothing(), rows)
    return planned


def _named(session: Session, shop_id: uuid.UUID, names: Sequence[str]) -> list[uuid.UUID]:
    found = units_named(session, shop_id, names)
    for name in names:
        if len(found.get(name, ())) != 1:
            how = phrase("store.rounds.several-units") if name in found else phrase("store.rounds.no-unit")
            raise BadInput("names", phrase("store.rounds.called", how=how, name=name[:60]))
    return [unit_id for some in found.values() for unit_id in some]


def find_round(session: Session, shop_id: uuid.UUID, round_id: uuid.UUID) -> Round:
    """A round of this shop; raises NotFound."""
    found = session.scalar(select(Round).where(Round.shop_id == shop_id, Round.id == round_id))
    if found is None:
        raise NotFound(phrase("store.rounds.no-such-round"))
    return found


def rounds_of(session: Session, shop_id: uuid.UUID) -> list[tuple[Round, int, int]]:
    """The planned rounds with their units and how many of those are done, the newest first."""
    done = (
        select(func.count(func.distinct(Visit.unit_id)))
        .where(Visit.round_id == Round.id, Visit.closed_at.is_not(None))
        .correlate(Round)
        .scalar_subquery()
    )
    rows = session.execute(
        select(Round, func.count(RoundUnit.unit_id), done)
        .join(RoundUnit, RoundUnit.round_id == Round.id)
        .where(Round.shop_id == shop_id)
        .group_by(Round.id)
        .order_by(Round.opened_on.desc(), Round.title)
    )
    return [(round_, every, finished) for round_, every, finished in rows]


def stops_of(session: Session, round_: Round) -> list[RoundStop]:
    """The units of a round in the order of their places."""
    rows = session.execute(
        select(
            RoundUnit.unit_id,
            UnitWords.label,
            UnitRow.place,
            UnitRow.door,
            RoundUnit.who,
            Visit.id,
            Visit.started_at,
            Visit.closed_at,
            Visit.follow_up,
        )
        .join(UnitRow, UnitRow.id == RoundUnit.unit_id)
        .join(UnitWords, UnitWords.unit_id == RoundUnit.unit_id)
        .outerjoin(Visit, (Visit.round_id == RoundUnit.round_id) & (Visit.unit_id == RoundUnit.unit_id))
        .where(RoundUnit.round_id == round_.id)
        .order_by(UnitRow.place, UnitRow.door, NATURAL_LABEL, Visit.started_at.desc())
    )
    found: dict[uuid.UUID, RoundStop] = {}
    for unit_id, label, place, door, who, visit_id, begun_at, closed_at, follow_up in rows:
        done = closed_at is not None
        stop = RoundStop(unit_id, label, place, door, who, visit_id, begun_at, done, follow_up or "")
        found.setdefault(unit_id, stop)
    return list(found.values())


def minutes_of(session: Session, round_: Round) -> dict[uuid.UUID, float]:
    """How many minutes the finished visits of a round's units have taken, the median of each unit's."""
    took = func.extract("epoch", Visit.closed_at - Visit.started_at) / 60
    middle = func.percentile_cont(0.5).within_group(func.least(took, LONGEST_MINUTES))
    rows = session.execute(
        select(Visit.unit_id, middle)
        .join(RoundUnit, RoundUnit.unit_id == Visit.unit_id)
        .where(RoundUnit.round_id == round_.id, Visit.closed_at.is_not(None))
        .group_by(Visit.unit_id)
    )
    return {unit_id: float(minutes) for unit_id, minutes in rows}


def assign(session: Session, round_: Round, unit_ids: Sequence[uuid.UUID], who: uuid.UUID | None) -> None:
    """Somebody of the shop takes some units of a round; with None nobody does. Raises BadInput."""
    here = {p.id for p in people_of(session, round_.shop_id) if p.ended_at is None}
    if who is not None and who not in here:
        raise BadInput("who", phrase("store.rounds.nobody-this-shop"))
    session.execute(
        update(RoundUnit)
        .where(RoundUnit.round_id == round_.id, RoundUnit.unit_id.in_(unit_ids))
        .values(who=who)
    )


def round_for(session: Session, shop_id: uuid.UUID, unit_id: uuid.UUID) -> Round | None:
    """The newest round that goes over a unit; none where its visit there is finished."""
    newest = session.scalar(
        select(Round)
        .join(RoundUnit, RoundUnit.round_id == Round.id)
        .where(Round.shop_id == shop_id, RoundUnit.unit_id == unit_id)
        .order_by(Round.opened_on.desc(), Round.title.desc())
        .limit(1)
    )
    if newest is None:
        return None
    done = select(Visit.id).where(
        Visit.round_id == newest.id, Visit.unit_id == unit_id, Visit.closed_at.is_not(None)
    )
    return None if session.scalar(done.limit(1)) else newest
