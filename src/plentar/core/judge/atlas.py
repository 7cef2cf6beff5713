"""What every hypothesis shows at every point, in any run of calls and breakers, kept for a unit.

A *row* is one solved network (a set of sized faults, a set of closed contacts) read at every
probe. A *run* is the clockwork of many variants through one history of switches; at a time it
gives, for each variant, the phases that may hold then and how likely each is.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from itertools import combinations
from typing import Any, TypeVar

import numpy as np

from plentar.core.clockwork import CYCLE_S, CYCLE_WITHOUT_BLOWER_S, REST_BEFORE_S, Clock
from plentar.core.events import Calls, Event, Power
from plentar.core.faults import Fault, Harm, harm_of
from plentar.core.judge.hypotheses import Hypothesis, Variant, single_hypotheses
from plentar.core.judge.probes import Probe, ProbeTable, V, standing_probes
from plentar.core.network import Index, Real
from plentar.core.points import resolve
from plentar.core.quantity import Quantity
from plentar.core.state import ON, PanelState, changes
from plentar.core.unit import Unit
from plentar.core.wiring import Mask, Wiring, wire_up

Corner = tuple[Fault, ...]
UNITS_KEPT, RUNS_KEPT, READINGS_KEPT, SHOWN_KEPT, CHANCES_KEPT = 6, 12, 400, 12, 2
#: How far a run looks past the last switch at first, and how much further each time it must.
LOOK_AHEAD_S, FURTHER = 1200.0, 3.0
_ROWS_AT_ONCE = 64
LEAST_PHASE, LIKELY_PHASE = 1e-3, 0.01
_T = TypeVar("_T")


@dataclass(frozen=True, slots=True)
class Phase:
    """One settled moment of one variant, without its network."""

    t_s: float
    early_s: float
    late_s: float
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


class Rows:
    """Solved networks read at every probe, each once."""

    def __init__(self, wiring: Wiring) -> None:
        self.wiring = wiring
        self.table = ProbeTable(wiring, standing_probes(wiring.unit))
        self._harms: dict[Corner, Harm] = {}
        self._number: dict[tuple[Corner, frozenset[str]], int] = {}
        self._keys: list[tuple[Corner, frozenset[str]]] = []
        self.values: Real = np.empty((0, len(self.table.probes)))
        self.ghosts: Mask = np.empty((0, len(self.table.probes)), dtype=bool)

    def harm(self, corner: Corner) -> Harm:
        """What these faults do."""
        found = self._harms.get(corner)
        if found is None:
            found = self._harms[corner] = harm_of(self.wiring, corner)
        return found

    def number(self, corner: Corner, closed: frozenset[str]) -> int:
        """The row of a network; ``fill`` reads those that are new."""
        key = (corner, closed)
        found = self._number.get(key)
        if found is None:
            found = self._number[key] = len(self._keys)
            self._keys.append(key)
        return found

    def closed(self, number: int) -> frozenset[str]:
        """The contacts that are closed in a row's network."""
        return self._keys[number][1]

    def probe(self, quantity: Quantity, at: str) -> int | None:
        """The column of a probe; a pair of nodes not asked for before is added."""
        found = self.table.index.get((quantity, at))
        if found is None and quantity is V and ":" in at:
            more = [*self.table.probes, Probe(V, resolve(self.wiring.unit, at))]
            self.table = ProbeTable(self.wiring, more)
            self.values = np.empty((0, len(more)))
            self.ghosts = np.empty((0, len(more)), dtype=bool)
            self.fill()
            found = self.table.index[quantity, at]
        return found

    def fill(self) -> None:
        """Read every network that was asked for and is not read yet."""
        done = len(self.values)
        if done == len(self._keys):
            return
        fresh = self._keys[done:]
        values = np.empty((len(fresh), len(self.table.probes)))
        ghosts = np.empty(values.shape, dtype=bool)
        by_share: dict[float, list[int]] = {}
        for n, (corner, _) in enumerate(fresh):
            share = self.harm(corner).effects.emf_share.get("transformer", 1.0)
            by_share.setdefault(share, []).append(n)
        for members in by_share.values():
            for start in range(0, len(members), _ROWS_AT_ONCE):
                some = members[start : start + _ROWS_AT_ONCE]
                values[some], ghosts[some] = self._read([fresh[n] for n in some])
        self.values = np.concatenate([self.values, values])
        self.ghosts = np.concatenate([self.ghosts, ghosts])

    def _read(self, keys: Sequence[tuple[Corner, frozenset[str]]]) -> tuple[Real, Mask]:
        harms = [self.harm(corner) for corner, _ in keys]
        masks = self.wiring.closed_masks([closed for _, closed in keys])
        siemens = np.array([
            self.wiring.siemens_of(masks[n : n + 1], harm.effects)[0]
            for n, harm in enumerate(harms)
        ])  # fmt: skip
        emf = np.array([self.wiring.emf(harm.effects) for harm in harms])
        topology = self.wiring.topology_with(harms[0].effects)
        return self.table.read(topology, siemens, emf, harms)


