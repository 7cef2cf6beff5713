"""A unit's times over its visits, for the unit's page and the tape."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from plentar.core.history.series import History
from plentar.core.timing.moves import moves_of
from plentar.core.timing.years import Series, over_the_years
from plentar.drawing.tape import over_each_other, scale_from_zero
from plentar.store.models import now
from plentar.store.record import VisitRecord
from plentar.web.showing import local
from plentar.web.tape.view import TONES, WORDS
from plentar.web.units.history import in_words
from plentar.words import phrase
from plentar.words.dates import month
from plentar.words.numbers import clock
from plentar.words.visits import action_in_words


@dataclass(frozen=True, slots=True)
class YearsRow:
    """One part one way: its times, each with its visit and verdict, over each other."""

    part: str
    action: str
    due: str
    times: tuple[tuple[str, str, str, str], ...]
    trend: str
    drifts: bool
    track: Markup


def years_of(records: Sequence[VisitRecord], moving: Sequence[History]) -> list[YearsRow]:
    """The rows, those that drift first, by what the unit's history says. Visits come oldest first."""
    trends = {(h.part, h.kind): h for h in moving}
    visits = [(month(record.row.started_at), moves_of(record.unit, record.core())) for record in records]
    rows = [_row(one, trends.get((one.part, one.action))) for one in over_the_years(visits)]
    return sorted(rows, key=lambda row: not row.drifts)


def _row(series: Series, history: History | None) -> YearsRow:
    last = series.times[-1].move
    moves = [(f"’{timed.when[-2:]}", timed.move) for timed in series.times]
    said = phrase(
        "tape.years.over-visits", part=series.part, action=action_in_words(series.action), len=len(moves)
    )
    return YearsRow(
        series.part,
        action_in_words(series.action),
        f"{clock(last.due_s.low - last.clock_s.low)}–{clock(last.longest_s)}",
        tuple(
            (timed.when, clock(timed.took_s), str(WORDS[timed.word]), TONES.get(timed.word, "plain"))
            for timed in series.times
        ),
        in_words(history, local(now()).date()) if history else "",
        history is not None and history.drifts,
        Markup(over_each_other(scale_from_zero(m for _, m in moves), moves, said)),
    )
