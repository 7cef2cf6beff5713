"""The clockwork of many variants through one history of switches: at a time, the phases that may
hold then, and how likely each is."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from hashlib import blake2b
from itertools import product
from random import Random

import numpy as np

from plentar.core.budget import check_budget
from plentar.core.cache import Cache
from plentar.core.circuit.clockwork import Clock
from plentar.core.circuit.network import Index, Real
from plentar.core.judge.hypotheses.hypothesis import Variant
from plentar.core.judge.shown.rows import Corner, Rows
from plentar.core.tables.model import CYCLE_S, CYCLE_WITHOUT_BLOWER_S, LONGEST_OPEN_S, REST_BEFORE_S
from plentar.core.visit.events import ON, Event
from plentar.core.visit.state import PanelState, changes

#: What a run keeps of the last times that were asked for, of each kind, B; what was shown last however large.
SHOWN_BYTES = 300_000
#: What the digest of a time and a phase take, B.
MOMENT_BYTES, PHASE_BYTES = 200, 400
LEAST_PHASE, LIKELY_PHASE = 1e-3, 0.01
#: Limits that cycle are taken in every combination up to so many, else in a sample of so many.
MOST_APART, SAMPLED_APART = 3, 10


@dataclass(frozen=True, slots=True)
class Phase:
    """One settled moment of one variant, without its network."""

    t_s: float
    early_s: float
    late_s: float
    from_s: float | None
    closed: frozenset[str]
    cycling: frozenset[str]
    chatter: bool
    blower_runs: bool
    fuse_blown: bool


@dataclass(frozen=True, slots=True)
class Shown:
    """What may hold at one time: weights (variants, states), the likeliest state first, and rows
    (variants, states, corners)."""

    weights: Real
    rows: Index


@dataclass(frozen=True, slots=True)
class Standing:
    """One variant just after the last switch of a history, to go on from: its clock, and its
    phases before."""

    clock: Clock
    before: list[Phase]


@dataclass(frozen=True, slots=True)
class Begun:
    """Where a run begins: every variant after so many switches of its history."""

    standing: Sequence[Standing]
    switches: int = 0


@dataclass(frozen=True, slots=True)
class Partly:
    """Only ``some`` of the variants are run; the others do as in the run that this is ``like``,
    the contacts ``closing`` with the first call apart."""

    like: VariantRun
    some: Collection[int]
    closing: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Grown:
    """What of a run is worked out, variant by variant: one that is cut off goes on from here."""

    phases: list[list[Phase]] = field(default_factory=list)
    standing: list[Standing] = field(default_factory=list)


class VariantRun:
    def __init__(
        self,
        rows: Rows,
        variants: Sequence[Variant],
        begun: Begun,
        switched: tuple[Event, ...],
        until_s: float,
        partly: Partly | None = None,
        grown: Grown | None = None,
    ) -> None:
        self._rows, self.switched = rows, switched
        self._corners = [[rows.sized(corner) for corner in variant.corners] for variant in variants]
        self._moments: Cache[float, bytes] = Cache("moments", SHOWN_BYTES, lambda _: MOMENT_BYTES)
        self._shown: Cache[bytes, Shown] = Cache("shown", SHOWN_BYTES, _shown_bytes, newest=True)
        self._chances: Cache[float, Real] = Cache("chances", SHOWN_BYTES, lambda one: one.nbytes)
        self._cycling: Cache[float, list[frozenset[str]]] = Cache("cycling", SHOWN_BYTES, _list_bytes)
        self._blown: Cache[float, list[bool]] = Cache("blown", SHOWN_BYTES, _list_bytes)
        self.until_s = until_s
        panels = list(changes(rows.wiring.unit, switched))[begun.switches :]
        grown = grown if grown is not None else Grown()
        self.phases, self.standing = grown.phases, grown.standing
        for v in range(len(self.phases), len(variants)):
            check_budget()
            if partly is not None and v not in partly.some:
                self.phases.append(partly.like.with_closed(v, partly.closing))
                continue
            phases, standing = _phases(begun.standing[v], panels, until_s)
            self.phases.append(phases)
            self.standing.append(standing)
            if v == 0:  # the others go through much the same
                states = list({phase.closed for phase in phases})
                rows.networks.ahead((one.clock.driven for one in begun.standing), states)
        self._cycles = [any(phase.cycling for phase in phases) for phases in self.phases]
        most = max(len(phases) for phases in self.phases)
        shape = (len(self.phases), most)
        self._early: Real = np.full(shape, np.inf)
        self._late: Real = np.full(shape, np.inf)
        #: Since when a typical window runs, within which any order of time is as likely; NaN: any time is.
        self._from: Real = np.full(shape, np.nan)
        for v, phases in enumerate(self.phases):
            self._from[v, : len(phases)] = [math.nan if p.from_s is None else p.from_s for p in phases]
            self._early[v, : len(phases)] = [phase.early_s for phase in phases]
            self._late[v, : len(phases)] = [phase.late_s for phase in phases]

    @property
    def held_bytes(self) -> int:
        return PHASE_BYTES * sum(map(len, self.phases))

    def with_closed(self, variant: int, closing: frozenset[str]) -> list[Phase]:
        """One variant's phases, some contacts closed besides from the beginning of the history."""
        if not closing:
            return self.phases[variant]
        return [
            replace(phase, closed=phase.closed | closing) if phase.t_s >= 0 else phase
            for phase in self.phases[variant]
        ]

    def chances(self, t_s: float) -> Real:
        """How likely each phase holds at ``t_s``: (variants, phases)."""
        return self._chances.get_or_make(t_s, lambda: self._work_out_chances(t_s))

    def _work_out_chances(self, t_s: float) -> Real:
        early = np.where(np.isinf(self._early), t_s + 1, self._early)
        span = np.where(np.isinf(self._early), 1.0, self._late - early)
        begun = np.where(span > 0, (t_s - early) / np.maximum(span, 1e-9), t_s >= early)
        # A window of no length, or that begins at once, has no orders of time to be likely in.
        by_order = (self._from < self._early) & (self._early < self._late) & np.isfinite(self._early)
        since = self._from[by_order]
        orders = np.log((self._late[by_order] - since) / (self._early[by_order] - since))
        passed = np.log(np.maximum(t_s - since, 1e-9) / (self._early[by_order] - since))
        begun[by_order] = passed / orders
        begun = np.clip(begun, 0.0, 1.0)
        begun[:, 0] = 1.0
        # What comes later can't have begun before what comes earlier.
        begun = np.maximum.accumulate(begun[:, ::-1], axis=1)[:, ::-1]
        after = np.zeros_like(begun)
        after[:, :-1] = begun[:, 1:]
        return np.asarray(begun - after)

    def cycling(self, t_s: float) -> list[frozenset[str]]:
        """The limits that each variant may be cycling at ``t_s``."""
        return self._cycling.get_or_make(
            t_s, lambda: [frozenset().union(*(p.cycling for p in ones)) for ones in self._likely(t_s)]
        )

    def blown(self, t_s: float) -> list[bool]:
        """Whether each variant may have blown its fuse by ``t_s``."""
        return self._blown.get_or_make(
            t_s, lambda: [any(p.fuse_blown for p in ones) for ones in self._likely(t_s)]
        )

    def _likely(self, t_s: float) -> Iterator[list[Phase]]:
        """The phases that each variant is likely in."""
        for phases, likely in zip(self.phases, self.chances(t_s) > LIKELY_PHASE, strict=True):
            yield [phases[k] for k in np.flatnonzero(likely)]

    def at(self, t_s: float) -> Shown:
        """The phases that may hold at ``t_s``, with their networks read."""
        moment = self._moments.get_or_make(t_s, lambda: self._moment(t_s))
        return self._shown.get_or_make(moment, lambda: self._work_out(t_s, self.chances(t_s)))

    def _moment(self, t_s: float) -> bytes:
        """A digest of all that what may hold at ``t_s`` goes by; between windows it stays the same."""
        digest = blake2b(self.chances(t_s).tobytes(), digest_size=16)
        for variant in np.flatnonzero(self._cycles).tolist():
            digest.update(repr(self._drifting(variant, t_s)).encode())
        return digest.digest()

    def before_it_blew(self, t_s: float) -> Shown:
        """The same as if each fuse that has blown by then were seen the moment before: more than it carries
        can only have been read there, and was typed after."""
        chances = self.chances(t_s).copy()
        for v, phases in enumerate(self.phases):
            for n in range(len(phases) - 1, 0, -1):
                if phases[n].fuse_blown:
                    chances[v, n - 1] += chances[v, n]
                    chances[v, n] = 0.0
        return self._work_out(t_s, chances)

    def _work_out(self, t_s: float, chances: Real) -> Shown:
        rows = self._rows
        states = [self._states(v, chances[v], t_s) for v in range(len(self._corners))]
        keep = max(len(found) for found in states)
        corners = max(map(len, self._corners))
        weights = np.zeros((len(states), keep))
        numbers = np.zeros((len(states), keep, corners), dtype=np.intp)
        for v, sized in enumerate(self._corners):
            likeliest = sorted(states[v].items(), key=lambda state: -state[1])
            for k, (closed, weight) in enumerate(likeliest):
                found = [rows.number(one, closed) for one in sized]
                numbers[v, k] = found + found[:1] * (corners - len(found))
                weights[v, k] = weight
            numbers[v, len(states[v]) :] = numbers[v, 0]
        rows.fill()
        return Shown(weights / weights.sum(axis=1, keepdims=True), numbers)

    def _states(self, variant: int, chances: Real, t_s: float) -> dict[frozenset[str], float]:
        """The sets of closed contacts that may hold, each with its chance.

        Limits that cycle drift apart: from its first opening on, each is open for its share of
        the time, whatever the others do.
        """
        phases = self.phases[variant]
        likely = np.flatnonzero(chances > LEAST_PHASE).tolist()
        if not self._cycles[variant]:
            found = dict.fromkeys((phases[n].closed for n in likely), 0.0)
            for n in likely:
                found[phases[n].closed] += float(chances[n])
            return found
        found = {}
        drifting = self._drifting(variant, t_s)
        for n in likely:
            base = phases[n].closed.difference(drifting)
            for some, chance in _closed_of(drifting):
                key = base | some
                found[key] = found.get(key, 0.0) + float(chances[n]) * chance
        return found

    def _drifting(self, variant: int, t_s: float) -> dict[str, float]:
        """The limits that may be open or closed at ``t_s``, by how likely each is closed.

        One that has cycled may still be open a while after its heat has gone or the air has come.
        """
        phases = self.phases[variant]
        found: dict[str, float] = {}
        opened: set[str] = set()
        ends = [*(phase.t_s for phase in phases[1:]), np.inf]
        for phase, end_s in zip(phases, ends, strict=True):
            if phase.early_s > t_s or not phase.cycling:
                continue
            closed_s, open_s = CYCLE_S if phase.blower_runs else CYCLE_WITHOUT_BLOWER_S
            share = open_s / (closed_s + open_s)
            left = max(0.0, 1 - max(0.0, t_s - end_s) / LONGEST_OPEN_S)
            opened |= phase.cycling - phase.closed
            for limit in sorted(phase.cycling & opened) if left > 0 else ():
                found[limit] = 1 - share * left
        return found


