"""What two faults at once would show at one reading, guessed from what each shows alone.

A pair shows a reading as that one of its two which changes it. Beyond that: where one keeps every
switch at rest, the other shows what it shows at rest; where one takes the control power away, or
breaks a rung, what the other feeds is dead, and what nothing ties down shows a ghost. Currents are
put together from what each feeds and what each breaks, and a feed carries the sum. The better
counts, so that rather too many pairs are weighed than too few.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

import numpy as np

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.circuit.faults import Fault
from plentar.core.circuit.network import Index, Real
from plentar.core.circuit.shown_by_meter import Probe
from plentar.core.judge.shown.history import SwitchHistory
from plentar.core.judge.shown.runs import Shown
from plentar.core.judge.shown.scenes import scenes_of
from plentar.core.judge.shown.workspace import Workspace
from plentar.core.judge.weigh.boxes import SUPPLY, boxes
from plentar.core.judge.weigh.likelihood import TEMP, A, ItemLikelihood, V, as_weighed
from plentar.core.judge.weigh.observation import Floats, density, ghost_density, log_mixture
from plentar.core.quantity import Quantity
from plentar.core.tables.assumptions import WORST_CASE_SCALES
from plentar.core.unit.points import CONTROL_SIDE
from plentar.core.visit.events import Event, Reading

#: Of the control side, whose current is the sum of what several parts draw.
CONTROL_FEEDS = CONTROL_SIDE - {"coil"}
#: A fault that moves a reading's log likelihood by more than this changes the reading, nats.
CHANGES = 0.5
#: An element draws from this share of its sound current.
DRAWS_SHARE = 0.05
#: The ways to fail that break a rung.
OPENS = frozenset({"open", "stuck-open"})
#: What a hypothesis does less often than this is not counted on.
LEAST_STATE = 0.02
#: Variants that read alike to this many places are put together once.
ALIKE_PLACES = 3
#: A place in a rung that is broken on both sides may read anything up to this.
MOST_GHOST_V = 70.0
#: The control side has no power below this; what is tied down no more there reads up to the next.
DARK_V, MOST_DARK_GHOST_V = 1.0, 8.0
#: The supply, in coarser cells.
COARSE = SUPPLY[1::3]
COARSE_HALF_CELL = 0.015


def either(alone: Real) -> Real:
    """Each reading as the fault that changes it has it; where both do, as the better of them."""
    changes = np.abs(alone - alone[0]) > CHANGES
    one, other = alone[:, None], alone[None]
    found = np.where(changes[:, None], one, np.where(changes, other, alone[0]))
    return np.asarray(np.where(changes[:, None] & changes, np.maximum(one, other), found))


class ReadingKey(NamedTuple):
    """A reading in a history of switches, and how each hypothesis explains it alone, as bytes."""

    switched: tuple[Event, ...]
    t_s: float
    quantity: Quantity
    at: str
    value: float
    alone: bytes


@dataclass(slots=True)
class GuessShelf:
    """Of the single hypotheses: what was guessed of every two of them, and which keep a unit at rest."""

    gains: Cache[ReadingKey, Floats] = field(
        default_factory=lambda: Cache("guesses", 24 * MEGABYTE, lambda found: found.nbytes)
    )
    quiet: Cache[tuple[tuple[Event, ...], float], np.ndarray] = field(
        default_factory=lambda: Cache("at rest", MEGABYTE, lambda found: found.nbytes)
    )

    @property
    def held_bytes(self) -> int:
        return self.gains.held_bytes + self.quiet.held_bytes

    def clear(self) -> None:
        self.gains.clear()
        self.quiet.clear()


@dataclass(frozen=True)
class Guess:
    """One live reading under every two hypotheses: log likelihoods (hypotheses, hypotheses)."""

    workspace: Workspace
    history: SwitchHistory
    t_s: float
    item: ItemLikelihood
    reading: Reading
    number: int

    @property
    def value(self) -> float:
        """The reading as it is weighed."""
        return as_weighed(self.probe.point, self.reading)

    def best(self, alone: Real) -> Real:
        """The best of what can be guessed, what each shows ``alone`` (hypotheses,) among it; where
        both change a current, what they do together instead."""
        probe = self.probe
        rungs = [e.id for e in self.workspace.unit.elements if probe.point.component in e.rung]
        found = either(alone)
        if probe.point.kind in CONTROL_SIDE:
            found = self.controlled(found, alone)
        elif probe.quantity is A:
            found = self.carried(found, alone, rungs)
        elif probe.quantity is V and rungs:
            dead = self.dead(rungs, alone)
            found = np.maximum.reduce([found, dead, self.ghosts(rungs), self.fed(rungs)])
        elif probe.quantity is TEMP:
            # How much two that both change the heat leave of it is not guessed.
            changes = np.abs(alone - alone[0]) > CHANGES
            found = np.where(changes[:, None] & changes, alone.max(), found)
        return np.asarray(np.maximum(found, self.at_rest()))

    def controlled(self, found: Real, alone: Real) -> Real:
        """On the control side: what both draw of it, or leave of its volts; or it is dark."""
        if self.probe.quantity is V:
            found = np.maximum(found, self._scaled(self._moments[0][..., -1:]))
        elif self.probe.quantity is A and self.probe.point.kind in CONTROL_FEEDS:
            added = [self._added(now[..., -1:]) for now in self._moments]
            found = np.maximum.reduce([found, *added])
        return np.asarray(np.maximum(found, self.dark(alone)))

    def carried(self, found: Real, alone: Real, rungs: Sequence[str]) -> Real:
        """Amps of the rungs, of a feed, or elsewhere: there, a rung that the one breaks may be
        what the other feeds."""
        if rungs or self.probe.point.kind in ("circuit", "feed"):
            together = [self._put_together(rungs, now) for now in self._moments]
            amps = np.maximum.reduce([amps for amps, _ in together])
            changes = np.logical_or.reduce([changes for _, changes in together])
            return np.where(changes[:, None] & changes, amps, np.maximum(found, amps))
        breaks = self._breaks(range(len(self.workspace.unit.elements)))
        return np.where(breaks[:, None] | breaks, np.maximum(found, alone[0]), found)

    @property
    def probe(self) -> Probe:
        """What is read where."""
        return self.workspace.rows.table.probes[self.number]

    def at_rest(self) -> Real:
        """What each shows at rest, beside every fault that keeps the unit at rest."""
        quiet = self._quiet()
        if not quiet.any() or quiet.all():
            return np.full((len(quiet), len(quiet)), -np.inf)
        return _where(quiet, self._in_scene("rest"))

    def dark(self, alone: Real) -> Real:
        """Where one leaves the control side without power, as that one alone; what nothing ties
        down any more shows a ghost."""
        volts = self._read(self._shown, [self.workspace.rows.table.index[V, "R"]])
        dark = self.workspace.singles.most(volts.min(axis=(1, 2, 3)) < DARK_V) > 0
        if self.probe.quantity is V:
            alone = np.maximum(alone, self._ghost(MOST_DARK_GHOST_V))
        as_dark = np.where(dark, alone, -np.inf)
        return np.asarray(np.maximum.outer(as_dark, as_dark))

    def dead(self, rungs: Sequence[str], alone: Real) -> Real:
        """Volts across a part whose rung one breaks elsewhere: as that one alone, or as a sound
        unit, whatever the other feeds."""
        broken = self._breaks(self._elements(rungs))
        as_broken = np.where(broken, np.maximum(alone, alone[0]), -np.inf)
        return np.asarray(np.maximum.outer(as_broken, as_broken))

    def fed(self, rungs: Sequence[str]) -> Real:
        """Volts across a part that one breaks while the other feeds its rung."""
        of = self._elements(rungs)
        sound = self._left(of)[1]
        feeds = self.workspace.singles.most((self._moments[0][1][:, of] > DRAWS_SHARE * sound).any(-1))
        part = self.probe.point.component
        here = self._of(lambda fault: fault.component == part and fault.mode in OPENS)
        return _where(feeds > 0, np.where(here, self._in_scene("heat"), -np.inf))

    def _in_scene(self, name: str) -> Real:
        """How each alone explains the reading, were it taken in a standing scene: (hypotheses,)."""
        shown = scenes_of(self.workspace).look(name)
        dens = boxes(self.workspace.rows, shown.rows, self.number).density(self.value)
        return self.workspace.singles.most(self._log((shown.weights[..., None] * dens).sum(1).max(1)))

    def _quiet(self) -> np.ndarray:
        """Which hypotheses leave every switch as a sound unit at rest has it: (hypotheses,)."""
        singles, unit, closed = (self.workspace.singles, self.workspace.unit, self.workspace.rows.closed)
        switched = self.history.before(self.t_s)
        shelf, key = singles.shelves.of(GuessShelf), (switched, self.t_s)
        kept = shelf.quiet.get(key)
        if kept is None:
            relay = unit.relay
            contacts = (f"{relay.id}.no", f"{relay.id}.nc") if relay else ()
            switches = {*unit.control_of_switch, *contacts}
            idle = closed(int(scenes_of(self.workspace).look("rest").rows[0, 0, 0])) & switches
            now = singles.run(switched, self.t_s).at(self.t_s)
            rows, which = np.unique(now.rows[:, 0, 0], return_inverse=True)
            quiet = [float(closed(row) & switches == idle) for row in rows.tolist()]
            kept = shelf.quiet.keep(key, singles.most(np.array(quiet)[which]) > 0)
        return kept

    def _put_together(self, rungs: Sequence[str], now: Real) -> tuple[Real, np.ndarray]:
        """Amps of a part in some rungs, or of a feed: what the elements draw, and the rest; and
        which hypotheses change them, so that nothing else is to be said of two such.

        An element that a sound unit would feed now is fed if both feed it, else if either does;
        what each leaves of its current is left of what is fed.
        """
        of = self._elements(rungs, self.probe.point.component)
        left, sound = self._left(of)
        # Most stretches of most faults do nothing here: each kind of them is put together once.
        kinds, of_kind = _kinds(np.concatenate([now[..., of], left, now[..., -1:]], axis=-1))
        alone, left, here = kinds[..., : len(of)], kinds[..., len(of) : -1], kinds[..., -1]
        on = alone > DRAWS_SHARE * sound
        one, two = on[:, :, None], on[:, None]
        fed = np.where(on[:, of_kind[:1], None], one & two, one | two)
        drawn = (fed * left[:, :, None] * left[:, None] * sound).sum(axis=-1)
        rest = _both(here - alone.sum(axis=-1), of_kind[0])
        carried = self._of_both(self._as_read(drawn + rest), of_kind)
        moved = np.abs(here - here[:, of_kind[:1]]).max(axis=0) > DRAWS_SHARE * here.max()
        # What touches the frame is fed past its rung: only guessed by itself.
        strays = self._of(lambda fault: fault.mode == "grounded")
        return carried, (self.workspace.singles.most(moved[of_kind]) > 0) & ~strays

    def _of_both(self, by_kind: Real, of_kind: Index) -> Real:
        """Of every two hypotheses the best of their stretches: (hypotheses, hypotheses)."""
        firsts = self.workspace.singles.firsts
        of_one = np.maximum.reduceat(by_kind[of_kind], firsts, axis=0)
        return np.asarray(np.maximum.reduceat(of_one[:, of_kind], firsts, axis=1))

    def _added(self, now: Real) -> Real:
        """As much above or below the sound unit as the two together."""
        kinds, of_kind = _kinds(now)
        return self._of_both(self._as_read(_both(kinds[..., 0], of_kind[0])), of_kind)

    def _scaled(self, now: Real) -> Real:
        """As small a share of the sound unit as the two together."""
        kinds, of_kind = _kinds(now)
        volts, sound = kinds[..., 0], max(float(kinds[:, of_kind[0]].max()), 1e-9)
        return self._of_both(self._as_read(volts[:, :, None] * volts[:, None] / sound), of_kind)

    def ghosts(self, rungs: Sequence[str]) -> Real:
        """Volts across a part whose rung is broken elsewhere by one, while the other leaves it
        without current too."""
        of = self._elements(rungs)
        left, sound = self._left(of)
        most, now = self.workspace.singles.most, self._moments[0]
        off = (np.minimum(left[0], now[0][:, of] / sound) <= DRAWS_SHARE).all(axis=-1)
        idle, broken = most(off) > 0, self._breaks(of)
        return _where(idle, np.where(broken, self._ghost(MOST_GHOST_V), -np.inf))

    def _ghost(self, most_volts: float) -> Real:
        scale = np.array(self.workspace.rows.table.accuracy_fixed[self.number])
        low = density(self.value, np.array(0.0), np.array(most_volts), scale)
        return self._log(np.maximum(low, ghost_density(self.value, scale)))

    def _breaks(self, of: Sequence[int]) -> np.ndarray:
        """The hypotheses that break one of these elements' rungs elsewhere than where the reading
        was taken: (hypotheses,)."""
        elements = [self.workspace.unit.elements[n] for n in of]
        parts = {part for e in elements for part in (*e.rung, e.circuit, f"{e.id}.wire")}
        parts -= {self.probe.point.component}
        return self._of(lambda fault: fault.component in parts and fault.mode in OPENS)

    def _of(self, fits: Callable[[Fault], bool]) -> np.ndarray:
        """The hypotheses of such a fault: (hypotheses,)."""
        return np.array([any(map(fits, h.faults)) for h in self.workspace.singles.hypotheses])

    def _elements(self, rungs: Sequence[str], circuit: str | None = None) -> list[int]:
        """Which elements have one of these rungs or this circuit."""
        return [
            n
            for n, element in enumerate(self.workspace.unit.elements)
            if element.id in rungs or element.circuit == circuit
        ]

    @property
    def _amps(self) -> list[int]:
        """The probes of every element's amps."""
        index = self.workspace.rows.table.index
        return [index[A, element.id] for element in self.workspace.unit.elements]

    def _left(self, of: Sequence[int]) -> tuple[Real, Real]:
        """The share of their sound amps, with all heat called, that each variant leaves some
        elements, be it late, least and most: (2, variants, elements); and these: (elements,)."""
        numbers, scenes = [self._amps[n] for n in of], scenes_of(self.workspace)
        heat = scenes.look("heat")
        sound = np.maximum(self._read(heat, numbers)[0].max(axis=(0, 1)), 1e-9)
        shown = [
            self._read(one, numbers).max(axis=1) for one in (heat, scenes.look("late-heat"), self._shown)
        ]
        least = np.maximum.reduce([one.min(axis=1) for one in shown])
        most = np.maximum.reduce([one.max(axis=1) for one in shown])
        return np.stack([least, most]) / sound, sound

    @cached_property
    def _moments(self) -> list[Real]:
        """What each variant alone shows at every element's amps and where the reading was taken,
        least and most: (2, variants, elements + 1). In its likeliest state, and where something
        cycles, with as much closed as may be, and as little."""
        values = self._read(self._shown, [*self._amps, self.number])
        likely = self._shown.weights > LEAST_STATE
        likely[:, 0] = True
        may = likely[..., None, None]
        most = np.where(may, values, 0.0).max(axis=1)
        least = np.where(may, values, np.inf).min(axis=1)
        found = [values[:, 0], most, least] if likely[:, 1:].any() else [most]
        return [np.stack([at.min(axis=1), at.max(axis=1)]) for at in found]

    @property
    def _shown(self) -> Shown:
        run = self.workspace.singles.run(self.history.before(self.t_s), self.t_s)
        return run.at(self.t_s)

    def _read(self, shown: Shown, numbers: Sequence[int]) -> Real:
        """(variants, states, corners, probes)."""
        values = self.workspace.rows.values[shown.rows[..., None], np.array(numbers, dtype=np.intp)]
        return np.asarray(np.nan_to_num(values))

    def _as_read(self, ends: Real) -> Real:
        """Of what is shown at rated supply, somewhere between two ends (2, …), with the part's
        spread, at any supply."""
        table, number = self.workspace.rows.table, self.number
        nominal = np.maximum(np.clip(self.value, ends[0], ends[1]), 0.0)
        low = nominal[..., None] * table.spread_low[number] * (COARSE - COARSE_HALF_CELL)
        high = nominal[..., None] * table.spread_high[number] * (COARSE + COARSE_HALF_CELL)
        share, fixed = table.accuracy_share[number], table.accuracy_fixed[number]
        scale = ((low + high) / 2 * share + fixed) / WORST_CASE_SCALES
        return self._log(density(self.value, low, high, scale).max(axis=-1))

    def _log(self, dens: Floats) -> Real:
        return np.asarray(log_mixture(np.nan_to_num(dens), self.item.misread), dtype=np.float64)


def _kinds(ends: Real) -> tuple[Real, Index]:
    """Variants that read alike are of one kind: what each kind reads (2, kinds, …), and the kind
    of each variant."""
    rows = np.round(np.moveaxis(ends, 1, 0), ALIKE_PLACES)
    flat, of_kind = np.unique(rows.reshape(len(rows), -1), axis=0, return_inverse=True)
    return np.moveaxis(flat.reshape(len(flat), *rows.shape[1:]), 0, 1), of_kind.ravel()


def _both(ends: Real, sound: int) -> Real:
    """What every two show where they add up, above or below the sound: of (2, kinds)."""
    return np.asarray(ends[:, :, None] + ends[:, None] - ends[:, sound, None, None])


def _where(one: np.ndarray, other: Real) -> Real:
    """What the other shows (hypotheses,) beside those that one is of (hypotheses,), either way."""
    found = np.where(one[:, None], other[None, :], -np.inf)
    return np.asarray(np.maximum(found, found.T))
