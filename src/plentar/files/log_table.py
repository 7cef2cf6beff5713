"""The cells of a log, parsed fast and in whatever dialect. Loading pandas takes half a second and 40 MB, so that
nothing asks for this module before there is a log to read."""

from __future__ import annotations

import io
import re
import warnings
from collections.abc import Sequence
from datetime import datetime

import numpy as np
import pandas as pd

from plentar.core.circuit.network import Real
from plentar.core.errors import BadInput
from plentar.words import phrase

MISSING = ["", "NaN", "nan", "null", "-", "--"]


_ZONE = re.compile(r"(?:Z|[+-]\d\d:?\d\d)$")


def parsed(body: bytes, names: Sequence[str], mark: str) -> pd.DataFrame:
    if not body.isascii():
        try:
            body.decode()
        except UnicodeDecodeError as error:
            line = body[: error.start].count(b"\n") + 2
            raise BadInput(
                phrase("files.log-table.line", line=line), phrase("files.log-table.not-utf-8-text")
            ) from None
    comma = mark != "," and b"," in body[:20_000]
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", pd.errors.ParserWarning)
            return pd.read_csv(
                io.BytesIO(body),
                sep=mark,
                names=list(names),
                header=None,
                index_col=False,
                decimal="," if comma else ".",
                skip_blank_lines=False,
                skipinitialspace=True,
                na_values=MISSING,
                keep_default_na=False,
                low_memory=False,
            )
    except pd.errors.EmptyDataError:
        raise BadInput("line 2", phrase("files.log-table.no-samples-below-header")) from None
    except (pd.errors.ParserError, pd.errors.ParserWarning):
        raise _too_long(body, len(names), mark) from None


def _too_long(body: bytes, count: int, mark: str) -> BadInput:
    """The first row with more cells than the header; pandas names it in its own terms only."""
    for number, line in enumerate(body.split(b"\n"), start=2):
        cells = line.rstrip(b"\r").decode(errors="replace").split(mark)
        if len(cells) > count and any(cell.strip() for cell in cells[count:]):
            return BadInput(
                phrase("files.log-table.line-2", number=number),
                phrase("files.log-table.cells-where-header-has", len=len(cells), count=count),
            )
    return BadInput("line 2", phrase("files.log-table.rows-do-not-fit"))


def numbers(column: pd.Series, name: str, lines: Real) -> Real:
    """The column as numbers, NaN where empty; raises BadInput at the first that is none."""
    if column.dtype.kind in "fiu":
        values: np.ndarray[tuple[int], np.dtype[np.float64]] = column.to_numpy(dtype=float)
    else:
        numbers = pd.to_numeric(column, errors="coerce")
        bad = np.flatnonzero(numbers.isna() & column.notna())
        if len(bad):
            cell = str(column.iloc[bad[0]])[:20]
            raise BadInput(
                phrase("files.log-table.line-3", lines=lines[bad[0]]),
                phrase("files.log-table.under-not-number", cell=cell, name=name),
            )
        values = numbers.to_numpy(dtype=float)
    infinite = np.flatnonzero(np.isinf(values))
    if len(infinite):
        raise BadInput(
            phrase("files.log-table.line-3", lines=lines[infinite[0]]),
            phrase("files.log-table.number-without-end-under", name=name),
        )
    return values


def times(column: pd.Series, lines: Real, started: datetime | None) -> Real:
    texts = column.astype(str)
    for n in (0, len(texts) - 1):
        if not _ZONE.search(texts.iloc[n]):
            raise _bad_time(texts.iloc[n], lines[n])
    zoned = texts.str.endswith("Z") | texts.str.contains(_ZONE)
    if not zoned.all():
        n = int(np.flatnonzero(~zoned)[0])
        raise _bad_time(texts.iloc[n], lines[n])
    times = pd.to_datetime(texts, utc=True, format="ISO8601", errors="coerce")
    bad = np.flatnonzero(times.isna())
    if len(bad):
        raise _bad_time(texts.iloc[bad[0]], lines[bad[0]])
    origin = pd.Timestamp(started) if started is not None else times.iloc[0]
    return np.asarray((times - origin).dt.total_seconds(), dtype=float)


def _bad_time(cell: str, line: int) -> BadInput:
    return BadInput(
        phrase("files.log-table.line", line=line), phrase("files.log-table.no-iso-8601-time", cell=cell[:40])
    )