class Run:
    """The variants of an ensemble through one history of switches."""

    def __init__(
        self,
        ensemble: Ensemble,
        switched: tuple[Event, ...],
        until_s: float,
        like: Run | None = None,
        some: Sequence[int] = (),
        closing: frozenset[str] = frozenset(),
        earlier: Run | None = None,
    ) -> None:
        self._ensemble, self.switched = ensemble, switched
        self._shown: dict[float, Shown] = {}
        self._chances: dict[float, Real] = {}
        self._told: dict[tuple[str, float], list[Any]] = {}
        self.until_s = until_s
        fresh = set(some) if like is not None else None
        begun = earlier.standing if earlier is not None else ensemble.resting
        known = len(earlier.switched) if earlier is not None else 0
        panels = list(changes(ensemble.rows.wiring.unit, switched))[known:]
        self.phases: list[list[Phase]] = []
        self.standing: list[Standing] = []
        for v in range(len(ensemble.variants)):
            if like is not None and fresh is not None and v not in fresh:
                self.phases.append(like.with_closed(v, closing))
                continue
            phases, standing = _phases(begun[v], panels, until_s)
            self.phases.append(phases)
            self.standing.append(standing)
        self._cycles = [any(phase.cycling for phase in phases) for phases in self.phases]
        most = max(len(phases) for phases in self.phases)
        shape = (len(self.phases), most)
        self._early: Real = np.full(shape, np.inf)
        self._late: Real = np.full(shape, np.inf)
        for v, phases in enumerate(self.phases):
            self._early[v, : len(phases)] = [phase.early_s for phase in phases]
            self._late[v, : len(phases)] = [phase.late_s for phase in phases]

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
        kept = self._chances.get(t_s)
        if kept is not None:
            return kept
        early = np.where(np.isinf(self._early), t_s + 1, self._early)
        span = np.where(np.isinf(self._early), 1.0, self._late - early)
        begun = np.where(span > 0, (t_s - early) / np.maximum(span, 1e-9), t_s >= early)
        begun = np.clip(begun, 0.0, 1.0)
        begun[:, 0] = 1.0
        # What comes later can't have begun before what comes earlier.
        begun = np.maximum.accumulate(begun[:, ::-1], axis=1)[:, ::-1]
        after = np.zeros_like(begun)
        after[:, :-1] = begun[:, 1:]
        found: Real = begun - after
        if len(self._chances) >= CHANCES_KEPT:
            self._chances.pop(next(iter(self._chances)))
        self._chances[t_s] = found
        return found

    def cycling(self, t_s: float) -> list[frozenset[str]]:
        """The limits that each variant may be cycling at ``t_s``."""
        return self._likely(
            "cycling", t_s, lambda ones: frozenset().union(*(p.cycling for p in ones))
        )

    def blown(self, t_s: float) -> list[bool]:
        """Whether each variant may have blown its fuse by ``t_s``."""
        return self._likely("blown", t_s, lambda ones: any(p.fuse_blown for p in ones))

    def _likely(self, name: str, t_s: float, tell: Callable[[list[Phase]], _T]) -> list[_T]:
        """Something told of the phases that each variant is likely in; the last few are kept."""
        kept = self._told.get((name, t_s))
        if kept is None:
            chances = self.chances(t_s) > LIKELY_PHASE
            kept = [
                tell([phases[k] for k in np.flatnonzero(likely)])
                for phases, likely in zip(self.phases, chances, strict=True)
            ]
            if len(self._told) >= SHOWN_KEPT:
                self._told.pop(next(iter(self._told)))
            self._told[name, t_s] = kept
        return kept

    def at(self, t_s: float) -> Shown:
        """The phases that may hold at ``t_s``, with their networks read."""
        kept = self._shown.get(t_s)
        if kept is not None:
            return kept
        chances = self.chances(t_s)
        rows, variants = self._ensemble.rows, self._ensemble.variants
        states = [self._states(v, chances[v], t_s) for v in range(len(variants))]
        keep = max(len(found) for found in states)
        corners = max(len(variant.corners) for variant in variants)
        weights = np.zeros((len(variants), keep))
        numbers = np.zeros((len(variants), keep, corners), dtype=np.intp)
        for v, variant in enumerate(variants):
            likeliest = sorted(states[v].items(), key=lambda state: -state[1])
            for k, (closed, weight) in enumerate(likeliest):
                found = [rows.number(corner, closed) for corner in variant.corners]
                numbers[v, k] = found + found[:1] * (corners - len(found))
                weights[v, k] = weight
            numbers[v, len(states[v]) :] = numbers[v, 0]
        rows.fill()
        if len(self._shown) >= SHOWN_KEPT:
            self._shown.pop(next(iter(self._shown)))
        shown = Shown(weights / weights.sum(axis=1, keepdims=True), numbers)
        self._shown[t_s] = shown
        return shown

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
        opened = {
            limit
            for phase in phases
            if phase.cycling and phase.early_s <= t_s
            for limit in phase.cycling - phase.closed
        }
        for n in likely:
            drifting = sorted(opened & phases[n].cycling)
            closed_s, open_s = CYCLE_S if phases[n].blower_runs else CYCLE_WITHOUT_BLOWER_S
            share = closed_s / (closed_s + open_s)
            base = phases[n].closed - set(drifting)
            for count in range(len(drifting) + 1):
                chance = float(chances[n]) * share**count * (1 - share) ** (len(drifting) - count)
                for some in combinations(drifting, count):
                    key = base | set(some)
                    found[key] = found.get(key, 0.0) + chance
        return found


