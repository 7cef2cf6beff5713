"""Rounds over any units: planned from a search or from what an earlier round left, and how far they are."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.store.errors import NotFound
from plentar.store.models import Account, Round, RoundUnit, UnitWords, Visit
from plentar.store.models import Unit as UnitRow
from plentar.store.search import find_units

#: How many units a round goes over at most.
MOST_UNITS = 5_000
#: A visit that was left open overnight says nothing of how long one takes, minutes.
LONGEST_MINUTES = 240.0


@dataclass(frozen=True, slots=True)
class RoundStop:
    """One unit of a round: where it is, who takes it, its visit on this round, and how many minutes its
    visits have taken (the median; None where there was none)."""

    unit_id: uuid.UUID
    label: str
    place: str
    who: uuid.UUID | None
    visit_id: uuid.UUID | None
    done: bool
    minutes: float | None


def plan_round(
    session: Session,
    shop_id: uuid.UUID,
    title: str,
    due_on: date | None,
    words: str = "",
    left_by: uuid.UUID | None = None,
) -> Round:
    """A round over the units that fit some words, or over what an earlier round has left undone. Raises
    BadInput for a title that is taken, or where there is no unit."""
    if left_by is not None:
        unit_ids = [
            s.unit_id
            for s in stops_of(session, find_round(session, shop_id, left_by))
            if not s.done
        ]
    else:
        unit_ids = [unit_id for unit_id, _ in find_units(session, shop_id, words, MOST_UNITS)]
    if not unit_ids:
        raise BadInput("words", "no unit fits that")
    taken = select(Round.id).where(Round.shop_id == shop_id, Round.title == title)
    if session.scalar(taken) is not None:
        raise BadInput("title", "there is a round of that name")
    planned = Round(shop_id=shop_id, title=title, place="", opened_on=date.today(), due_on=due_on)
    session.add(planned)
    session.flush()
    rows = [{"round_id": planned.id, "unit_id": u, "shop_id": shop_id} for u in unit_ids]
    session.execute(insert(RoundUnit).on_conflict_do_nothing(), rows)
    return planned


def find_round(session: Session, shop_id: uuid.UUID, round_id: uuid.UUID) -> Round:
    """A round of this shop; raises NotFound."""
    found = session.scalar(select(Round).where(Round.shop_id == shop_id, Round.id == round_id))
    if found is None:
        raise NotFound("no such round")
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
    minutes = (
        select(
            func.percentile_cont(0.5).within_group(
                func.least(
                    func.extract("epoch", Visit.closed_at - Visit.started_at) / 60, LONGEST_MINUTES
                )
            )
        )
        .where(Visit.unit_id == RoundUnit.unit_id, Visit.closed_at.is_not(None))
        .correlate(RoundUnit)
        .scalar_subquery()
    )
    rows = session.execute(
        select(
            RoundUnit.unit_id,
            UnitWords.label,
            UnitRow.place,
            RoundUnit.who,
            Visit.id,
            Visit.closed_at,
            minutes,
        )
        .join(UnitRow, UnitRow.id == RoundUnit.unit_id)
        .join(UnitWords, UnitWords.unit_id == RoundUnit.unit_id)
        .outerjoin(
            Visit, (Visit.round_id == RoundUnit.round_id) & (Visit.unit_id == RoundUnit.unit_id)
        )
        .where(RoundUnit.round_id == round_.id)
        .order_by(UnitRow.place, UnitRow.door, UnitWords.label, Visit.started_at.desc())
    )
    found: dict[uuid.UUID, RoundStop] = {}
    for unit_id, label, place, who, visit_id, closed_at, took in rows:
        stop = RoundStop(
            unit_id, label, place, who, visit_id, closed_at is not None,
            None if took is None else float(took),
        )  # fmt: skip
        found.setdefault(unit_id, stop)
    return list(found.values())


def assign(
    session: Session, round_: Round, unit_ids: Sequence[uuid.UUID], who: uuid.UUID | None
) -> None:
    """Somebody of the shop takes some units of a round; with None nobody does. Raises BadInput."""
    known = {person.id for person in people_of(session, round_.shop_id)}
    if who is not None and who not in known:
        raise BadInput("who", "nobody of this shop")
    session.execute(
        update(RoundUnit)
        .where(RoundUnit.round_id == round_.id, RoundUnit.unit_id.in_(unit_ids))
        .values(who=who)
    )


def people_of(session: Session, shop_id: uuid.UUID) -> Sequence[Account]:
    """Who works here, by name."""
    return session.scalars(
        select(Account).where(Account.shop_id == shop_id).order_by(Account.name)
    ).all()


def round_for(session: Session, shop_id: uuid.UUID, unit_id: uuid.UUID) -> Round | None:
    """The newest planned round that goes over a unit and has no finished visit of it yet."""
    done = select(Visit.id).where(
        Visit.round_id == Round.id, Visit.unit_id == unit_id, Visit.closed_at.is_not(None)
    )
    return session.scalar(
        select(Round)
        .join(RoundUnit, RoundUnit.round_id == Round.id)
        .where(Round.shop_id == shop_id, RoundUnit.unit_id == unit_id, ~done.exists())
        .order_by(Round.opened_on.desc())
        .limit(1)
    )
