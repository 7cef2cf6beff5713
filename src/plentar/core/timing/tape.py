"""The tape of a visit: its runs, a lane for every call, switch and the blower, and what to
wait for."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from plentar.core.quantity import Quantity
from plentar.core.said import Said, clock, plain, rounded, say
from plentar.core.tables import thresholds as th
from plentar.core.tables.devices import AT_ONCE_S
from plentar.core.timing.moves import BLOWER, OFF, ON, Move, Moves, Timing
from plentar.core.unit.parts import CALLS
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Reading, Visit

MOST_STAGES = 10


@dataclass(frozen=True, slots=True)
class Lane:
    """One row of the tape. ``title`` says what kind of thing it is."""

    part: str
    title: Said


@dataclass(frozen=True)
class Run:
    """One test: from the first call after nothing was asked for until the next such call.

    ``calls`` holds, by terminal, when it asked (end None: still). ``warm_after_s`` is how long
    nothing had been asked for before, where that was short enough to leave devices warm;
    ``replaced`` what was put in since the run before.
    """

    number: int
    began_s: float
    ended_s: float | None
    calls: dict[str, tuple[tuple[float, float | None], ...]]
    moves: tuple[Move, ...]
    warm_after_s: float | None
    replaced: tuple[str, ...]

    def of_part(self, part: str) -> tuple[Move, ...]:
        """One part's moves, in order."""
        return tuple(move for move in self.moves if move.part == part)


@dataclass(frozen=True)
class Tape:
    """All runs of a visit so far, over the same lanes."""

    lanes: tuple[Lane, ...]
    runs: tuple[Run, ...]

    @property
    def last(self) -> Run | None:
        return self.runs[-1] if self.runs else None


def tape_of(unit: Unit, visit: Visit) -> Tape:
    """The tape; without runs where nothing was ever called for."""
    moves = Moves(unit, visit)
    lanes = [Lane(call, say("timing.tape.call-2")) for call in unit.device_calls]
    stages = _stages(unit)
    words = {"blower": say("timing.tape.blower-switch"), "auxiliary": say("timing.tape.auxiliary-switch")}
    for switch in moves.watched:
        number = stages.get(switch.id)
        title = (
            words.get(switch.role, say("timing.tape.switch"))
            if number is None
            else say("timing.tape.stage", n=number + 1)
        )
        lanes.append(Lane(switch.id, title))
    if unit.blower is not None:
        lanes.append(Lane(BLOWER, say("timing.tape.motor")))
    return Tape(tuple(lanes), tuple(_runs(moves, visit)))


def _stages(unit: Unit) -> dict[str, int]:
    """Which stage each element switch closes; two poles of one rung are one stage."""
    first = {
        switch.id: number
        for number, element in reversed(list(enumerate(unit.elements)))
        for switch in unit.rung_switches(element)
    }
    ranks = {number: rank for rank, number in enumerate(sorted(set(first.values())))}
    return {switch: min(ranks[number], MOST_STAGES - 1) for switch, number in first.items()}


def _runs(moves: Moves, visit: Visit) -> Iterator[Run]:
    spells = sorted(
        (spell.start_s.low, math.inf if spell.end_s is None else spell.end_s.low)
        for some in moves.calls.values()
        for spell in some
    )
    stretches: list[tuple[float, float]] = []
    for began_s, ended_s in spells:
        if stretches and began_s <= stretches[-1][1]:
            stretches[-1] = (stretches[-1][0], max(stretches[-1][1], ended_s))
        else:
            stretches.append((began_s, ended_s))
    every = [m for switch in moves.watched for m in moves.of_switch(switch)] + moves.of_blower
    every = [_as_shown(moves.unit, visit, move) for move in every]
    previous_s = -math.inf
    for at, (began_s, ended_s) in enumerate(stretches):
        last = at + 1 == len(stretches)
        until_s = math.inf if last else stretches[at + 1][0]
        idle_s = began_s - previous_s
        yield Run(
            at + 1,
            began_s,
            None if math.isinf(ended_s) else ended_s,
            {
                call: tuple(
                    (s.start_s.low, s.end_s.low if s.end_s else None)
                    for s in some
                    if began_s <= s.start_s.low < until_s
                )
                for call, some in moves.calls.items()
            },
            tuple(
                sorted(
                    (m for m in every if began_s <= m.clock_s.low < until_s),
                    key=lambda m: (m.due_s.low, m.due_s.high),
                )
            ),
            idle_s if idle_s < th.WARM_S else None,
            tuple(
                dict.fromkeys(e.mended for e in visit.events if e.mended and previous_s < e.t_s <= began_s)
            ),
        )
        previous_s = ended_s


