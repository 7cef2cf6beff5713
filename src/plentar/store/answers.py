"""The judge's last whole answer to each visit, under the digest of the evidence that it rests on."""

from __future__ import annotations

import uuid
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from plentar.core.judgement import Diagnosis
from plentar.files.diagnosis_json import diagnosis_from_json, diagnosis_to_json
from plentar.store.models import JudgeAnswer, now
from plentar.store.record import VisitRow


def kept_answer(
    session: Session, visit_id: uuid.UUID, digest: str | None = None
) -> tuple[Diagnosis, datetime] | None:
    """The answer to this evidence, or without a digest the visit's last, and when it was given; None where
    there is none."""
    kept = select(JudgeAnswer.body, JudgeAnswer.answered_at).where(JudgeAnswer.visit_id == visit_id)
    found = session.execute(kept.where(JudgeAnswer.digest == digest) if digest else kept).first()
    diagnosis = diagnosis_from_json(found[0]) if found else None
    return (diagnosis, found[1]) if found and diagnosis is not None else None


def keep_answer(session: Session, row: VisitRow, digest: str, diagnosis: Diagnosis) -> None:
    """In the place of the visit's last; the caller commits."""
    values = {"digest": digest, "body": diagnosis_to_json(diagnosis), "answered_at": now()}
    session.execute(
        insert(JudgeAnswer)
        .values(visit_id=row.id, shop_id=row.shop_id, **values)
        .on_conflict_do_update(index_elements=["visit_id"], set_=values)
    )
