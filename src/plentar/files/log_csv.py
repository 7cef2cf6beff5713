"""A logged current as CSV: in, with a line number for every complaint; and out.

The header is required: ``seconds`` or ``time`` (ISO 8601 with its zone), then one or more points
of the unit, in amps. Comma, semicolon or tab; decimal comma where the comma does not part the
columns. An empty cell, or rows that are not there, are a gap.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from datetime import datetime

import numpy as np

from plentar.core.circuit.network import Real
from plentar.core.errors import BadInput
from plentar.core.logged.columns import check_columns
from plentar.core.logged.trace import Log
from plentar.core.unit.unit import Unit
from plentar.words import phrase

MAX_BYTES = 24_000_000
MOST_COLUMNS = 16
LEAST_SAMPLES = 5
#: Below zero by no more than this is a clamp's own offset; above the most is no clamp's range.
OFFSET_AMPS, MOST_AMPS = -1.0, 2000.0
_NUMBER = re.compile(r"[-+]?(\d+([.,]\d*)?|[.,]\d+)([eE][-+]?\d+)?")


def read_log_csv(data: bytes, unit: Unit, started: datetime | None = None) -> Log:
    """The samples of a log, checked.

    ``seconds`` count from the start of the visit; ISO times are taken relative to ``started``
    where that is known, else to the first row. Raises BadInput with the path ``line N``.
    """
    if len(data) > MAX_BYTES:
        raise BadInput("", phrase("files.log-csv.larger-than-bytes", max_bytes=f"{MAX_BYTES:,}"))
    first, _, body = data.removeprefix(b"\xef\xbb\xbf").partition(b"\n")
    try:
        header = first.decode().rstrip("\r")
    except UnicodeDecodeError:
        raise BadInput("line 1", phrase("files.log-csv.not-utf-8-text")) from None
    mark = next((m for m in ("\t", ";") if m in header), ",")
    names = [name.strip().strip('"').strip() for name in header.split(mark)]
    while len(names) > 1 and not names[-1]:
        names.pop()
    clock = _check_header(names, unit)
    # With pandas in it, which nobody should wait for who reads no log.
    from plentar.files import log_table as table  # noqa: PLC0415

    frame = table.parsed(body, names, mark)
    frame = frame[frame.notna().any(axis=1)]  # blank lines, at the end mostly
    lines = frame.index.to_numpy() + 2
    if len(frame) < LEAST_SAMPLES:
        raise BadInput(
            "line 2",
            phrase("files.log-csv.samples-log-has-least", len=len(frame), least_samples=LEAST_SAMPLES),
        )
    if names[0] == "seconds":
        t_s = table.numbers(frame[clock], clock, lines)
    else:
        t_s = table.times(frame[clock], lines, started)
    _check_times(t_s, lines)
    columns = {name: _amps(table.numbers(frame[name], name, lines), name, lines) for name in names[1:]}
    return Log(_spread(t_s), columns)


def _check_header(names: Sequence[str], unit: Unit) -> str:
    if _NUMBER.fullmatch(names[0]):
        raise BadInput("line 1", phrase("files.log-csv.header-required-seconds-or"))
    if names[0] not in ("seconds", "time"):
        raise BadInput("line 1", phrase("files.log-csv.first-column-seconds-or", names=names[0][:40]))
    if not 2 <= len(names) <= MOST_COLUMNS + 1:
        raise BadInput(
            "line 1", phrase("files.log-csv.one-points-after", most_columns=MOST_COLUMNS, names=names[0])
        )
    if len(set(names)) < len(names):
        raise BadInput("line 1", phrase("files.log-csv.column-named-twice"))
    try:
        check_columns(unit, names[1:])
    except BadInput as bad:
        raise BadInput("line 1", bad.reason) from None
    return names[0]


def _check_times(t_s: Real, lines: Real) -> None:
    unknown = np.flatnonzero(np.isnan(t_s))
    if len(unknown):
        raise BadInput(
            phrase("files.log-csv.line", lines=lines[unknown[0]]), phrase("files.log-csv.sample-without-time")
        )
    back = np.flatnonzero(np.diff(t_s) < 0)
    if len(back):
        n = int(back[0]) + 1
        raise BadInput(
            phrase("files.log-csv.line", lines=lines[n]),
            phrase("files.log-csv.time-runs-back-from", t_s=f"{t_s[n - 1]:g}", t_s_2=f"{t_s[n]:g}"),
        )
    if np.abs(t_s).max() > 1e8:
        n = int(np.abs(t_s).argmax())
        raise BadInput(
            phrase("files.log-csv.line", lines=lines[n]), phrase("files.log-csv.years-away-from-start")
        )
    if t_s[-1] <= t_s[0]:
        raise BadInput(
            phrase("files.log-csv.line", lines=lines[-1]), phrase("files.log-csv.all-samples-bear-one")
        )


def _amps(values: Real, name: str, lines: Real) -> Real:
    with np.errstate(invalid="ignore"):
        bad = np.flatnonzero((values < OFFSET_AMPS) | (values > MOST_AMPS))
    if len(bad):
        n = int(bad[0])
        raise BadInput(
            phrase("files.log-csv.line", lines=lines[n]),
            phrase("files.log-csv.under-no-clamps-reading", values=f"{values[n]:g}", name=name),
        )
    if np.isnan(values).all():
        raise BadInput("line 2", phrase("files.log-csv.no-number-all-under", name=name))
    return np.maximum(values, 0.0, where=~np.isnan(values), out=values.copy())


def _spread(t_s: Real) -> Real:
    """Rows that bear one time (stamps in whole seconds) lie evenly until the next."""
    firsts = np.flatnonzero(np.concatenate([[True], np.diff(t_s) > 0]))
    if len(firsts) == len(t_s):
        return t_s
    usual_s = float(np.median(np.diff(t_s[firsts]))) if len(firsts) > 1 else 1.0
    counts = np.diff(np.append(firsts, len(t_s)))
    within = np.arange(len(t_s)) - np.repeat(firsts, counts)
    spans = np.append(np.minimum(np.diff(t_s[firsts]), usual_s), usual_s)
    return np.asarray(t_s + within * np.repeat(spans / counts, counts))


def write_log_csv(names: Sequence[str], rows: Iterable[tuple[float, Sequence[float]]]) -> str:
    """A log as CSV: seconds, then amps at each point."""
    lines = [",".join(["seconds", *names])]
    lines += [
        ",".join([f"{t_s:.3f}".rstrip("0").rstrip("."), *(f"{value:.2f}" for value in amps)])
        for t_s, amps in rows
    ]
    return "\n".join(lines) + "\n"
