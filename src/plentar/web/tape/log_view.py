"""A logged current on the page: the curve, what was found in it, what would enter the visit."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import zip_longest
from typing import TypeVar

import numpy as np
from flask import url_for
from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.logged.columns import Column
from plentar.core.logged.trace import Log, Trace, read_log
from plentar.core.tables import thresholds as th
from plentar.core.timing.moves import Move, moves_of
from plentar.core.timing.tape import said, tape_of
from plentar.core.visit.events import Calls, Event, Observed
from plentar.drawing.plot import Curve, Flag, Stretch, plot
from plentar.store.logs import LogRow, parsed_log
from plentar.store.record import VisitRecord
from plentar.web.tape.view import TONES, WORDS
from plentar.web.visits.view import BenchView
from plentar.words import phrase
from plentar.words.numbers import clock, show, show_span
from plentar.words.visits import action_in_words

#: A look at one stage shows this much on both sides; the least that can be zoomed into.
AROUND_S, LEAST_SPAN_S = 25.0, 2.0
GAP_SPACINGS, LEAST_SAMPLES = 6.0, 10
#: Rows of a list, and marks on a plot: what chatters for hours has thousands.
MOST_LISTED, MOST_DRAWN = 200, 150


@dataclass(frozen=True, slots=True)
class Verdict:
    action: str
    at: str
    word: str
    tone: str
    text: str
    look: str


@dataclass(frozen=True, slots=True)
class Offered:
    """One event that the log would add, and whether the visit has it already."""

    number: int
    text: str
    there: bool


class LogView:
    """One log of a visit, its zero at ``shift_s`` of the visit."""

    def __init__(
        self,
        record: VisitRecord,
        row: LogRow,
        csv: bytes,
        shift_s: float,
        span: tuple[float, float] | None = None,
        others: Sequence[tuple[LogRow, bytes]] = (),
    ) -> None:
        self.record, self.row, self.shift_s = record, row, shift_s
        self._others = others
        self.over_names: list[str] = []
        self.bench = BenchView(record)
        self.base: str = url_for("logs.show", visit_id=record.row.id, log_id=row.id)
        self.log = _at(row, csv, record, shift_s)
        self.whole = (float(self.log.t_s[0]), float(self.log.t_s[-1]))
        low, high = span or self.whole
        low = min(max(low, self.whole[0]), self.whole[1] - LEAST_SPAN_S)
        self.span = (low, max(min(high, self.whole[1]), low + LEAST_SPAN_S))

    @cached_property
    def trace(self) -> Trace:
        return read_log(self.bench.unit, self.bench.visit, self.log)

    @cached_property
    def moves(self) -> tuple[Move, ...]:
        events = sorted([*self.bench.visit.events, *self.trace.events], key=lambda e: e.t_s)
        return moves_of(self.bench.unit, replace(self.bench.visit, events=tuple(events)))

    @property
    def zero_s(self) -> float:
        """Times are written from the run's call on, where there is one."""
        runs = tape_of(self.bench.unit, self.bench.visit).runs
        inside = [run.began_s for run in runs if run.began_s <= self.whole[1]]
        return inside[-1] if inside else 0.0

    @property
    def picture(self) -> Markup:
        windows = [
            Stretch(
                m.due_s.low,
                m.due_s.high,
                phrase("tape.log-view.window", action=action_in_words(m.action)),
                phrase("tape.log-view.due", part=m.part, action=action_in_words(m.action)),
            )
            for m in self.moves
        ]
        cycling = [
            Stretch(c.first_s, c.last_s, "cycling", phrase("tape.log-view.cycles", load=c.load))
            for c in self.trace.cycles
        ]
        flags = [
            Flag(t_s, f"{stage.load} {action_in_words(action)}", str(move.word(t_s)) if move else "plain")
            for stage in self.trace.stages
            for action, t_s, move in (("on", stage.on_s, stage.on), ("off", stage.off_s, stage.off))
            if t_s is not None and self.span[0] <= t_s <= self.span[1]
        ]
        low, high = self.span
        seen = [s for s in (*windows, *cycling) if s.high_s >= low and s.low_s <= high]
        return Markup(plot(self._curves, low, high, _thin(seen), _thin(flags), self.zero_s))

    @property
    def _curves(self) -> list[Curve]:
        spacing = {column.at: column.levels.spacing_s for column in self.trace.columns}
        return [
            Curve(name, self.log.t_s, amps, max(3.0, GAP_SPACINGS * spacing[name]))
            for name, amps in self.log.columns.items()
        ]

    @cached_property
    def over_each_other(self) -> Markup | None:
        """The runs in this log and in those that were confirmed, each from its call on."""
        logs = [("", self.log)]
        logs += [(f" ({row.name})", _at(row, csv, self.record, row.shift_s)) for row, csv in self._others]
        runs = tape_of(self.bench.unit, self.bench.visit).runs
        curves: list[Curve] = []
        for source, log in logs:
            for run, after in zip_longest(runs, runs[1:]):
                end_s = after.began_s if after else float("inf")
                inside = (log.t_s >= run.began_s) & (log.t_s < end_s)
                if inside.sum() < LEAST_SAMPLES:
                    continue
                t_s = log.t_s[inside] - run.began_s
                gap_s = max(3.0, GAP_SPACINGS * float(np.median(np.diff(t_s))))
                curves += [
                    Curve(
                        phrase("tape.log-view.run", number=run.number, name=name, source=source),
                        t_s,
                        amps[inside],
                        gap_s,
                    )
                    for name, amps in log.columns.items()
                ]
        if len(curves) <= len(self.log.columns):
            return None
        longest_s = max(float(curve.t_s[-1]) for curve in curves)
        self.over_names = [curve.name for curve in curves]
        return Markup(plot(curves, 0.0, max(longest_s, LEAST_SPAN_S)))

    @cached_property
    def stages(self) -> list[tuple[str, str, str, list[Verdict]]]:
        """Each stage: its name, its amps, what was due, and its times."""
        return [
            (
                stage.load
                + (phrase("tape.log-view.or", or_else=", ".join(stage.or_else)) if stage.or_else else ""),
                f"{stage.amps:.1f} A",
                show_span(stage.due_amps.low, stage.due_amps.high, "A") if stage.due_amps.high < 1e6 else "—",
                [*self._verdict("on", stage.on_s, stage.on), *self._verdict("off", stage.off_s, stage.off)],
            )
            for stage in self.trace.stages[:MOST_LISTED]
        ]

    @property
    def not_listed(self) -> str:
        more = len(self.trace.stages) - MOST_LISTED
        return phrase("tape.log-view.more-stages-not-listed", more=more) if more > 0 else ""

    def _verdict(self, action: str, t_s: float | None, move: Move | None) -> list[Verdict]:
        if t_s is None:
            return []
        look = self.link(t_s - AROUND_S, t_s + AROUND_S)
        at = clock(t_s - self.zero_s)
        if move is None:
            return [
                Verdict(
                    action_in_words(action),
                    at,
                    "",
                    "plain",
                    phrase("tape.log-view.no-call-known-answers"),
                    look,
                )
            ]
        word = move.word(t_s)
        mark = str(WORDS[word]) + (phrase("tape.view.provisional") if move.provisional else "")
        return [
            Verdict(action_in_words(action), at, mark, TONES.get(word, "plain"), str(said(move, t_s)), look)
        ]

    @cached_property
    def offered(self) -> list[Offered]:
        return [
            Offered(number, _words(event) + (phrase("tape.log-view.there-already") if there else ""), there)
            for number, event in enumerate(self.trace.events[:MOST_LISTED])
            for there in [self._there(event)]
        ]

    @property
    def open(self) -> bool:
        return self.record.row.closed_at is None

    @property
    def cycles(self) -> list[tuple[str, str]]:
        return [
            (
                c.load,
                phrase(
                    "tape.log-view.times-every-lost-airflow",
                    count=c.count,
                    period_s=clock(c.period_s),
                    duty=f"{100 * c.duty:.0f}",
                    lost_kw=show(c.lost_kw, "kW"),
                ),
            )
            for c in self.trace.cycles
        ]

    @property
    def sampling(self) -> list[str]:
        """How often each point was read, how noisy it is, and what is missing."""
        return [_sampling(column) for column in self.trace.columns]

    @property
    def key(self) -> Markup:
        """What each curve is."""
        return curve_key(self.log.columns)

    @property
    def over_key(self) -> Markup:
        """The same for the runs over each other."""
        return curve_key(self.over_names)

    def _there(self, event: Event) -> bool:
        """The visit holds it already, give or take a watch."""
        error_s = th.WATCH_ERROR_S
        if not isinstance(event, Observed):
            return False
        return any(
            (known.part, known.action) == (event.part, event.action)
            and abs(known.t_s + known.lead_s - event.t_s) <= error_s
            for known in self.bench.visit.of_kind(Observed)
        )

    def chosen(self, numbers: Sequence[int]) -> list[Event]:
        return [event for number, event in enumerate(self.trace.events) if number in numbers]

    # -- zoom -----------------------------------------------------------------------------

    def link(self, from_s: float, to_s: float) -> str:
        return f"{self.base}?shift={self.shift_s:g}&from={from_s:.1f}&to={to_s:.1f}"

    @property
    def zooms(self) -> list[tuple[str, str]]:
        low, high = self.span
        middle, half = (low + high) / 2, (high - low) / 2
        return [
            (phrase("tape.log-view.whole"), self.link(*self.whole)),
            (phrase("tape.log-view.closer"), self.link(middle - half / 2, middle + half / 2)),
            (phrase("tape.log-view.wider"), self.link(middle - 2 * half, middle + 2 * half)),
            ("◀ Earlier", self.link(low - half, high - half)),
            ("Later ▶", self.link(low + half, high + half)),
        ]


