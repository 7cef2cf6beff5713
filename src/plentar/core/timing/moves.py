"""Events → every move that is due of a switch or the blower, and when it was seen.

A coil's *spell* is a stretch in which its call feeds it. Every spell owes each of its switches
two moves, one on and one off, each inside its printed window. Where a switch was seen to act,
what follows from it (the next sequencer, the blower that it feeds) counts from that moment;
where it was not, from anywhere in its window.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from itertools import zip_longest

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.quantity import Band, Quantity
from plentar.core.said import Said, clock, say
from plentar.core.tables import thresholds as th
from plentar.core.timing.spells import Spell, call_spells, merged
from plentar.core.unit.parts import HEAT_CALLS, Control, Switch
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event, Observed, Reading, Visit

ON, OFF = "on", "off"
BLOWER = "blower"


class Timing(StrEnum):
    """What a move's time says. The first four are of moves that nobody has seen act."""

    WAITING = "waiting"
    DUE = "due"
    NOT_SEEN = "not-seen"
    SHOWN = "shown"
    EARLY = "early"
    IN_WINDOW = "in-window"
    LATE = "late"


@dataclass(frozen=True, slots=True)
class Move:
    """One action that is due of one part.

    All times in seconds of the visit: the clock began within ``clock_s``, the move is due within
    ``due_s``, it was seen at ``seen_s`` (None: nobody saw it) by the event ``key``.
    ``window_s`` is as printed; ``stretch`` how much longer its end is for low coil volts, which
    were ``coil_volts`` where somebody read them. ``energised_s`` is, of a sequencer's move off,
    how long its heater was fed before.
    """

    part: str
    action: str
    cause: str
    clock_s: Band
    window_s: Band
    due_s: Band
    stretch: float = 1.0
    coil_volts: float | None = None
    energised_s: float | None = None
    #: Nobody read the window off the part.
    typical: bool = False
    seen_s: float | None = None
    key: str = ""
    #: When a clamp showed that it had been by then, where nobody saw it act.
    shown_s: float | None = None

    @property
    def took_s(self) -> float | None:
        """From the earliest that its clock may have begun until it was seen."""
        return None if self.seen_s is None else self.seen_s - self.clock_s.low

    @property
    def longest_s(self) -> float:
        """The end of its window, counted in the same way."""
        return self.due_s.high - self.clock_s.low

    @property
    def provisional(self) -> bool:
        """An off time after less than five minutes energised tells little."""
        return self.energised_s is not None and self.energised_s < th.OFF_TEST_S

    def tried_too_early(self) -> Said | None:
        """What to say of an off time that was taken too early; None where it counts."""
        if self.seen_s is None or not self.provisional or self.energised_s is None:
            return None
        return say(
            "timing.moves.let-go-after-energised",
            part=self.part,
            energised_s=clock(self.energised_s),
            off_test_s=clock(th.OFF_TEST_S),
        )

    def word(self, now_s: float) -> Timing:
        """The verdict at a time; none before the window is over."""
        error_s = th.WATCH_ERROR_S
        if self.seen_s is not None:
            if self.seen_s > self.due_s.high + error_s:
                return Timing.LATE
            return Timing.EARLY if self.seen_s < self.due_s.low - error_s else Timing.IN_WINDOW
        if self.shown_s is not None:
            return Timing.SHOWN
        if now_s < self.due_s.low:
            return Timing.WAITING
        return Timing.DUE if now_s <= self.due_s.high else Timing.NOT_SEEN


def moves_of(unit: Unit, visit: Visit) -> tuple[Move, ...]:
    """Every move that the visit's calls have made due, in order of when they are due."""
    # Most readings tell nothing of time: what was worked out before them still stands.
    telling = tuple(
        event
        for event in visit.events
        if not isinstance(event, Reading) or event.at.endswith((".coil", ".rectifier"))
    )
    return _KEPT.get_or_make((unit, telling), lambda: _moves(unit, telling))


_KEPT: Cache[tuple[Unit, tuple[Event, ...]], tuple[Move, ...]] = Cache(
    "moves", 8 * MEGABYTE, lambda moves: 1000 * (1 + len(moves))
)


def _moves(unit: Unit, events: tuple[Event, ...]) -> tuple[Move, ...]:
    clockwork = Moves(unit, Visit(events=events))
    found = [move for switch in clockwork.watched for move in clockwork.of_switch(switch)]
    found += clockwork.of_blower
    return tuple(sorted(found, key=lambda move: (move.due_s.low, move.due_s.high)))


