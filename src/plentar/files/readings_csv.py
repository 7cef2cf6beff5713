"""Readings as CSV: one row a reading, due beside read. Formulas are kept from spreadsheets."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from dataclasses import dataclass

from plentar.core.judgement import ReadingJudgement
from plentar.core.visit.evidence import Taken
from plentar.core.visit.state import state_in_words

_BEGINS = re.compile(r"[\s\ufeff]*[=+\-@|%＝＋－＠]|[\t\r\n]")
HEADER = (
    "t_s",
    "point",
    "quantity",
    "unit",
    "value",
    "nominal",
    "due",
    "verdict",
    "provisional",
    "counts",
    "struck_reason",
    "note",
    "calls",
    "since_call_s",
    "power",
    "wires",
    "driven",
    "state",
)


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
        writer.writerow(
            [
                f"{reading.t_s:g}",
                reading.at,
                reading.quantity,
                reading.quantity.sign,
                "OL" if overload else f"{reading.value:.6g}",
                nominal,
                due.text(),
                verdict.word,
                "yes" if verdict.provisional else "no",
                "yes" if counts else "no",
                plain_cell(row.struck_reason),
                plain_cell(reading.note),
                *_state(row.judged.taken),
            ]
        )
    return text.getvalue()


def _state(taken: Taken) -> list[str]:
    """What stood when it was read, for people and for programs."""
    state, driven = taken.state, taken.reading.driven
    since = f"{state.t_s - max(state.since_s.values()):g}" if state.since_s else ""
    return [
        " ".join(sorted(state.since_s)),
        since,
        " ".join(f"{circuit}:{power}" for circuit, power in state.power.items()),
        "lifted" if state.lifted else "on",
        "yes" if driven else "no",
        str(state_in_words(state, driven=driven)),
    ]


def plain_cell(text: str) -> str:
    """Text that a spreadsheet will not run: what it begins with after blanks, full width too."""
    return f"'{text}" if _BEGINS.match(text) else text