def _shown_bytes(shown: Shown) -> int:
    return shown.weights.nbytes + shown.rows.nbytes


def _list_bytes(found: Sequence[object]) -> int:
    return 8 * len(found)


def _closed_of(drifting: Mapping[str, float]) -> Iterator[tuple[frozenset[str], float]]:
    """Which of the limits that drift apart may be closed together, each for its share of the time.

    All sets of a few; of many a sample, each limit being closed in its share of it.
    """
    many = len(drifting)
    if many <= MOST_APART:
        for some in product((True, False), repeat=many):
            shares = zip(drifting.values(), some, strict=True)
            chance = math.prod(share if closed else 1 - share for share, closed in shares)
            yield frozenset(limit for limit, c in zip(drifting, some, strict=True) if c), chance
        return
    dice = Random(many)
    orders = [dice.sample(range(SAMPLED_APART), SAMPLED_APART) for _ in drifting]
    for n in range(SAMPLED_APART):
        some = tuple(
            order[n] + 0.5 < share * SAMPLED_APART
            for order, share in zip(orders, drifting.values(), strict=True)
        )
        closed = frozenset(limit for limit, c in zip(drifting, some, strict=True) if c)
        yield closed, 1 / SAMPLED_APART


def at_rest(rows: Rows, faults: Corner) -> Standing:
    """One variant long before the visit, with nothing called."""
    unit = rows.wiring.unit
    clock = Clock(rows.wiring, rows.effects(faults), lambda _contact, _closes: 0.5, rows.networks)
    clock.set_panel(PanelState(-REST_BEFORE_S, {circuit.id: ON for circuit in unit.circuits}))
    return Standing(clock, [])


def _phases(begun: Standing, panels: Sequence[PanelState], until_s: float) -> tuple[list[Phase], Standing]:
    """Every phase through more switches and on to a time, those in doubt among them, in order;
    and how it stands after the last switch."""
    clock, found = begun.clock.copy(), begun.before
    for panel in panels:
        found = [*found, *_until(clock, panel.t_s)]
        clock.set_panel(panel)
    standing = Standing(clock.copy(), found)
    return [*found, *_until(clock, until_s)], standing


def _until(clock: Clock, t_s: float) -> Iterator[Phase]:
    for moments in (clock.until(t_s, every_cycle=False), clock.in_doubt()):
        for m in moments:
            yield Phase(
                m.t_s,
                m.early_s,
                m.late_s,
                m.from_s,
                m.closed,
                m.cycling,
                bool(m.chatter),
                m.blower_runs,
                m.fuse_blown,
            )