class Moves:
    """One visit's spells and moves, each worked out once."""

    def __init__(self, unit: Unit, visit: Visit) -> None:
        self.unit, self.visit = unit, visit
        self._of_switch: dict[str, list[Move]] = {}

    @cached_property
    def watched(self) -> tuple[Switch, ...]:
        """The switches that carry something, in the unit's order."""
        idle = self.unit.idle_switches
        return tuple(s for s in self.unit.switch_by_id.values() if s.id not in idle)

    @cached_property
    def calls(self) -> dict[str, list[Spell]]:
        """When each thermostat terminal was asking."""
        return call_spells(self.unit, self.visit)

    @cached_property
    def _seen(self) -> list[tuple[float, Observed]]:
        """What was seen to act, at the time that it really was."""
        seen = [
            (event.t_s + event.lead_s, event)
            for event in self.visit.of_kind(Observed)
            if event.action in (ON, OFF)
        ]
        return sorted(seen, key=lambda pair: pair[0])

    def coil_spells(self, control: Control) -> list[Spell]:
        """When a device's coil is fed. Behind an auxiliary switch it is from the moment that
        this closes until the call ends: the 24 V comes from the first coil's own terminal."""
        if control.through is None:
            return self.calls.get(control.call or "", [])
        before = self.unit.control_of_switch[control.through]
        closings = [m for m in self.of_switch(self.unit.switch_by_id[control.through]) if m.action == ON]
        return [
            Spell(_acted_s(move), _end_of(self.coil_spells(before), move), control.through)
            for move in closings
        ]

    def of_switch(self, switch: Switch) -> list[Move]:
        if switch.id not in self._of_switch:
            control = self.unit.control_of_switch[switch.id]
            spells = self.coil_spells(control)
            found: list[Move] = []
            # A press belongs to the run of its call: where the watch's error reaches into the
            # run before, what was pressed there is not taken for this one's.
            before_s = -math.inf
            for spell, after in zip_longest(spells, spells[1:]):
                found += self._in_spell(switch, control, spell, after, before_s)
                before_s = spell.end_s.high + th.WATCH_ERROR_S if spell.end_s else math.inf
            self._of_switch[switch.id] = found
        return self._of_switch[switch.id]

    def _in_spell(
        self, switch: Switch, control: Control, spell: Spell, after: Spell | None, before_s: float
    ) -> Iterator[Move]:
        volts = self._coil_volts(control, spell)
        stretch = stretch_of(control, volts)
        high_s = spell.start_s.high + stretch * switch.on_s.high
        due_s = Band(spell.start_s.low + switch.on_s.low, high_s)
        until_s = spell.end_s.low if spell.end_s else float("inf")
        seen = self._first(switch.id, ON, max(spell.start_s.low, before_s), until_s)
        if seen is None and due_s.low > until_s:
            return  # the call was over before it could act
        yield Move(
            switch.id,
            ON,
            spell.cause,
            spell.start_s,
            switch.on_s,
            due_s,
            stretch,
            volts,
            None,
            "on_s" in switch.typical,
            *seen or (None, ""),
        )
        if spell.end_s is None:
            return
        ended_s = spell.end_s
        due_s = Band(ended_s.low + switch.off_s.low, ended_s.high + switch.off_s.high)
        again_s = after.start_s.low if after else float("inf")
        seen = self._first(switch.id, OFF, ended_s.low, again_s)
        if seen is None and again_s < due_s.high:
            return  # called again before it had to let go
        energised_s = ended_s.low - spell.start_s.high if control.kind.thermal else None
        yield Move(
            switch.id,
            OFF,
            spell.cause,
            ended_s,
            switch.off_s,
            due_s,
            1.0,
            None,
            energised_s,
            "off_s" in switch.typical,
            *seen or (None, ""),
        )

    def _first(self, part: str, action: str, from_s: float, to_s: float) -> tuple[float, str] | None:
        """When a part was first seen to act in a stretch of time, and by which event."""
        error_s = th.WATCH_ERROR_S
        for t_s, event in self._seen:
            if event.part == part and event.action == action and from_s - error_s <= t_s < to_s:
                return t_s, event.key
        return None

    def _coil_volts(self, control: Control, spell: Spell) -> float | None:
        """AC volts read at the coil while this spell lasted; the newest."""
        name = f"{control.id}.{'rectifier' if control.kind.dc_coil else 'coil'}"
        end_s = spell.end_s.low if spell.end_s else float("inf")
        found = None
        for event in self.visit.of_kind(Reading):
            here = event.at == name and event.quantity is Quantity.VOLTS
            if here and spell.start_s.low <= event.t_s < end_s and event.value > 0:
                found = event.value
        return found

    # -- the blower -----------------------------------------------------------------------

    @cached_property
    def of_blower(self) -> list[Move]:
        """The blower's moves: its relay brings it on, and whatever ties it to the heat."""
        blower = self.unit.blower
        if blower is None:
            return []
        feeds = [*self._by_relay(), *self._by_heat()]
        return list(self._blower_moves(sorted(feeds, key=lambda feed: feed.on.due_s.low)))

    def _by_relay(self) -> Iterator[_Feed]:
        blower = self.unit.blower
        relay = self.unit.relay
        if blower is None or relay is None:
            return
        driven = list(self.calls.get(relay.call, []))
        if blower.interlock.kind == "g-with-w":
            driven += [s for call in sorted(HEAT_CALLS) for s in self.calls.get(call, [])]
        for spell in merged(driven):
            due_s = Band(spell.start_s.low + relay.on_s.low, spell.start_s.high + relay.on_s.high)
            on = Move(
                BLOWER, ON, spell.cause, spell.start_s, relay.on_s, due_s, typical="on_s" in relay.typical
            )
            off = None
            if spell.end_s is not None:
                end_s = spell.end_s
                due_s = Band(end_s.low + relay.off_s.low, end_s.high + relay.off_s.high)
                off = Move(
                    BLOWER, OFF, spell.cause, end_s, relay.off_s, due_s, typical="off_s" in relay.typical
                )
            yield _Feed(on, off)

    def _by_heat(self) -> Iterator[_Feed]:
        """Through the tap of a normally-closed contact, or a blower switch in the sequencer."""
        blower = self.unit.blower
        tie = blower.interlock if blower else None
        switch_id = (tie.tap or tie.switch) if tie else None
        if switch_id is None:
            return
        on: Move | None = None
        for move in self.of_switch(self.unit.switch_by_id[switch_id]):
            if move.action == ON:
                if on is not None:
                    yield _Feed(_with(on), None)
                on = move
            elif on is not None:
                yield _Feed(_with(on), _with(move))
                on = None
        if on is not None:
            yield _Feed(_with(on), None)

    def _blower_moves(self, feeds: Sequence[_Feed]) -> Iterator[Move]:
        """Feeds that overlap are one run of the blower."""
        at = 0
        while at < len(feeds):
            on, off = feeds[at].on, feeds[at].off
            ways = [on]
            at += 1
            while at < len(feeds) and (off is None or feeds[at].on.due_s.low < off.due_s.high):
                later = feeds[at].off
                off = None if off is None or later is None else max(off, later, key=_due_high)
                ways.append(feeds[at].on)
                at += 1
            until_s = off.due_s.low if off else float("inf")
            yield self._blower_seen(self._started_by(ways, until_s), on.clock_s.low, until_s)
            if off is not None:
                again_s = feeds[at].on.due_s.low if at < len(feeds) else float("inf")
                yield self._blower_seen(off, off.clock_s.low, again_s)

    def _started_by(self, ways: Sequence[Move], until_s: float) -> Move:
        """Of several ways to be fed in one run, the newest in whose window it was seen to start; else the
        first."""
        seen = self._first(BLOWER, ON, ways[0].clock_s.low, until_s)
        if seen is None:
            return ways[0]
        error_s = th.WATCH_ERROR_S
        fits = [w for w in ways if w.clock_s.low - error_s <= seen[0] <= w.due_s.high + error_s]
        return fits[-1] if fits else ways[0]

    def _blower_seen(self, move: Move, from_s: float, to_s: float) -> Move:
        seen_s, key = self._first(BLOWER, move.action, from_s, to_s) or (None, "")
        return Move(
            BLOWER,
            move.action,
            move.cause,
            move.clock_s,
            move.window_s,
            move.due_s,
            typical=move.typical,
            seen_s=seen_s,
            key=key,
        )


