"""A logged current on a unit: which elements its steps are, what cycles, and what acted when.

Steps are matched to elements by size and by the order that the windows give. What is matched
becomes observations, and those are judged as if somebody had watched: by ``moves``.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from statistics import mean, median

from plentar.core.circuit.network import Real
from plentar.core.judgement import Slip, SlipCode
from plentar.core.logged.columns import (
    CALL_KINDS,
    Column,
    blower_amps,
    calls_in,
    check_columns,
    due_amps,
    read_column,
)
from plentar.core.logged.matching import Interval, LoggedLoad, intervals_of
from plentar.core.logged.order import Order
from plentar.core.quantity import Band, Quantity
from plentar.core.said import clock, listed, say
from plentar.core.tables import thresholds as th
from plentar.core.timing.moves import BLOWER, OFF, ON, Move, Moves, Timing
from plentar.core.timing.spells import Spell, call_spells
from plentar.core.unit.naming import said_of
from plentar.core.unit.points import resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event, Observed, Visit
from plentar.core.visit.evidence import Evidence

#: A limit that cycles comes back within these, drop to drop.
SHORTEST_CYCLE_S, LONGEST_CYCLE_S = 20.0, 900.0


@dataclass(frozen=True)
class Log:
    """Amps (samples,) at each named point, at times of the visit (samples,), rising."""

    t_s: Real
    columns: dict[str, Real]


@dataclass(frozen=True, slots=True)
class Stage:
    """One load from on to off; a limit that cycles does not end it.

    None where the log does not show it: it drew when the log began, or still draws at its end.
    ``or_else`` names loads of the same size that it may be as well. ``on`` and ``off`` are the
    moves that its times answer, None where no call is known that they would be due for.
    """

    at: str
    load: str
    on_s: float | None
    off_s: float | None
    on_within_s: float
    off_within_s: float
    amps: float
    due_amps: Band
    or_else: tuple[str, ...] = ()
    on: Move | None = None
    off: Move | None = None


@dataclass(frozen=True, slots=True)
class Cycling:
    """One load that came and went with the call steady: ``count`` drops that came back."""

    at: str
    load: str
    count: int
    period_s: float
    duty: float
    lost_kw: float
    first_s: float
    last_s: float


@dataclass(frozen=True)
class Trace:
    """Everything that a log shows. ``events`` are what it would add to the visit."""

    columns: tuple[Column, ...]
    stages: tuple[Stage, ...]
    cycles: tuple[Cycling, ...]
    slips: tuple[Slip, ...]
    calls: dict[str, list[Spell]]
    events: tuple[Event, ...] = field(default=())


def read_log(unit: Unit, visit: Visit, log: Log) -> Trace:
    """Stages, cycles and slips of a log, judged by the visit's calls.

    Where the visit has no calls and the log holds a call's wire, its steps are the calls.
    Raises BadInput for a column that has no stages.
    """
    check_columns(unit, log.columns)
    evidence = Evidence(unit, visit)
    columns = [read_column(evidence, name, log.t_s, amps) for name, amps in log.columns.items()]
    calls = calls_in(columns) if not any(True for _ in visit.of_kind(Calls)) else ()
    visit = replace(visit, events=_in_order([*visit.events, *calls]))
    spells = call_spells(unit, visit)
    order = Order(Moves(unit, visit), spells)
    for column in columns:
        if resolve(unit, column.at).kind == "element":
            order.has_own(column.at, [step.t_s for step in column.levels.steps])
    stages: list[Stage] = []
    cycles: list[Cycling] = []
    for column in columns:
        if resolve(unit, column.at).kind in CALL_KINDS:
            continue
        found = intervals_of(column.levels, column.loads, order, blower_amps(unit, resolve(unit, column.at)))
        for load in column.loads:
            some, cycling = _stages(evidence, column, load, found[load.id], order)
            stages += some
            cycles += cycling
    stages.sort(key=lambda s: (s.on_s if s.on_s is not None else -1.0, s.load))
    observed = _observations(unit, stages, cycles, order)
    judged = Moves(unit, replace(visit, events=_in_order([*visit.events, *observed])))
    stages = [_judged(unit, judged, stage) for stage in stages]
    slips = tuple(_slips(evidence, log, columns, stages, judged))
    return Trace(tuple(columns), tuple(stages), tuple(cycles), slips, spells, (*calls, *observed))


def _in_order(events: Sequence[Event]) -> tuple[Event, ...]:
    return tuple(sorted(events, key=lambda event: event.t_s))


# -- stages and cycles ----------------------------------------------------------------------


def _stages(
    evidence: Evidence, column: Column, load: LoggedLoad, intervals: Sequence[Interval], order: Order
) -> tuple[list[Stage], list[Cycling]]:
    """Intervals of one load, those that a cycling limit parts put together."""
    runs: list[list[Interval]] = []
    for interval in intervals:
        if runs and _cycles(runs[-1][-1], interval, load, order):
            runs[-1].append(interval)
        else:
            runs.append([interval])
    element = evidence.unit.element_by_id.get(load.id)
    due = due_amps(evidence, element)[1] if element else Band(0.0, float("inf"))
    stages, cycles = [], []
    for run in runs:
        first, last = run[0], run[-1]
        alike = tuple(
            other.id
            for other in column.loads
            if other is not load
            and abs(other.amps - load.amps) < th.HOUSE_BAND * load.amps
            and order.overlap(other.id, load.id)
            and order.shown(load.id, 0.0) is None
        )
        stages.append(
            Stage(
                column.at,
                load.id,
                first.on.t_s if first.on else None,
                last.off.t_s if last.off else None,
                first.on.within_s if first.on else 0.0,
                last.off.within_s if last.off else 0.0,
                mean(interval.amps for interval in run),
                due,
                alike,
            )
        )
        if len(run) > 1:
            cycles.append(_cycling(evidence, column.at, load, run))
    return stages, cycles


def _cycles(one: Interval, two: Interval, load: LoggedLoad, order: Order) -> bool:
    """Two intervals with a drop between them that a limit made, not the call."""
    if one.off is None or two.on is None:
        return False
    gone_s, back_s = one.off.t_s, two.on.t_s
    begun_s = one.on.t_s if one.on else None
    ended_s = two.off.t_s if two.off else None
    periods = [back_s - begun_s] if begun_s is not None else []
    periods += [ended_s - gone_s] if ended_s is not None else []
    period_s = min(periods, default=back_s - gone_s)
    if not SHORTEST_CYCLE_S <= period_s <= LONGEST_CYCLE_S:
        return False
    held = order.held(load.id, gone_s, back_s)
    return one.alone_off if held is None else held


def _cycling(evidence: Evidence, at: str, load: LoggedLoad, run: Sequence[Interval]) -> Cycling:
    drops = [interval.off.t_s for interval in run[:-1] if interval.off]
    returns = [interval.on.t_s for interval in run[1:] if interval.on]
    away = [back - gone for gone, back in zip(drops, returns, strict=True)]
    gaps = [b - a for a, b in itertools.pairwise(drops)]
    gaps = gaps or [b - a for a, b in itertools.pairwise(returns)]
    if not gaps and run[0].on:
        gaps = [returns[0] - run[0].on.t_s]
    period_s = median(gaps) if gaps else float("nan")
    duty = 1.0 - min(1.0, mean(away) / period_s) if gaps else float("nan")
    element = evidence.unit.element_by_id.get(load.id)
    amps = mean(interval.amps for interval in run)
    lost_kw = 0.0
    if element is not None:
        volts = evidence.supply(evidence.unit.circuit_by_id[element.circuit], drops[0]).nominal
        lost_kw = (1.0 - duty) * amps * volts / 1000
    return Cycling(at, load.id, len(away), period_s, duty, lost_kw, drops[0], returns[-1])


# -- judged as observations -----------------------------------------------------------------


def _observations(
    unit: Unit, stages: Iterable[Stage], cycles: Iterable[Cycling], order: Order
) -> tuple[Event, ...]:
    """What somebody at the panel would have seen: each switch's action once."""
    found: dict[tuple[str, str, int], Event] = {}
    for stage in stages:
        for action, t_s in ((ON, stage.on_s), (OFF, stage.off_s)):
            part = order.acting(stage.load, action)
            if t_s is None or part is None or t_s < 0:
                continue
            if action == OFF and order.steady(stage.load, t_s, t_s + 1.0):
                continue  # a limit or a person broke it: the switch was still told to be on
            key = (part, action, round(t_s / th.WATCH_ERROR_S))
            found.setdefault(key, Observed(t_s=round(t_s, 2), action=action, part=part))
    for cycle in cycles:
        if cycle.load in unit.element_by_id and cycle.last_s >= 0:
            event = Observed(t_s=round(cycle.last_s, 2), action="cycling", part=cycle.load)
            found.setdefault((cycle.load, "cycling", round(cycle.last_s)), event)
    return _in_order(list(found.values()))