class Ensemble:
    """Some hypotheses with all their variants, and the runs worked out for them."""

    def __init__(self, rows: Rows, hypotheses: Sequence[Hypothesis]) -> None:
        self.rows, self.hypotheses = rows, tuple(hypotheses)
        self.variants: list[Variant] = [v for h in self.hypotheses for v in h.variants]
        self.owner: Index = np.array(
            [n for n, h in enumerate(self.hypotheses) for _ in h.variants], dtype=np.intp
        )
        #: Where each hypothesis' variants begin.
        self.firsts: Index = np.flatnonzero(np.diff(self.owner, prepend=-1))
        self.shares: Real = np.array([variant.share for variant in self.variants])
        self._blown: dict[int, Ensemble] = {}
        self._runs: OrderedDict[tuple[Event, ...], Run] = OrderedDict()
        self.kept: OrderedDict[Any, Any] = OrderedDict()
        #: What is worked out once and stays, by the module that does it.
        self.once: dict[str, Any] = {}

    def most(self, by_variant: Real) -> Real:
        """The largest of each hypothesis' variants: (hypotheses,)."""
        return np.asarray(np.maximum.reduceat(by_variant, self.firsts))

    def likeliest(self, by_variant: Real) -> Index:
        """Which variant of each hypothesis is the largest, the first of equals: (hypotheses,)."""
        fits = np.flatnonzero(by_variant >= self.most(by_variant)[self.owner])[::-1]
        found = np.empty(len(self.firsts), dtype=np.intp)
        found[self.owner[fits]] = fits
        return found

    def run(
        self,
        switched: tuple[Event, ...],
        t_s: float,
        like: Run | None = None,
        some: Sequence[int] = (),
        closing: frozenset[str] = frozenset(),
    ) -> Run:
        """The run through a history (from ``history``) that reaches ``t_s`` at least.

        With ``like``, only the variants in ``some`` are run; the others do as in that run, the
        contacts ``closing`` with the first call apart.
        """
        if like is not None:
            return Run(self, switched, t_s, like, some, closing)
        found = self._runs.get(switched) or self._longer(switched, t_s)
        if found is None or found.until_s < t_s:
            last_s = switched[-1].t_s if switched else 0.0
            ahead = LOOK_AHEAD_S
            while last_s + ahead < t_s:
                ahead *= FURTHER
            found = Run(self, switched, last_s + ahead, earlier=self._earlier(switched))
            self._runs[switched] = found
            if len(self._runs) > RUNS_KEPT:
                self._runs.popitem(last=False)
        return found

    def _longer(self, switched: tuple[Event, ...], t_s: float) -> Run | None:
        """A run whose history begins with this one and goes on after ``t_s`` only."""
        count = len(switched)
        for known, run in self._runs.items():
            if known[:count] == switched and len(known) > count and known[count].t_s > t_s:
                return run
        return None

    def _earlier(self, switched: tuple[Event, ...]) -> Run | None:
        """The run to go on from: the longest whose history this one begins with."""
        known = (self._runs.get(switched[:n]) for n in range(len(switched) - 1, -1, -1))
        return next((run for run in known if run is not None), None)

    @cached_property
    def resting(self) -> list[Standing]:
        """Every variant long before the visit, with nothing called."""
        return [_at_rest(self.rows, variant.clock) for variant in self.variants]

    def blown(self, variant: int) -> Ensemble:
        """One variant with its control fuse blown: it stays so, whatever is called."""
        kept = self._blown.get(variant)
        if kept is None:
            open_fuse = (Fault("control-fuse", "open", 0.0),)
            whole, one = self.hypotheses[self.owner[variant]], self.variants[variant]
            fused = Variant(
                one.clock + open_fuse, tuple(corner + open_fuse for corner in one.corners), 1.0
            )
            with_fuse = Hypothesis(whole.faults, whole.weight, (fused,))
            kept = self._blown[variant] = Ensemble(self.rows, [with_fuse])
        return kept

    def keep(self, key: Any, value: Any) -> Any:
        """Keep something worked out for this ensemble, the oldest going first."""
        self.kept[key] = value
        if len(self.kept) > READINGS_KEPT:
            self.kept.popitem(last=False)
        return value


