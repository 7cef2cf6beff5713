"""How well two faults at once may explain what was read, guessed from each alone.

Weighing a pair takes its own runs and networks; this tells which of some two thousand are worth
that. A pair shows a reading as that one of its two which changes it. Beyond that: where one keeps
every switch at rest, the other shows what it shows at rest; a rung that both break shows ghosts;
the better counts, so that rather too many are weighed than too few. Currents are put together
from what each feeds and what each breaks, and a feed carries the sum.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plentar.core.events import Reading
from plentar.core.judge.atlas import Atlas
from plentar.core.judge.complaints import scenes_of
from plentar.core.judge.history import History
from plentar.core.judge.likelihood import (
    MISREAD,
    SUPPLY,
    WORST_CASE_SCALES,
    A,
    Item,
    V,
    boxes,
    density,
)
from plentar.core.judge.probes import Probe
from plentar.core.network import Real

#: Whose current is the sum of what several parts draw.
CONTROL_FEEDS = frozenset({"terminal", "secondary", "primary"})
#: A fault that moves a reading's log likelihood by more than this changes the reading, nats.
CHANGES = 0.5
#: An element draws from this share of its sound current.
DRAWS_SHARE = 0.05
#: A place in a rung that is broken on both sides may read anything up to this.
MOST_GHOST_V = 70.0
#: The supply, in coarser cells.
COARSE = SUPPLY[1::3]
COARSE_HALF_CELL = 0.015


def together(atlas: Atlas, told: History, items: Sequence[Item]) -> Real:
    """Log likelihood of all items under every two hypotheses: (hypotheses, hypotheses)."""
    count = len(atlas.singles.hypotheses)
    found = np.zeros((count, count))
    for item in items:
        found += _either(atlas.singles.most(item.log.max(axis=1)))
        if isinstance(item.event, Reading):
            found += _gain(atlas, told, item, item.event)
    return found


def _either(alone: Real) -> Real:
    """Each reading as the fault that changes it has it; where both do, as the better of them."""
    changes = np.abs(alone - alone[0]) > CHANGES
    one, other = alone[:, None], alone[None]
    found = np.where(changes[:, None], one, np.where(changes, other, alone[0]))
    return np.asarray(np.where(changes[:, None] & changes, np.maximum(one, other), found))


def _gain(atlas: Atlas, told: History, item: Item, reading: Reading) -> Real | float:
    """How much better than by either alone what is guessed explains a reading, nats."""
    probe = atlas.rows.probe(reading.quantity, reading.at)
    if probe is None:
        return 0.0
    t_s = told.time(reading.t_s + reading.lead_s)
    key = ("together", told.before(t_s), t_s, reading.quantity, reading.at, reading.value)
    kept: Real | None = atlas.singles.kept.get(key)
    if kept is None:
        alone = atlas.singles.most(item.log.max(axis=1))
        gain = _Guess(atlas, told, t_s, item, reading, probe).best(alone) - _either(alone)
        kept = atlas.singles.keep(key, gain.astype(np.float32))
    return kept


@dataclass(frozen=True)
class _Guess:
    """One live reading under every two hypotheses: log likelihoods (hypotheses, hypotheses)."""

    atlas: Atlas
    told: History
    t_s: float
    item: Item
    reading: Reading
    number: int

    def best(self, alone: Real) -> Real:
        """The best of what can be guessed, what each shows ``alone`` (hypotheses,) among it; where
        both change a current, what they do together instead."""
        unit, probe = self.atlas.unit, self.probe
        rungs = [e.id for e in unit.elements if probe.point.component in e.rung]
        found = _either(alone)
        if probe.quantity is A and (rungs or probe.point.kind in ("circuit", "feed")):
            carried, now = self.carried(rungs), self._now(self.number)
            changes = np.abs(now - now[0]) > DRAWS_SHARE * now.max()
            both = changes[:, None] & changes
            found = np.where(both, carried, np.maximum(found, carried))
        elif probe.quantity is A and probe.point.kind in CONTROL_FEEDS:
            found = np.maximum(found, self.added())
        elif probe.quantity is V and rungs:
            found = np.maximum(found, self.ghosts(rungs))
        return np.asarray(np.maximum(found, self.at_rest()))

    @property
    def probe(self) -> Probe:
        """What is read where."""
        return self.atlas.rows.table.probes[self.number]

    def at_rest(self) -> Real:
        """What each shows at rest, beside every fault that keeps the unit at rest."""
        quiet = self._quiet()
        if not quiet.any() or quiet.all():
            return np.full((len(quiet), len(quiet)), -np.inf)
        rest = scenes_of(self.atlas).look("rest")
        low, high, scale = boxes(self.atlas.rows, rest.rows, self.number)
        dens = density(self.reading.value, low, high, scale)
        log = self.atlas.singles.most(self._log((rest.weights[..., None] * dens).sum(1).max(1)))
        one = np.where(quiet[:, None], log[None, :], -np.inf)
        return np.asarray(np.maximum(one, one.T))

    def _quiet(self) -> np.ndarray:
        """Which hypotheses leave every switch as a sound unit at rest has it: (hypotheses,)."""
        singles, unit, closed = self.atlas.singles, self.atlas.unit, self.atlas.rows.closed
        switched = self.told.before(self.t_s)
        key = ("quiet", switched, self.t_s)
        kept: np.ndarray | None = singles.kept.get(key)
        if kept is None:
            relay = unit.blower.relay if unit.blower else None
            contacts = (f"{relay.id}.no", f"{relay.id}.nc") if relay else ()
            switches = {*unit.control_of_switch, *contacts}
            idle = closed(int(scenes_of(self.atlas).look("rest").rows[0, 0, 0])) & switches
            now = singles.run(switched, self.t_s).at(self.t_s)
            rows, which = np.unique(now.rows[:, 0, 0], return_inverse=True)
            quiet = [float(closed(row) & switches == idle) for row in rows.tolist()]
            kept = singles.keep(key, singles.most(np.array(quiet)[which]) > 0)
        return kept

    def carried(self, rungs: Sequence[str]) -> Real:
        """Amps of a part in some rungs, or of a feed: what the elements draw, and the rest.

        An element that a sound unit would feed now is fed if both feed it, else if either does;
        what each leaves of its current is left of what is fed.
        """
        now, sound, whole = self._drawn()
        on = now > DRAWS_SHARE * sound
        fed = np.where(on[0], on[:, None] & on[None], on[:, None] | on[None])
        drawn = fed * whole[:, None] * whole[None] * sound
        circuit = self.probe.point.component
        of = [
            n for n, element in enumerate(self.atlas.unit.elements)
            if element.id in rungs or element.circuit == circuit
        ]  # fmt: skip
        rest = self._now(self.number) - now[:, of].sum(axis=-1)
        amps = drawn[..., of].sum(axis=-1) + rest[:, None] + rest[None] - rest[0]
        return self._as_read(np.maximum(amps, 0.0))

    def _drawn(self) -> tuple[Real, Real, Real]:
        """Of every element: amps now (hypotheses, elements), a sound unit's with all heat called
        (elements,), and the share of that which each hypothesis leaves, be it late."""
        index, scenes = self.atlas.rows.table.index, scenes_of(self.atlas)
        numbers = [index[A, element.id] for element in self.atlas.unit.elements]
        now = np.stack([self._now(number) for number in numbers], axis=-1)
        hot = [
            np.stack([self._of(scenes.look(name).rows, number) for number in numbers], axis=-1)
            for name in ("heat", "late-heat")
        ]
        sound = np.maximum(hot[0][0], 1e-9)
        return now, sound, np.maximum.reduce([now, *hot]) / sound

    def added(self) -> Real:
        """As much above or below the sound unit as the two together."""
        now = self._now(self.number)
        return self._as_read(np.maximum(now[:, None] + now[None] - now[0], 0.0))

    def ghosts(self, rungs: Sequence[str]) -> Real:
        """Volts in a rung that both break."""
        now, sound, whole = self._drawn()
        of = [n for n, element in enumerate(self.atlas.unit.elements) if element.id in rungs]
        dead = (now * whole)[:, of].max(axis=-1) <= DRAWS_SHARE * sound[of].max()
        scale = np.array(self.atlas.rows.table.accuracy_fixed[self.number])
        dens: Real = np.asarray(
            density(self.reading.value, np.array(0.0), np.array(MOST_GHOST_V), scale), float
        )
        return np.where(dead[:, None] & dead[None], self._log(dens), -np.inf)

    def _now(self, number: int) -> Real:
        """What each hypothesis alone shows at a probe now."""
        run = self.atlas.singles.run(self.told.before(self.t_s), self.t_s)
        return self._of(run.at(self.t_s).rows, number)

    def _of(self, rows: np.ndarray, number: int) -> Real:
        """Each hypothesis in that stretch of it which explains the reading best, in its likeliest
        state: (hypotheses,)."""
        of = self.atlas.singles.likeliest(self.item.log.max(axis=1))
        values = self.atlas.rows.values[rows[of, 0], number]
        return np.asarray(np.nan_to_num((values.min(axis=-1) + values.max(axis=-1)) / 2))

    def _as_read(self, nominal: Real) -> Real:
        """Of what is shown at rated supply, with the part's spread, at any supply."""
        table, number = self.atlas.rows.table, self.number
        low = nominal[..., None] * table.spread_low[number] * (COARSE - COARSE_HALF_CELL)
        high = nominal[..., None] * table.spread_high[number] * (COARSE + COARSE_HALF_CELL)
        share, fixed = table.accuracy_share[number], table.accuracy_fixed[number]
        scale = ((low + high) / 2 * share + fixed) / WORST_CASE_SCALES
        return self._log(density(self.reading.value, low, high, scale).max(axis=-1))

    def _log(self, dens: Real) -> Real:
        return np.asarray(
            np.log((1 - MISREAD) * np.nan_to_num(dens) + np.exp(self.item.misread_log))
        )