def _as_shown(unit: Unit, visit: Visit, move: Move) -> Move:
    """A move that nobody saw, with the first clamp after it that shows that it has been."""
    if move.seen_s is not None:
        return move
    floors = drawn_at(unit, move.part)
    for event in visit.of_kind(Reading):
        floor = floors.get(event.at) if event.quantity is Quantity.AMPS else None
        if floor is None or not move.clock_s.low <= event.t_s:
            continue
        draws = event.value >= floor
        if move.action == ON and draws and event.t_s >= move.due_s.low:
            return replace(move, shown_s=event.t_s)
        if move.action == OFF and not draws:
            return replace(move, shown_s=event.t_s)
    return move


def drawn_at(unit: Unit, part: str) -> dict[str, float]:
    """Where a clamp shows that a part is closed or runs, and from how many amps on."""
    if part == BLOWER:
        return {BLOWER: unit.blower.still_below_amps} if unit.blower else {}
    return {
        at: element.rating.dead_below_amps(element.rated_volts)
        for element in unit.elements_through(part)
        for at in (element.id, part)
    }


def waits(tape: Tape, now_s: float) -> Iterator[tuple[Move | None, Said]]:
    """What to wait for in the last run, the soonest first, with the move that it is about."""
    run = tape.last
    if run is None:
        return
    titles = {lane.part: say("timing.tape.lane", title=lane.title, mark=lane.part) for lane in tape.lanes}
    titles[BLOWER] = say("part.blower")
    pending = [move for move in run.moves if move.word(now_s) in (Timing.WAITING, Timing.DUE)]
    for move in sorted(pending, key=lambda move: move.due_s.high):
        yield (
            move,
            say(
                "timing.tape.due",
                titles=titles[move.part],
                action=say(f"action.{move.action}"),
                when=_when(move),
            ),
        )
    if run.ended_s is None and any(move.action == ON for move in run.moves):
        energised_s = now_s - run.began_s
        if (left_s := th.OFF_TEST_S - energised_s) > 0:
            full = clock(th.OFF_TEST_S)
            yield None, say("timing.tape.off-test-counts-from", full=full, left_s=clock(left_s))


def _when(move: Move) -> Said:
    cause = say("timing.tape.call") if move.cause in CALLS else move.cause
    if move.action == OFF:
        cause = (
            say("timing.tape.ended", cause=cause)
            if move.cause in CALLS
            else say("timing.tape.call-behind-ended", cause=cause)
        )
    after_s = move.clock_s.low
    due = say(
        "timing.tape.between", low=clock(move.due_s.low - after_s), high=clock(move.due_s.high - after_s)
    )
    return say("timing.tape.after", due=due, cause=cause)


def said(move: Move, now_s: float) -> Said:
    word = move.word(now_s)
    if move.longest_s == 0 and move.took_s is not None:
        return say("timing.tape.after-due", took_s=clock(move.took_s), cause=move.cause)
    window = say(
        "timing.tape.window",
        low=clock(move.due_s.low - move.clock_s.low),
        high=clock(move.due_s.high - move.clock_s.low),
    )
    if move.typical and move.window_s.high > AT_ONCE_S.high:
        window += say("timing.tape.typical-not-printed")
    if move.shown_s is not None and move.took_s is None:
        return say(
            "timing.tape.due-clamp-shows", window=window, shown_s=clock(move.shown_s - move.clock_s.low)
        )
    if move.took_s is None:
        unseen = {
            Timing.WAITING: say("timing.tape.due-2", window=window),
            Timing.DUE: say("timing.tape.due-now", window=window),
            Timing.NOT_SEEN: say("timing.tape.window-over-nobody-saw", window=window),
        }
        return unseen[word]
    text = say("timing.tape.took-due", took_s=clock(move.took_s), window=window)
    if move.stretch > 1.005 and move.coil_volts is not None:
        text += say(
            "timing.tape.rated-volts-v-coil",
            high=clock(move.window_s.high),
            coil_volts=plain(move.coil_volts),
            stretch=rounded(move.stretch, 2),
        )
    if move.provisional and move.energised_s is not None:
        text += say("timing.tape.energised-only-so-tells", energised_s=clock(move.energised_s))
    return text