class Atlas:
    """All that is kept for one unit."""

    def __init__(self, unit: Unit) -> None:
        self.unit = unit
        self.rows = Rows(wire_up(unit))
        self.singles = Ensemble(self.rows, single_hypotheses(self.rows.wiring))
        self.pairs: OrderedDict[str, Ensemble] = OrderedDict()
        #: Whatever else is worked out once for a unit, by the module that does it.
        self.kept: dict[str, Any] = {}

    @cached_property
    def by_id(self) -> dict[str, int]:
        """Where each single hypothesis stands."""
        return {h.id: n for n, h in enumerate(self.singles.hypotheses)}


@lru_cache(maxsize=UNITS_KEPT)
def atlas_of(unit: Unit) -> Atlas:
    """The atlas of a unit, one for all that are alike."""
    return Atlas(unit)


@dataclass(frozen=True, slots=True)
class History:
    """The switches that people moved, counted from the first that changed anything."""

    switched: tuple[Event, ...]
    began_s: float

    def time(self, t_s: float) -> float:
        """A time of the visit in this history."""
        return t_s - self.began_s


def history(unit: Unit, events: Sequence[Event]) -> History:
    """What changed the panel; a call with a lead began that much earlier."""
    last = PanelState(0.0, {circuit.id: ON for circuit in unit.circuits})
    moved: list[Event] = []
    began_s, previous_s = 0.0, 0.0
    switches = [event for event in events if isinstance(event, (Power, Calls))]
    for event, state in zip(switches, changes(unit, switches), strict=True):
        if (
            _live(state) == _live(last)
            and state.calls == last.calls
            and (state.lifted == last.lifted or not state.calls)
        ):
            continue
        last = state
        lead_s = event.lead_s if isinstance(event, Calls) else 0.0
        at_s = event.t_s - lead_s if not moved else max(previous_s, event.t_s - lead_s)
        began_s = began_s if moved else at_s
        previous_s = at_s
        moved.append(_shifted(event, at_s - began_s))
    return History(tuple(moved), began_s)


def _live(state: PanelState) -> dict[str, bool]:
    return {circuit: power == ON for circuit, power in state.power.items()}


def _shifted(event: Event, t_s: float) -> Event:
    plain = replace(event, t_s=t_s, lead_s=0.0, key="")
    if isinstance(plain, Power) and plain.state != ON:
        return replace(plain, state="off")
    return plain


@dataclass(frozen=True, slots=True)
class Standing:
    """One variant just after the last switch of a history, to go on from: its clock, and its
    phases before."""

    clock: Clock
    before: list[Phase]


def _at_rest(rows: Rows, faults: Corner) -> Standing:
    unit = rows.wiring.unit
    clock = Clock(rows.wiring, rows.harm(faults), lambda _contact, _closes: 0.5)
    clock.set_panel(PanelState(-REST_BEFORE_S, {circuit.id: ON for circuit in unit.circuits}))
    return Standing(clock, [])


def _phases(
    begun: Standing, panels: Sequence[PanelState], until_s: float
) -> tuple[list[Phase], Standing]:
    """Every phase through more switches and on to a time, those in doubt among them, in order;
    and how it stands after the last switch."""
    clock, found = begun.clock.copy(), begun.before
    for panel in panels:
        found = [*found, *_until(clock, panel.t_s)]
        clock.set_panel(panel)
    standing = Standing(clock.copy(), found)
    return [*found, *_until(clock, until_s)], standing


def _until(clock: Clock, t_s: float) -> Iterator[Phase]:
    for moments in (clock.until(t_s), clock.in_doubt()):
        for m in moments:
            yield Phase(m.t_s, m.early_s, m.late_s, m.closed, m.cycling,
                        bool(m.chatter), m.blower_runs, m.fuse_blown)  # fmt: skip
