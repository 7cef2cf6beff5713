"""Which contact is where at a time: calls and coil volts → contacts that move when they are due.

The unit is run from long before the visit, so that what draws without a call is at rest too.
At every moment the network gives coil volts, element amps and blower volts; those start and stop
clocks; the next clock to run out moves its contact; and so on to the time asked for.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from copy import copy
from dataclasses import replace

from plentar.core.circuit.faults import Effects
from plentar.core.circuit.movers import DueMove, Moment, Mover, movers
from plentar.core.circuit.solved import Felt, Networks
from plentar.core.circuit.wiring import Wiring
from plentar.core.quantity import Band
from plentar.core.tables.model import (
    CHATTER_CHANGES,
    CHATTER_WITHIN_S,
    CYCLE_S,
    CYCLE_SPREAD_S,
    CYCLE_WITHOUT_BLOWER_S,
    FIRST_CLOSING,
    FIRST_CLOSING_S,
    MELTING_S,
    MOST_SLOW_S,
    REST_BEFORE_S,
    STARVED_AIRFLOW,
)
from plentar.core.unit.parts import CALLS, HEAT_CALLS
from plentar.core.visit.events import ON
from plentar.core.visit.state import PanelState

MOST_MOVES = 20_000
#: How often the board may change its mind at once.
MOST_FLIPS = 4
#: Where in its window a contact acts, 0 to 1, coming on or going off.
Draw = Callable[[str, bool], float]


class Clock:
    """``networks``: what is solved, shared with the clocks of other faults."""

    def __init__(
        self, wiring: Wiring, effects: Effects, draw: Draw, networks: Networks | None = None
    ) -> None:
        self.wiring, self.unit, self.effects, self.draw = wiring, wiring.unit, effects, draw
        self.t_s = self.early_s = self.late_s = self.panel_s = -REST_BEFORE_S
        self.from_s: float | None = None
        #: What hangs on nothing while its stage is left off.
        self.unhooked: frozenset[str] = frozenset()
        self.networks = networks if networks is not None else Networks(wiring)
        self.driven = self.networks.driven(effects)
        self.devices = list(movers(self.unit))
        self.closed: set[str] = {limit.id for limit in self.unit.limits}
        self.closed |= {link.id for link in self.unit.links} | {"control-fuse"}
        for device in self.devices:
            self.closed |= {name for name, _, _, when_on in device.contacts if not when_on}
        if effects.armature_held and self.unit.relay:
            self.closed.discard(f"{self.unit.relay.id}.nc")
        self.fuse_blown, self.melts_s = False, math.inf
        self.chatter: set[str] = set()
        self.cycling: set[str] = set()
        #: limit → (time of its next move, closes, how far before and after that may be)
        self.limit_clock: dict[str, tuple[float, bool, float, float]] = {}
        #: Of these, the limits that have opened and closed again since.
        self.cycled: set[str] = set()
        #: What is closed, as one set for all moments alike, and the network's answer.
        self.solved: dict[frozenset[str], tuple[frozenset[str], Felt]] = {}
        self._closed = frozenset(self.closed)
        self._standing: Felt | None = None
        self._limited = [
            (element, [part for part in element.rung if part in limits])
            for limits in ({limit.id for limit in self.unit.limits},)
            for element in self.unit.elements
        ]

    def copy(self) -> Clock:
        """Another that goes on from here; networks solved by either serve both."""
        other = copy(self)
        other.devices = [copy(device) for device in self.devices]  # whose lists are never changed in place
        other.closed, other.chatter = set(self.closed), set(self.chatter)
        other.cycling, other.cycled = set(self.cycling), set(self.cycled)
        other.limit_clock = dict(self.limit_clock)
        return other

    def in_doubt(self) -> Iterator[Moment]:
        """What would have come next, where a window is open: for times that may be late.

        Only the contacts move in these; what follows from that is left out.
        """
        closed = set(self.closed)
        now = self.moment()
        pending = [move for device in self.devices for move in device.pending]
        for move in sorted(pending, key=lambda move: move.due_s):
            if move.early_s <= self.t_s:
                (closed.add if move.closes else closed.discard)(move.contact)
                yield replace(
                    now,
                    closed=frozenset(closed),
                    early_s=move.early_s,
                    late_s=move.late_s,
                    from_s=move.from_s,
                )

    def set_panel(self, panel: PanelState) -> None:
        """People moved a breaker or the thermostat."""
        self.t_s = self.early_s = self.late_s = self.panel_s = max(self.t_s, panel.t_s)
        self.from_s = None
        self._unhook(panel.stages_off)
        for circuit, power in panel.power.items():
            for leg in ("l1", "l2"):
                self._put(f"{circuit}.feed.{leg}", power == ON)
        for call in CALLS:
            asked = call in panel.calls
            if not panel.lifted:
                asked = asked or call in self.effects.always or self.effects.joined.get(call) in panel.calls
                asked = asked and call not in self.effects.no_call
            self._put(f"thermostat.{call}", asked)

    def _unhook(self, stages: frozenset[str]) -> None:
        """A stage that is left off is open at a part that is its rung's alone."""
        own = {self.wiring.own_contact.get(stage) for stage in stages} - {None}
        before, self.unhooked = self.unhooked, frozenset(filter(None, own))
        resting = {limit.id for limit in self.unit.limits} | {link.id for link in self.unit.links}
        for contact in before ^ self.unhooked:
            self._put(contact, contact in before and contact in resting)

    def _put(self, contact: str, closed: bool) -> None:
        closed = closed and contact not in self.unhooked
        if closed != (contact in self.closed):
            (self.closed.add if closed else self.closed.discard)(contact)
            self._standing = None

    def until(self, t_s: float, *, every_cycle: bool = True) -> Iterator[Moment]:
        """Let clocks run out until ``t_s``; a moment after each settling.

        Without ``every_cycle`` it ends with each limit's first where nothing else is under way:
        what comes then are the same moments again, in an order that drifts.
        """
        for _ in range(MOST_MOVES):
            self._settle()
            yield self.moment()
            due = self._next()
            if due > t_s:
                break
            if not every_cycle and self._only_cycles():
                self._skip_cycles(t_s)
                break
            self.t_s = due
            self._move(due)
        self.t_s = t_s

    def _only_cycles(self) -> bool:
        """Nothing goes on but limits that have all opened and closed before."""
        waiting = any(device.pending for device in self.devices)
        return not waiting and math.isinf(self.melts_s) and self.limit_clock.keys() <= self.cycled

    def _skip_cycles(self, t_s: float) -> None:
        """Every limit's clock on by whole cycles, past ``t_s``."""
        cycle_s = sum(self._cycle_s())
        for limit, (due, closes, before_s, after_s) in self.limit_clock.items():
            cycles = max(0, math.floor((t_s - due) / cycle_s) + 1)
            spread_s = 2 * CYCLE_SPREAD_S * cycles
            self.limit_clock[limit] = (
                due + cycles * cycle_s,
                closes,
                before_s + spread_s,
                after_s + spread_s,
            )

    def _cycle_s(self) -> tuple[float, float]:
        """How long a limit stays closed and open, by the air that there is."""
        return CYCLE_S if self._blower_runs() else CYCLE_WITHOUT_BLOWER_S

    def moment(self) -> Moment:
        felt = self._felt()
        return Moment(
            self.t_s,
            self._closed,
            felt.solution,
            frozenset(d.id for d in self.devices if d.energised),
            self._blower_runs(),
            frozenset(self.cycling),
            frozenset(self.chatter),
            self.fuse_blown,
            self.early_s,
            self.late_s,
            self.from_s,
        )

    def _felt(self) -> Felt:
        if self._standing is None:
            key = frozenset(self.closed)
            known = self.solved.get(key)
            if known is None:
                known = self.solved[key] = (key, self.networks.of(self.driven, key))
            self._closed, self._standing = known
        return self._standing

    def _settle(self) -> None:
        """What follows at once: the fuse, the board's G, and the coils' clocks."""
        self._fuse()
        flips = 0
        while self._board():
            self._fuse()
            flips += 1
            if flips > MOST_FLIPS:  # it pulls down the volts that it acts on
                self.chatter.add("board.G")
                self._put("board.G", False)
                break
        for device in self.devices:
            self._coil(device)
        self._limits()

    def _fuse(self) -> None:
        """More than its rating melts it at once, or within the seconds that such a current lasts."""
        rating = self.unit.control_power.fuse_amps
        whole = rating is not None and not self.fuse_blown and "control-fuse" in self.closed
        over = whole and self._felt().fuse_amps > (rating or 0.0)
        self.melts_s = self.t_s if over else math.inf

    def _board(self) -> bool:
        """What acts at once on the 24 V that it sees: a board that raises G, a motor with taps of its own."""
        blower = self.unit.blower
        watching = {"board.G": HEAT_CALLS, "blower.run": blower.tap_of.keys() if blower else ()}
        for contact, calls in watching.items():
            if contact not in self.wiring.contacts:
                continue
            sees = not self._felt().seen.isdisjoint(calls)
            if sees != (contact in self.closed):
                self._put(contact, sees)
                return True
        return False

    def _coil(self, device: Mover) -> None:
        volts = self._felt().coil_volts[device.id]
        kind = device.kind
        on = volts >= (kind.lets_go_below_v if device.energised else kind.acts_from_v)
        on = on and device.id not in self.effects.no_action
        if on == device.energised or device.id in self.chatter:
            return
        device.energised = on
        device.recent = [t for t in device.recent if self.t_s - t < CHATTER_WITHIN_S] + [self.t_s]
        if len(device.recent) > CHATTER_CHANGES:
            self.chatter.add(device.id)
            device.pending = [
                DueMove(self.t_s, self.early_s, self.late_s, c, not when_on)
                for c, _, _, when_on in device.contacts
            ]
            device.energised = False
            return
        stretch = max(1.0, (device.rated_volts / max(volts, 1e-9)) ** 2) if kind.thermal else 1.0
        # What a bimetal has taken up or given away so far is thrown away: windows are printed from rest, and
        # a coil that toggles within one is chatter, or a call too short to tell of.
        device.pending = []
        for contact, on_s, off_s, when_on in device.contacts:
            window = on_s if on else off_s
            if device.id in self.effects.slow:
                late = self.effects.slow[device.id]
                window = Band(
                    min(late.low * window.high, MOST_SLOW_S), min(late.high * window.high, MOST_SLOW_S)
                )
            if on:
                window = window.times(stretch)
            closes = on == when_on
            if closes != (contact in self.closed):
                # A relay has one armature: what opens and what closes does so at once.
                mover = contact if kind.thermal else device.contacts[0][0]
                wait = window.low + self.draw(mover, on) * (window.high - window.low)
                of_any_order = (contact, on) in device.typical and device.id not in self.effects.slow
                device.pending.append(
                    DueMove(
                        self.t_s + wait,
                        self.early_s + window.low,
                        self.late_s + window.high,
                        contact,
                        closes,
                        self.early_s if of_any_order else None,
                    )
                )

    def _limits(self) -> None:
        """Start the clocks of limits that cycle, and stop those whose element has gone off."""
        starved = not self._blower_runs()
        for element, limits in self._limited:
            for limit in limits:
                hot = starved or self.effects.airflow < STARVED_AIRFLOW or limit in self.effects.weak_limits
                hot = hot and limit not in self.effects.network.always_closed
                if not hot and limit not in self.limit_clock:
                    continue
                heating = element.id in self._felt().heating
                if heating and hot and limit not in self.limit_clock:
                    closed_s, _ = CYCLE_WITHOUT_BLOWER_S if starved else CYCLE_S
                    first = FIRST_CLOSING if limit not in self.cycling else 1.0
                    self.cycling.add(limit)
                    wait_s = first * closed_s
                    self.limit_clock[limit] = (
                        self.t_s + wait_s,
                        False,
                        wait_s - FIRST_CLOSING_S.low,
                        FIRST_CLOSING_S.high - wait_s,
                    )
                cooled = limit in self.closed and not (heating and hot)
                if cooled and limit in self.limit_clock:
                    del self.limit_clock[limit]
                    self.cycling.discard(limit)
                    self.cycled.discard(limit)

    def _blower_runs(self) -> bool:
        return self.effects.blower_moves_air and self._felt().blower_runs

    def _next(self) -> float:
        times = [move.due_s for device in self.devices for move in device.pending]
        times += [t for t, *_ in self.limit_clock.values()]
        return min(times, default=math.inf) if math.isinf(self.melts_s) else self.melts_s

    def _move(self, t_s: float) -> None:
        self.early_s, self.late_s, self.from_s = t_s, t_s, None
        if self.melts_s <= t_s:
            self.fuse_blown, self.melts_s = True, math.inf
            self._put("control-fuse", False)
            self.late_s = t_s + MELTING_S
            return
        for device in self.devices:
            for move in device.pending:
                if move.due_s <= t_s:
                    self._put(move.contact, move.closes and not self._held(move.contact))
                    self.early_s = min(self.early_s, move.early_s)
                    self.late_s = max(self.late_s, move.late_s)
                    self.from_s = move.from_s
            device.pending = [move for move in device.pending if move.due_s > t_s]
        for limit, (due, closes, before_s, after_s) in list(self.limit_clock.items()):
            if due > t_s:
                continue
            self.early_s = min(self.early_s, max(self.panel_s, due - before_s))
            self.late_s = max(self.late_s, due + after_s)
            self._put(limit, closes)
            if closes:
                self.cycled.add(limit)
            closed_s, open_s = self._cycle_s()
            self.limit_clock[limit] = (
                t_s + (closed_s if closes else open_s),
                not closes,
                before_s + CYCLE_SPREAD_S,
                after_s + CYCLE_SPREAD_S,
            )

    def _held(self, contact: str) -> bool:
        """A welded normally-open set holds the armature over: normally-closed stays open."""
        return self.effects.armature_held and contact.endswith(".nc")
