"""Which complaints each fault gives rise to, by running it.

A caller names one complaint: a fault that gives rise to several is spread over them. One that
gives rise to another only is unlikely, not impossible.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from plentar.core.circuit.network import Real
from plentar.core.judge.shown.runs import Phase
from plentar.core.judge.shown.scenes import Scenes, first_corner, scenes_of
from plentar.core.judge.shown.workspace import Workspace
from plentar.core.quantity import Quantity
from plentar.core.tables.assumptions import (
    BURNT_WATTS,
    ENOUGH_HEAT_SHARE,
    LEAST_SHARE,
    NO_HEAT_SHARE,
    NO_POWER_V,
)
from plentar.core.tables.model import CONTACT_OHMS, HEATING_AMPS_SHARE
from plentar.core.unit.parts import Switch

CHECK_UP = "check-up"
A, V = Quantity.AMPS, Quantity.VOLTS


@dataclass(frozen=True, slots=True)
class Complaints:
    """What each single hypothesis gives rise to, in some stretch of its sizes: (hypotheses,)."""

    by_hypothesis: tuple[frozenset[str], ...]
    held_bytes: int = 0

    def clear(self) -> None:
        """It stays: little, and long to work out."""


def complaint_likelihood(workspace: Workspace, complaint: str | None) -> Real:
    """For every single hypothesis: the likelihood of this complaint."""
    fits = complaints_by_hypothesis(workspace)
    if complaint is None or complaint == CHECK_UP:
        return np.ones(len(fits))
    return np.array(
        [max(LEAST_SHARE, 1 / len(found)) if complaint in found else LEAST_SHARE for found in fits]
    )


def complaints_by_hypothesis(workspace: Workspace) -> tuple[frozenset[str], ...]:
    """The complaints that each single hypothesis gives rise to, in some stretch of its sizes."""

    def run() -> Complaints:
        by_variant = _Complaints(scenes_of(workspace)).by_variant()
        joined: list[set[str]] = [set() for _ in workspace.singles.hypotheses]
        for owner, found in zip(workspace.singles.owner, by_variant, strict=True):
            joined[owner] |= found
        return Complaints(tuple(map(frozenset, joined)))

    return workspace.shelves.of(Complaints, run).by_hypothesis


class _Complaints:
    """Reads complaints off the scenes."""

    def __init__(self, scenes: Scenes) -> None:
        self.scenes, self.unit = scenes, scenes.unit
        self.workspace, self.rows = scenes.workspace, scenes.workspace.rows
        self.index = self.rows.table.index

    def by_variant(self) -> list[set[str]]:
        """For every variant, the complaints."""
        count = len(self.workspace.singles.variants)
        found: list[set[str]] = [set() for _ in range(count)]
        for name, mask in self._masks():
            for fitting in np.flatnonzero(mask):
                found[fitting].add(name)
        for v in range(count):
            found[v].update(self._by_time(v))
        return found

    def _masks(self) -> Iterator[tuple[str, np.ndarray]]:
        late = self._watts("late-heat")
        rated = sum(e.rated_watts for e in self.unit.elements)
        yield "no-heat", late < NO_HEAT_SHARE * rated
        yield "not-enough-heat", late < ENOUGH_HEAT_SHARE * self._allowed_watts()
        yield "heat-will-not-stop", self._draws("heat-ended")
        yield "no-power", self._mean("rest", V, "R") < NO_POWER_V
        for name in ("fan", "cooling"):
            if name in self.scenes.scenes:
                yield "heat-in-cooling", self._draws(name)
        for circuit in self.unit.circuits:
            if circuit.breaker_amps:
                over = self._mean("late-heat", A, circuit.id) > circuit.breaker_amps
                yield "breaker-trips-or-burnt", over
        yield "breaker-trips-or-burnt", self._burnt()

    def _by_time(self, v: int) -> Iterator[str]:
        """Complaints that show in what moved when."""
        scenes, phases = self.scenes, self.scenes.singles.off.phases[v]
        heated = [p for p in phases if 0 <= p.t_s <= scenes.heat_s]
        ended = [p for p in phases if p.t_s > scenes.ended_s]
        fan = scenes.singles.fan.phases[v] if "fan" in scenes.scenes else []
        cooling = scenes.singles.cooling.phases[v] if "cooling" in scenes.scenes else []
        if any(p.fuse_blown for p in (*phases, *fan, *cooling)):
            yield "control-fuse-blows"
        if any(p.cycling or p.chatter for p in heated):
            yield "clicking"
        if self.unit.blower is not None:
            if not heated[-1].blower_runs or (fan and not fan[-1].blower_runs):
                yield "blower-will-not-run"
            if (ended or heated)[-1].blower_runs:
                yield "blower-will-not-stop"
        yield from self._late(heated, v)
        if any(self._late_off(ended)):
            yield "heat-will-not-stop"

    def _late(self, heated: list[Phase], v: int) -> Iterator[str]:
        effects = self.rows.effects(self.workspace.singles.variants[v].clock)
        on_at: dict[str, float] = {}
        for phase in heated:
            for switch in phase.closed & self.unit.switch_by_id.keys():
                if switch not in effects.network.always_open:
                    on_at.setdefault(switch, phase.t_s)
        windows = {s.id: s.on_s.high for s in self._element_switches()}
        chained = {s.id: self.scenes.on_s for c in self.unit.controls if c.through for s in c.switches}
        late = [s for s, t in on_at.items() if s in windows and t > (windows | chained)[s]]
        if late:
            yield "not-enough-heat"
        first = min((t for s, t in on_at.items() if s in windows), default=0.0)
        if windows and first > min(windows.values()):
            yield "slow-to-start"

    def _late_off(self, ended: list[Phase]) -> Iterator[bool]:
        chained = {s.id for c in self.unit.controls if c.through for s in c.switches}
        for before, after in pairwise(ended):
            for switch in self._element_switches():
                off = switch.id in before.closed and switch.id not in after.closed
                longest = self.scenes.off_s if switch.id in chained else switch.off_s.high
                yield off and after.t_s - self.scenes.ended_s > longest

    def _element_switches(self) -> list[Switch]:
        return [s for s in self.unit.switch_by_id.values() if s.role == "element"]

    def _mean(self, scene: str, quantity: Quantity, at: str) -> np.ndarray:
        shown = self.scenes.look(scene)
        values = self.rows.values[first_corner(shown), self.index[quantity, at]]
        return np.asarray((shown.weights * values).sum(axis=1))

    def _draws(self, scene: str) -> np.ndarray:
        """Some element draws."""
        found = [
            self._mean(scene, A, e.id) > HEATING_AMPS_SHARE * e.rating.amps(e.rated_volts)
            for e in self.unit.elements
        ]
        return np.asarray(np.any(found, axis=0))

    def _watts(self, scene: str) -> np.ndarray:
        return np.asarray(
            np.sum(
                [self._mean(scene, A, e.id) * self._mean(scene, V, e.circuit) for e in self.unit.elements],
                axis=0,
            )
        )

    def _allowed_watts(self) -> np.ndarray:
        return np.asarray(
            np.sum(
                [self._mean("late-heat", V, e.circuit) ** 2 / e.rating.hot_ohms for e in self.unit.elements],
                axis=0,
            )
        )

    def _burnt(self) -> np.ndarray:
        """A contact or feed makes more heat than a joint may."""
        found = np.zeros(len(self.workspace.singles.variants), dtype=bool)
        for v, variant in enumerate(self.workspace.singles.variants):
            for fault in variant.clock:
                if fault.mode not in ("burnt", "loose"):
                    continue
                ohms = (fault.size or 0.0) + CONTACT_OHMS
                amps = float(self._mean("late-heat", A, fault.component)[v])
                found[v] |= amps**2 * ohms > BURNT_WATTS
        return found
