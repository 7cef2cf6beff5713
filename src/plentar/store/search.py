"""Search over a shop's units and finished visits; the lead's board. Every query goes by an index."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, collate, func, select, text
from sqlalchemy.orm import Session

from plentar.store.digests import query_of
from plentar.store.models import NOT_IN_SERVICE, WORK_OPEN, Digest, DigestValue, UnitWords
from plentar.store.visit_lists import CallRow, calls_of

#: Rows on a page, and in a file.
PAGE, MOST_ROWS = 50, 20_000
#: Units on each list of the board; it says when there are more.
MOST_ON_BOARD = 50


@dataclass(frozen=True, slots=True)
class Asked:
    """What is looked for; empty or None is not asked. ``kind`` is of a series of the history, its value
    ``above`` or ``below``; ``before`` is where a page goes on, of values the number ``skipped``."""

    words: str = ""
    finding: str = ""
    mended: str = ""
    who: str = ""
    complaint: str = ""
    outcome: str = ""
    since: date | None = None
    until: date | None = None
    kind: str = ""
    above: float | None = None
    below: float | None = None
    before: datetime | None = None
    skipped: int = 0

    @property
    def only_words(self) -> bool:
        return self == Asked(self.words)


@dataclass(frozen=True, slots=True)
class Found:
    visit_id: uuid.UUID
    unit_id: uuid.UUID
    label: str
    started_at: datetime
    who: str
    complaint: str | None
    outcome: str
    findings: Sequence[str]
    mended: Sequence[str]
    value: float | None = None
    part: str = ""


def find_visits(session: Session, shop_id: uuid.UUID, asked: Asked, most: int = PAGE) -> list[Found]:
    """The finished visits that fit, the newest first; by a value, the furthest beyond first."""
    return [Found(*row) for row in session.execute(visits_query(shop_id, asked, most))]


def visits_query(shop_id: uuid.UUID, asked: Asked, most: int) -> Any:
    """What ``find_visits`` asks: in the order of an index, so that it ends where the page is full."""
    query = _visits(shop_id, asked).limit(most)
    if not asked.kind:
        return query.order_by(Digest.started_at.desc())
    downward = asked.below is None or asked.above is not None
    value = DigestValue.value.desc() if downward else DigestValue.value
    return query.order_by(value).offset(asked.skipped)


def _visits(shop_id: uuid.UUID, asked: Asked) -> Any:
    columns: list[Any] = [
        Digest.visit_id,
        Digest.unit_id,
        UnitWords.label,
        Digest.started_at,
        Digest.who,
        Digest.complaint,
        Digest.outcome,
        Digest.findings,
        Digest.mended,
    ]
    query: Any = select(*columns).join(UnitWords, UnitWords.unit_id == Digest.unit_id)
    if asked.kind:
        query = query.add_columns(DigestValue.value, DigestValue.part).join(
            DigestValue, DigestValue.visit_id == Digest.visit_id
        )
        query = query.where(DigestValue.shop_id == shop_id, DigestValue.kind == asked.kind)
        if asked.above is not None:
            query = query.where(DigestValue.value > asked.above)
        if asked.below is not None:
            query = query.where(DigestValue.value < asked.below)
    return query.where(Digest.shop_id == shop_id, *_conditions(asked))


def _conditions(asked: Asked) -> Iterator[ColumnElement[bool]]:
    if words := query_of(asked.words):
        yield Digest.words.bool_op("@@")(func.to_tsquery("simple", words))
    if asked.finding:
        yield Digest.findings.contains([asked.finding])
    if asked.mended:
        yield Digest.mended.contains([asked.mended])
    for column, value in (
        (Digest.who, asked.who),
        (Digest.complaint, asked.complaint),
        (Digest.outcome, asked.outcome),
    ):
        if value:
            yield column == value
    if asked.since:
        yield Digest.started_at >= asked.since
    if asked.until:
        yield Digest.started_at < asked.until + timedelta(days=1)
    if asked.before:
        yield Digest.started_at < asked.before


#: 2 before 10, by the collation of the migrations.
NATURAL_LABEL = collate(UnitWords.label, "natural_order")


def find_units(
    session: Session, shop_id: uuid.UUID, words: str, most: int = PAGE
) -> list[tuple[uuid.UUID, str]]:
    query = select(UnitWords.unit_id, UnitWords.label).where(UnitWords.shop_id == shop_id)
    if typed := query_of(words):
        query = query.where(UnitWords.words.bool_op("@@")(func.to_tsquery("simple", typed)))
    return [(unit, label) for unit, label in session.execute(query.order_by(NATURAL_LABEL).limit(most))]


def labels_of(session: Session, shop_id: uuid.UUID, unit_ids: Collection[uuid.UUID]) -> dict[uuid.UUID, str]:
    query = select(UnitWords.unit_id, UnitWords.label).where(
        UnitWords.shop_id == shop_id, UnitWords.unit_id.in_(unit_ids)
    )
    return dict(session.execute(query).all())


def units_named(session: Session, shop_id: uuid.UUID, names: Sequence[str]) -> dict[str, list[uuid.UUID]]:
    query = select(UnitWords.label, UnitWords.unit_id).where(
        UnitWords.shop_id == shop_id, UnitWords.label.in_(names)
    )
    found: dict[str, list[uuid.UUID]] = {}
    for label, unit_id in session.execute(query):
        found.setdefault(label, []).append(unit_id)
    return found


@dataclass(frozen=True, slots=True)
class Waiting:
    """One thing on the board: at which unit, what, when it is due, how far its part is."""

    unit_id: uuid.UUID
    label: str
    text: str
    when: str = ""
    due_on: str | None = None
    parts: str = ""


@dataclass(frozen=True, slots=True)
class Board:
    """What a lead looks at: visits that are open, units that are not in service, work by its day."""

    open_visits: tuple[CallRow, ...]
    left_off: tuple[Waiting, ...]
    work: tuple[Waiting, ...]


def board_of(session: Session, shop_id: uuid.UUID) -> Board:
    """The board as it stands: of each unit its newest finished visit counts, and of a list too long for
    a board the newest."""
    newest = (
        select(Digest.unit_id, UnitWords.label, Digest.outcome, Digest.work)
        .join(UnitWords, UnitWords.unit_id == Digest.unit_id)
        .where(Digest.shop_id == shop_id)
    )
    newest = newest.order_by(Digest.started_at.desc()).limit(MOST_ON_BOARD)
    off = session.execute(newest.where(text(NOT_IN_SERVICE))).all()
    busy = session.execute(newest.where(text(WORK_OPEN))).all()
    work = [
        Waiting(unit_id, label, str(line["text"]), line["when"], line["due_on"], line["parts"])
        for unit_id, label, _, lines in busy
        for line in lines
    ]
    order = {"now": 0, "soon": 1, "offer": 2}
    work.sort(key=lambda w: (w.due_on or "9999", order.get(w.when, 3), w.label))
    return Board(
        tuple(reversed(calls_of(session, shop_id))),
        tuple(Waiting(unit_id, label, outcome) for unit_id, label, outcome, _ in off),
        tuple(work),
    )
