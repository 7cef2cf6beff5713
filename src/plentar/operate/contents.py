"""What a database holds, in figures by which a restored one is held against it: rows of each table, a hash
over all events, and what the judge says of the newest visits."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from plentar.core import door
from plentar.core.judge.diagnosis import diagnose
from plentar.files.judgement_json import judgement_to_json
from plentar.files.visit_file import parse_visit_file
from plentar.store.exchange import export_visit
from plentar.store.visits import find_visit

#: So many visits are judged, the newest ones.
JUDGED = 6
_AT_ONCE = 5000


def counts(session: Session) -> dict[str, int]:
    """The rows of each table."""
    names = session.scalars(
        text("select relname from pg_class where relnamespace = 'public'::regnamespace and relkind = 'r'")
    ).all()
    return {name: session.scalar(text(f'select count(*) from "{name}"')) or 0 for name in sorted(names)}


def events_hash(session: Session) -> str:
    """A SHA-256 over all events, in their order."""
    session.execute(text("set local timezone to 'UTC'"))
    whole = hashlib.sha256()
    rows = session.execute(
        text("select md5(visit_event::text) from visit_event order by id"),
        execution_options={"yield_per": _AT_ONCE},
    )
    for (row,) in rows:
        whole.update(row.encode())
    return whole.hexdigest()


def judgements(session: Session, most: int = JUDGED) -> dict[str, str]:
    """What is made of the newest visits that hold something: a SHA-256 of each one's judgement."""
    found: dict[str, str] = {}
    newest = text(
        "select shop_id, id from visit where exists (select from visit_event e where e.visit_id = visit.id)"
        " order by started_at desc, id limit :most"
    )
    for shop_id, visit_id in session.execute(newest, {"most": most}).all():
        file = parse_visit_file(export_visit(find_visit(session, shop_id, visit_id)).encode())
        judgement = door.judge(*file.to_core())
        said: Any = judgement_to_json(judgement, diagnose(judgement.evidence))
        found[str(visit_id)] = hashlib.sha256(json.dumps(said, sort_keys=True).encode()).hexdigest()
    return found
