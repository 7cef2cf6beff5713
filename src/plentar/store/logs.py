"""Logged currents of a visit: kept as they came, and found within the shop."""

from __future__ import annotations

import gzip
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.logged.trace import Log
from plentar.files.log_csv import read_log_csv
from plentar.store.errors import Conflict, NotFound
from plentar.store.models import VisitLog, now
from plentar.store.record import VisitRecord
from plentar.words import phrase

MOST_LOGS = 40


@dataclass(frozen=True, slots=True)
class LogRow:
    """A log without its samples."""

    id: uuid.UUID
    name: str
    shift_s: float
    recorded_at: datetime
    confirmed_at: datetime | None


_ROW = [getattr(VisitLog, name) for name in LogRow.__dataclass_fields__]


def add_log(
    session: Session, record: VisitRecord, name: str, csv: bytes, client_id: uuid.UUID, by: uuid.UUID
) -> uuid.UUID:
    """Keep a log that has been read without complaint; the same id again keeps nothing more."""
    if len(logs_of(session, record)) >= MOST_LOGS:
        raise Conflict(phrase("store.logs.visit-keeps-logs-most", most_logs=MOST_LOGS))
    session.execute(
        insert(VisitLog)
        .values(
            id=uuid.uuid4(),
            shop_id=record.row.shop_id,
            visit_id=record.row.id,
            client_id=client_id,
            name=name,
            shift_s=0.0,
            csv_gzip=gzip.compress(csv, 6),
            recorded_by=by,
            recorded_at=now(),
        )
        .on_conflict_do_nothing(index_elements=["visit_id", "client_id"])
    )
    return session.scalars(
        select(VisitLog.id).where(VisitLog.visit_id == record.row.id, VisitLog.client_id == client_id)
    ).one()


def logs_of(session: Session, record: VisitRecord) -> Sequence[LogRow]:
    """The logs of a visit, oldest first."""
    found = session.execute(
        select(*_ROW)
        .where(VisitLog.shop_id == record.row.shop_id, VisitLog.visit_id == record.row.id)
        .order_by(VisitLog.recorded_at)
    )
    return [LogRow(*row) for row in found]


def find_log(session: Session, record: VisitRecord, log_id: uuid.UUID) -> tuple[LogRow, bytes]:
    """One log with its CSV as it came; raises NotFound."""
    found = session.execute(
        select(*_ROW, VisitLog.csv_gzip).where(
            VisitLog.shop_id == record.row.shop_id, VisitLog.visit_id == record.row.id, VisitLog.id == log_id
        )
    ).first()
    if found is None:
        raise NotFound(phrase("store.logs.no-such-log"))
    *row, packed = found
    return LogRow(*row), gzip.decompress(packed)


def confirm_log(session: Session, record: VisitRecord, log_id: uuid.UUID, shift_s: float) -> None:
    """The log's stages have entered the visit, its zero being at ``shift_s``."""
    session.execute(
        update(VisitLog)
        .where(VisitLog.id == log_id, VisitLog.visit_id == record.row.id)
        .values(confirmed_at=now(), shift_s=shift_s)
    )


#: A log never changes, so that its samples are parsed once while they fit.
_PARSED: Cache[uuid.UUID, Log] = Cache(
    "parsed logs",
    64 * MEGABYTE,
    lambda log: log.t_s.nbytes + sum(amps.nbytes for amps in log.columns.values()),
)


def parsed_log(record: VisitRecord, row: LogRow, csv: bytes) -> Log:
    """A log's samples, its own zero at 0 s."""
    return _PARSED.get_or_make(row.id, lambda: read_log_csv(csv, record.unit, record.row.started_at))
