"""Steps of a column → the stretches in which each of its loads drew.

The model: a step of s amps (a band, where the blower may be in it) is the set S of loads that came or
went together, the cheapest by

    cost(S) = |s − Σ amps(S)| + a · (0.15 · (|S| − 1) + 0.3 · untimely(S)),

``a`` the least of the loads' amps: fewer are likelier, and so are those whose window is open. Of sets that
cost alike the first in order wins. A column feeds a dozen loads at most, so that every set is looked at; a
dynamic programme over amounts would have to round them, and the order would be lost in it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

from plentar.core.logged.levels import LOAD_SHARE, Levels, LevelStep
from plentar.core.logged.order import Order
from plentar.core.quantity import Band
from plentar.core.timing.moves import OFF, ON

#: What one load more in a step must gain in fit, as a share of the smallest: fewer are likelier.
EACH_MORE = 0.15
#: What acting outside its window costs a load, and by how much a step must fit better to
#: overrule the order, as shares of the smallest.
UNTIMELY, FITS_BETTER = 0.3, 0.005


@dataclass(frozen=True, slots=True)
class LoggedLoad:
    """Something that a column's current feeds, with the amps that it should draw."""

    id: str
    amps: float


@dataclass(frozen=True, slots=True)
class Interval:
    """From on to off; None where the log does not show it. ``alone_off``: others drew on, or
    there are no others, when it went off."""

    on: LevelStep | None
    off: LevelStep | None
    amps: float
    alone_off: bool = True


def intervals_of(
    levels: Levels, loads: Sequence[LoggedLoad], order: Order, blower_amps: float = 0.0
) -> dict[str, list[Interval]]:
    """Each load's intervals in order.

    A load is known by what it drew before, where it did, else by what it should draw, and by its
    window. Loads alike are told apart by who is due first; with the call steady, who went off
    comes back, and who was off before goes off again. ``blower_amps`` may come and go with the
    first and the last load, where the column feeds the blower too.
    """
    matching = _Matching(loads, order, blower_amps)
    matching.begin(levels.first_amps)
    for step, peak_amps in zip(levels.steps, _peaks(levels, matching.nothing_amps), strict=True):
        if step.size_amps > 0:
            matching.come(step, peak_amps)
        else:
            matching.go(step)
    return matching.end()


