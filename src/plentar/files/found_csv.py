"""Finished visits that a search has found, as CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from dataclasses import astuple, dataclass, fields
from datetime import datetime

from plentar.files.readings_csv import plain_cell


@dataclass(frozen=True, slots=True)
class FoundRow:
    """One visit; ``value`` is of the series that was asked for."""

    started_at: datetime
    unit: str
    technician: str
    complaint: str
    outcome: str
    findings: str
    mended: str
    value: float | None
    report: str


def found_csv(rows: Iterable[FoundRow]) -> str:
    """RFC 4180 text with a header; formulas are kept from spreadsheets."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(field.name for field in fields(FoundRow))
    for row in rows:
        writer.writerow(cell(value) for value in astuple(row))
    return text.getvalue()


def cell(value: object) -> str:
    if isinstance(value, datetime):
        return value.isoformat()
    if isinstance(value, float):
        return f"{value:.6g}"
    return "" if value is None else plain_cell(str(value))