def _judged(unit: Unit, moves: Moves, stage: Stage) -> Stage:
    """A stage with the moves that its times answer."""
    known = (
        moves.of_blower
        if stage.load == BLOWER
        else [
            move
            for switch in unit.rung_switches(unit.element_by_id[stage.load])
            for move in moves.of_switch(switch)
        ]
    )
    error_s = th.WATCH_ERROR_S

    def answered(action: str, t_s: float | None) -> Move | None:
        if t_s is None:
            return None
        return next(
            (
                m
                for m in known
                if m.action == action and m.seen_s is not None and abs(m.seen_s - t_s) <= error_s
            ),
            None,
        )

    return replace(stage, on=answered(ON, stage.on_s), off=answered(OFF, stage.off_s))


def _slips(
    evidence: Evidence, log: Log, columns: Iterable[Column], stages: Sequence[Stage], moves: Moves
) -> Iterable[Slip]:
    unit = evidence.unit
    end_s = float(log.t_s[-1]) if len(log.t_s) else 0.0
    drawn = {stage.load for stage in stages}
    for column in columns:
        for load in column.loads:
            if load.id not in unit.element_by_id or load.id in drawn:
                continue
            owed = [
                move
                for switch in unit.rung_switches(unit.element_by_id[load.id])
                for move in moves.of_switch(switch)
                if move.action == ON and move.word(end_s) in (Timing.WAITING, Timing.DUE)
            ]
            if owed:
                text = say(
                    "logged.trace.log-ends-before-must",
                    end_s=clock(end_s),
                    part=said_of(unit, owed[0].part),
                    high=clock(owed[0].due_s.high),
                    load=said_of(unit, load.id),
                )
                yield Slip(SlipCode.BEFORE_WINDOW, column.at, text)
    for stage in stages:
        early = stage.off.tried_too_early() if stage.off is not None else None
        if stage.off is not None and early is not None:
            yield Slip(SlipCode.OFF_TEST_TOO_EARLY, stage.off.part, early)
    for circuit in unit.circuits:
        here = {element.id for element in unit.elements_on(circuit.id)} & drawn
        if here and evidence.latest(circuit.id, Quantity.VOLTS) is None:
            text = say(
                "logged.trace.amps-judged-without-volts",
                here=listed(sorted(here), ","),
                circuit=said_of(unit, circuit.id),
            )
            yield Slip(SlipCode.VOLTS_NOT_MEASURED, circuit.id, text)
