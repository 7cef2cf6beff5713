"""Steps of a column → the stretches in which each of its loads drew: by size, then by order."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

from plentar.core.timing.levels import LOAD_SHARE, Levels, Step
from plentar.core.timing.moves import OFF, ON
from plentar.core.timing.order import Order

#: What one load more in a step must gain in fit, as a share of the smallest: fewer are likelier.
EACH_MORE = 0.15
#: What acting outside its window costs a load, and by how much a step must fit better to
#: overrule the order, as shares of the smallest.
UNTIMELY, FITS_BETTER = 0.3, 0.005


@dataclass(frozen=True, slots=True)
class Load:
    """Something that a column's current feeds, with the amps that it should draw."""

    id: str
    amps: float


@dataclass(frozen=True, slots=True)
class Interval:
    """From on to off; None where the log does not show it. ``alone_off``: others drew on, or
    there are no others, when it went off."""

    on: Step | None
    off: Step | None
    amps: float
    alone_off: bool = True


def intervals_of(
    levels: Levels, loads: Sequence[Load], order: Order, blower_amps: float = 0.0
) -> dict[str, list[Interval]]:
    """Each load's intervals in order.

    A load is known by what it drew before, where it did, else by what it should draw, and by its
    window. Loads alike are told apart by who is due first; with the call steady, who went off
    comes back, and who was off before goes off again. ``blower_amps`` come and go with the first
    and the last load, where the column feeds the blower too.
    """
    found: dict[str, list[Interval]] = {load.id: [] for load in loads}
    drawing: dict[str, tuple[Step | None, float]] = {}
    dropped: list[str] = []
    known = {load.id: load.amps for load in loads}
    least = min(known.values(), default=1.0)
    if levels.first_amps > LOAD_SHARE * least:
        ordered = sorted(loads, key=lambda load: order.on_key(load.id))
        costs = {load.id: (load.amps, 0.0) for load in ordered}
        for name, amps in _explain(levels.first_amps, costs, least):
            drawing[name] = (None, amps)
            known[name] = amps
    total_amps = sum(known.values())
    for step, peak_amps in zip(levels.steps, _peaks(levels, LOAD_SHARE * least), strict=True):
        least_of_two = min(step.before_amps, step.after_amps)
        size = abs(step.size_amps) - (blower_amps if least_of_two < blower_amps / 2 else 0.0)
        if step.size_amps > 0:
            # Whoever dropped with the call steady has been closed all along: it comes back first.
            waiting = [load.id for load in loads if load.id not in drawing]
            waiting.sort(key=lambda name: (_turn(name, dropped), order.on_key(name)))
            # Where all are on in the end, a stack came on in its order, however late.
            all_on = peak_amps > total_amps - least / 2
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
            costs = _costs(order, step, known, due)
            for name, amps in _explain(size, costs, least):
                drawing[name] = (step, amps)
                known[name] = amps
                if name in dropped:
                    dropped.remove(name)
            continue
        running = [load.id for load in loads if load.id in drawing]
        steady = [bool(order.steady(name, step.t_s, step.t_s + 1.0)) for name in running]
        if any(steady):
            before = {name: found[name][-1].off for name in running if found[name]}
            running.sort(key=lambda name: _last_off(before.get(name)))
        else:
            running.sort(key=order.off_key)
        due = {
            name: any(steady)
            or (
                not any(order.stacked(name, other) for other in running)
                and order.timely(name, OFF, step.t_s)
            )
            for name in running
        }
        costs = _costs(order, step, known, due)
        gone = list(_explain(size, costs, least))
        alone = len(gone) < len(running) or len(loads) == 1
        for name, _ in gone:
            on, amps = drawing.pop(name)
            found[name].append(Interval(on, step, amps, alone))
            dropped.append(name)
    for name, (on, amps) in drawing.items():
        found[name].append(Interval(on, None, amps))
    return found


def _costs(
    order: Order, step: Step, known: dict[str, float], due: dict[str, bool]
) -> dict[str, tuple[float, float]]:
    """Amps of each load, and what it costs to say that the step is its: nothing where it is due,
    or where its own column shows it."""
    found = {}
    for name, timely in due.items():
        shown = order.shown(name, step.t_s)
        fits = timely if shown is None else shown
        found[name] = (known[name], 0.0 if fits else UNTIMELY)
    return found


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


def _last_off(off: Step | None) -> float:
    """Who has cycled before goes first: the earliest drop of those that did."""
    return off.t_s if off else float("inf")


def _explain(
    size: float, loads: dict[str, tuple[float, float]], least: float
) -> Iterator[tuple[str, float]]:
    """The loads (amps, and what each costs besides) whose sum fits a step best, the first in
    order where several do, each with its share of the step."""
    best: tuple[str, ...] = ()
    lowest = float("inf")
    for count in range(1, len(loads) + 1):
        for some in combinations(loads, count):
            cost = abs(size - sum(loads[name][0] for name in some))
            cost += least * (EACH_MORE * (count - 1) + sum(loads[name][1] for name in some))
            if cost < lowest - FITS_BETTER * least:
                best, lowest = some, cost
    total = sum(loads[name][0] for name in best)
    for name in best:
        yield name, size * loads[name][0] / total