_T = TypeVar("_T")


def _thin(marks: Sequence[_T]) -> Sequence[_T]:
    """As many marks as an eye can tell from each other, evenly taken."""
    return marks[:: 1 + len(marks) // MOST_DRAWN]


def curve_key(names: Iterable[str]) -> Markup:
    stroke = Markup(
        '<svg viewBox="0 0 24 8" class="key" aria-hidden="true">'
        '<path class="curve c{}" d="M0 4h24"/></svg> {} '
    )
    return Markup().join(stroke.format(number % 4, name) for number, name in enumerate(names))


def _sampling(column: Column) -> str:
    levels = column.levels
    words = phrase(
        "tape.log-view.sample-every-noise",
        at=column.at,
        spacing_s=show(levels.spacing_s, "s"),
        noise_share=f"{100 * levels.noise_share:.1f}",
    )
    if not levels.gaps:
        return phrase("tape.log-view.sentence", words=words)
    gaps = phrase("tape.log-view.gap", n=len(levels.gaps))
    return phrase("tape.log-view.first", words=words, gaps=gaps, gaps_2=clock(levels.gaps[0][0]))


def _words(event: Event) -> str:
    if isinstance(event, Observed):
        return f"{event.part} {action_in_words(event.action)}, {clock(event.t_s)}"
    asked = " + ".join(sorted(event.calls)) if isinstance(event, Calls) else ""
    return phrase("tape.log-view.call", value=asked or phrase("nothing"), t_s=clock(event.t_s))


def _at(row: LogRow, csv: bytes, record: VisitRecord, shift_s: float) -> Log:
    """A log at its place in the visit."""
    raw = parsed_log(record, row, csv)
    return Log(raw.t_s + shift_s, raw.columns)
