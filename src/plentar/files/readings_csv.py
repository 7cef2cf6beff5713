"""Readings as CSV: one row a reading, due beside read. Formulas are kept from spreadsheets."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from dataclasses import dataclass

from plentar.core.judgement import ReadingJudgement

_BEGINS = re.compile(r"[\s\ufeff]*[=+\-@|%＝＋－＠]|[\t\r\n]")
HEADER = (
    "t_s", "point", "quantity", "unit", "value", "nominal", "due", "verdict", "provisional",
    "counts", "struck_reason", "note",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class CsvRow:
    """A judged reading with what the record knows besides."""

    judged: ReadingJudgement
    struck_reason: str = ""


def readings_csv(rows: Iterable[CsvRow]) -> str:
    """RFC 4180 text with a header."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(HEADER)
    for row in rows:
        reading, verdict = row.judged.taken.reading, row.judged.verdict
        due = verdict.due
        overload = reading.value == float("inf")
        nominal = "" if due.nominal is None else f"{due.nominal:.4g}"
        counts = row.judged.taken.counts and not row.struck_reason
        writer.writerow([
            f"{reading.t_s:g}", reading.at, reading.quantity, reading.quantity.sign,
            "OL" if overload else f"{reading.value:.6g}", nominal,
            due.text(), verdict.word, "yes" if verdict.provisional else "no",
            "yes" if counts else "no", _plain(row.struck_reason), _plain(reading.note),
        ])  # fmt: skip
    return text.getvalue()


def _plain(text: str) -> str:
    """Text that a spreadsheet will not run: what it begins with after blanks, full width too."""
    return f"'{text}" if _BEGINS.match(text) else text
