"""Digests: what finished visits and units are found by, written when they change and searched by index."""

from __future__ import annotations

import logging
import re
import uuid
from collections.abc import Callable, Iterator
from functools import partial

from pydantic import ValidationError
from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from plentar.core.door import found_in_its_course, judge_evidence
from plentar.core.errors import PlentarError
from plentar.core.history.series import visit_of
from plentar.core.visit.evidence import Evidence
from plentar.store.models import Digest, DigestValue, UnitWords, Visit
from plentar.store.models import Unit as UnitRow
from plentar.store.record import VisitRecord
from plentar.store.unit_words import CONFIG, unit_words, write_unit_words
from plentar.store.units import find_unit
from plentar.store.visits import find_visit, opener_name
from plentar.words import phrase

log = logging.getLogger(__name__)
_WORD = re.compile(r"[\w][\w.-]*")
#: How many visits are digested between two commits.
AT_ONCE = 200


def write_digest(session: Session, record: VisitRecord) -> None:
    """What a finished visit is found by, in the place of what there was; none for one that is open."""
    row = record.row
    forget_digest(session, row.id)
    if row.closed_at is None or row.outcome is None:
        return
    evidence = Evidence(record.unit, record.core())
    judgement = judge_evidence(evidence)
    added = visit_of(row.started_at.date(), str(row.id), evidence)
    newer = select(Digest.visit_id).where(Digest.unit_id == row.unit_id, Digest.started_at > row.started_at)
    newest = session.scalar(newer.limit(1)) is None
    if newest:
        session.execute(update(Digest).where(Digest.unit_id == row.unit_id).values(newest=False))
    who = opener_name(session, row)
    session.execute(
        insert(Digest).values(
            visit_id=row.id,
            shop_id=row.shop_id,
            unit_id=row.unit_id,
            started_at=row.started_at,
            who=who,
            complaint=row.complaint,
            outcome=row.outcome,
            newest=newest,
            findings=sorted({str(f.code) for f in found_in_its_course(judgement)}),
            mended=sorted(added.mended),
            work=list(_open_work(record)),
            words=func.to_tsvector(CONFIG, " ".join(_words(record, who))),
        )
    )
    values = [
        {
            "visit_id": row.id,
            "shop_id": row.shop_id,
            "kind": a.kind,
            "part": a.part,
            "value": a.value,
            "accuracy": a.accuracy,
            "due_low": a.due.low,
            "due_high": a.due.high,
        }
        for a in added.added
    ]
    if values:
        session.execute(insert(DigestValue).on_conflict_do_nothing(), values)


def forget_digest(session: Session, visit_id: uuid.UUID) -> None:
    """A visit that is open again is not among the finished ones; the one before is the newest then."""
    gone = session.execute(
        delete(Digest).where(Digest.visit_id == visit_id).returning(Digest.unit_id, Digest.newest)
    ).first()
    if gone is not None and gone.newest:
        before = (
            select(Digest.visit_id)
            .where(Digest.unit_id == gone.unit_id)
            .order_by(Digest.started_at.desc())
            .limit(1)
            .scalar_subquery()
        )
        session.execute(update(Digest).where(Digest.visit_id == before).values(newest=True))


def _open_work(record: VisitRecord) -> Iterator[dict[str, object]]:
    for line in record.work:
        if line.open:
            yield {
                "when": line.when,
                "text": str(line.text),
                "parts": line.parts,
                "due_on": line.due_on.isoformat() if line.due_on else None,
            }
    if record.row.follow_up:
        yield {"when": "soon", "text": record.row.follow_up, "parts": "", "due_on": None}


def _words(record: VisitRecord, who: str) -> Iterator[str]:
    """Everything that somebody wrote or did, and the unit's own words."""
    row = record.row
    yield from unit_words(record.unit)
    yield who
    yield phrase(f"complaint.{row.complaint}") if row.complaint else ""
    yield phrase(f"outcome.{row.outcome}") if row.outcome else ""
    yield row.left_note
    yield row.follow_up
    yield from (str(line.text) for line in record.work)
    yield from (str(body.get("text", "")) for body in record.noted("note"))
    yield from (str(event.body.get("note", "")) for event in record.events if not event.struck_at)
    yield from (event.mended for event in record.core().events if event.mended)


def fill_missing(session: Session) -> int:
    """Digest what is finished and not digested yet, and units without words; how many there were."""
    found = 0
    no_words = select(UnitRow.shop_id, UnitRow.id).where(
        ~select(UnitWords.unit_id).where(UnitWords.unit_id == UnitRow.id).exists()
    )
    for shop_id, unit_id in session.execute(no_words).all():
        _kept(session, f"unit {unit_id}", partial(_words_of_unit, session, shop_id, unit_id))
        found += 1
    session.commit()
    missing = session.execute(
        select(Visit.shop_id, Visit.id)
        .where(
            Visit.closed_at.is_not(None), ~select(Digest.visit_id).where(Digest.visit_id == Visit.id).exists()
        )
        .order_by(Visit.started_at)
    ).all()
    for number, (shop_id, visit_id) in enumerate(missing, start=1):
        _kept(session, f"visit {visit_id}", partial(_digest_of, session, shop_id, visit_id))
        if number % AT_ONCE == 0:
            session.commit()
    session.commit()
    return found + len(missing)


def _kept(session: Session, what: str, write: Callable[[], None]) -> None:
    """What an older version let in and this one can't read keeps nobody from starting."""
    try:
        with session.begin_nested():
            write()
    except (PlentarError, ValidationError):
        log.exception("%s can’t be digested", what)


def _words_of_unit(session: Session, shop_id: uuid.UUID, unit_id: uuid.UUID) -> None:
    record = find_unit(session, shop_id, unit_id)
    write_unit_words(session, shop_id, record.row, record.unit)


def _digest_of(session: Session, shop_id: uuid.UUID, visit_id: uuid.UUID) -> None:
    write_digest(session, find_visit(session, shop_id, visit_id))


def query_of(typed: str) -> str:
    """What somebody typed as a query: every word, by its beginning."""
    return " & ".join(f"'{word}':*" for word in _WORD.findall(typed.lower())[:12])