class _Matching:
    """Who draws while the steps go by."""

    def __init__(self, loads: Sequence[LoggedLoad], order: Order, blower_amps: float) -> None:
        self._order, self._blower_amps = order, blower_amps
        self._names = [load.id for load in loads]
        self._known = {load.id: Band(load.amps, load.amps) for load in loads}
        self._total_amps = sum(load.amps for load in loads)
        self._least = min((load.amps for load in loads), default=1.0)
        self._found: dict[str, list[Interval]] = {name: [] for name in self._names}
        self._drawing: dict[str, LevelStep | None] = {}
        self._dropped: list[str] = []
        self._measured: set[str] = set()

    @property
    def nothing_amps(self) -> float:
        """Below this no load draws."""
        return LOAD_SHARE * self._least

    def begin(self, amps: float) -> None:
        if amps > self.nothing_amps:
            ordered = sorted(self._names, key=self._order.on_key)
            for name in self._explain(self._size(amps, 0.0), dict.fromkeys(ordered, True)):
                self._drawing[name] = None

    def come(self, step: LevelStep, peak_amps: float) -> None:
        """A step up: who came on."""
        order, dropped = self._order, self._dropped
        # Whoever dropped with the call steady has been closed all along: it comes back first.
        waiting = [name for name in self._names if name not in self._drawing]
        waiting.sort(key=lambda name: (_turn(name, dropped), order.on_key(name)))
        # Where all are on in the end, a stack came on in its order, however late.
        all_on = peak_amps > self._total_amps - self._least / 2
        stayed = [name for name in waiting if name not in dropped]
        due = {
            name: name in dropped
            or (
                not any(order.stacked(other, name) for other in stayed)
                if all_on
                else order.timely(name, ON, step.t_s)
            )
            for name in waiting
        }
        for name in self._explain(self._size_of(step), self._shown(step, due)):
            self._drawing[name] = step
            if name in dropped:
                dropped.remove(name)

    def go(self, step: LevelStep) -> None:
        """A step down: who went off."""
        order = self._order
        running = [name for name in self._names if name in self._drawing]
        steady = any(order.steady(name, step.t_s, step.t_s + 1.0) for name in running)
        if steady:
            before = {name: self._found[name][-1].off for name in running if self._found[name]}
            running.sort(key=lambda name: _last_off(before.get(name)))
        else:
            running.sort(key=order.off_key)
        due = {
            name: steady
            or (
                not any(order.stacked(name, other) for other in running) and order.timely(name, OFF, step.t_s)
            )
            for name in running
        }
        gone = list(self._explain(self._size_of(step), self._shown(step, due)))
        alone = len(gone) < len(running) or len(self._names) == 1
        for name in gone:
            on = self._drawing.pop(name)
            self._found[name].append(Interval(on, step, self._known[name].low, alone))
            self._dropped.append(name)

    def end(self) -> dict[str, list[Interval]]:
        """What still draws has no end."""
        for name, on in self._drawing.items():
            self._found[name].append(Interval(on, None, self._known[name].low))
        return self._found

    def _size_of(self, step: LevelStep) -> Band:
        return self._size(abs(step.size_amps), min(step.before_amps, step.after_amps))

    def _size(self, amps: float, least_of_two: float) -> Band:
        """What the loads make of a step: all, or less what the blower may have begun or ended."""
        with_blower = least_of_two < self._blower_amps / 2
        return Band(max(0.0, amps - self._blower_amps) if with_blower else amps, amps)

    def _shown(self, step: LevelStep, due: dict[str, bool]) -> dict[str, bool]:
        """Who is due; a load with a column of its own is, where that shows the step."""
        shown = {name: self._order.shown(name, step.t_s) for name in due}
        return {name: is_due if shown[name] is None else bool(shown[name]) for name, is_due in due.items()}

    def _explain(self, size: Band, due: dict[str, bool]) -> Iterator[str]:
        """The cheapest set; what a step of one load tells of its amps is kept."""
        best: tuple[str, ...] = ()
        lowest = float("inf")
        for count in range(1, len(due) + 1):
            for some in combinations(due, count):
                low = sum(self._known[name].low for name in some)
                high = sum(self._known[name].high for name in some)
                cost = max(0.0, low - size.high, size.low - high)
                late = sum(not due[name] for name in some)
                cost += self._least * (EACH_MORE * (count - 1) + UNTIMELY * late)
                if cost < lowest - FITS_BETTER * self._least:
                    best, lowest = some, cost
        if len(best) == 1:
            self._learn(best[0], size)
        yield from best

    def _learn(self, name: str, size: Band) -> None:
        """What a step of its own tells of a load: with what was measured before, where they agree."""
        known = self._known[name]
        if name in self._measured and known.low <= size.high and size.low <= known.high:
            size = Band(max(known.low, size.low), min(known.high, size.high))
        self._known[name] = size
        self._measured.add(name)


def _peaks(levels: Levels, nothing_amps: float) -> list[float]:
    """For each step, the highest level until nothing draws any more."""
    peaks: list[float] = []
    highest = 0.0
    for step in reversed(levels.steps):
        if step.after_amps < nothing_amps:
            highest = 0.0
        highest = max(highest, step.before_amps, step.after_amps)
        peaks.append(max(highest, step.after_amps))
    return peaks[::-1]


def _turn(load_id: str, dropped: Sequence[str]) -> int:
    return dropped.index(load_id) if load_id in dropped else len(dropped)


def _last_off(off: LevelStep | None) -> float:
    """Who has cycled before goes first: the earliest drop of those that did."""
    return off.t_s if off else float("inf")