@dataclass(frozen=True, slots=True)
class _Feed:
    """One way that the blower is fed, from a move on to a move off (None while it lasts)."""

    on: Move
    off: Move | None


def _with(move: Move) -> Move:
    """The blower acts with the switch that feeds it."""
    if move.seen_s is None:
        return Move(
            BLOWER, move.action, move.cause, move.clock_s, move.window_s, move.due_s, typical=move.typical
        )
    at_once = Band(move.seen_s, move.seen_s)
    return Move(BLOWER, move.action, move.part, at_once, Band(0.0, 0.0), at_once)


def _due_high(move: Move) -> float:
    return move.due_s.high


def _acted_s(move: Move) -> Band:
    """When a move was, as far as it is known."""
    return move.due_s if move.seen_s is None else Band(move.seen_s, move.seen_s)


def _end_of(spells: Iterable[Spell], move: Move) -> Band | None:
    """The end of the spell that a switch closed in."""
    return next((s.end_s for s in spells if s.start_s == move.clock_s), None)


def stretch_of(control: Control, volts: float | None) -> float:
    """A sequencer's heater warms with the square of its volts; above rated nothing is shortened."""
    if volts is None or not control.kind.thermal:
        return 1.0
    return max(1.0, (control.coil.volts / volts) ** 2)
