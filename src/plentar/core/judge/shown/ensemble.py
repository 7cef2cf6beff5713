"""Some hypotheses with all their variants, and the runs worked out for them."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from functools import cached_property

import numpy as np

from plentar.core.circuit.faults import fault_of
from plentar.core.circuit.network import Index, Real
from plentar.core.judge.hypotheses.hypothesis import Hypothesis, Variant
from plentar.core.judge.shown.rows import Rows
from plentar.core.judge.shown.runs import Begun, Grown, Partly, VariantRun, at_rest
from plentar.core.judge.shown.shelf import Shelves
from plentar.core.visit.events import Event

#: A visit has a run for each state in which something was read: fewer kept than those, and all are made anew.
RUNS_KEPT = 20
#: How far a run looks past the last switch at first, and how much further each time it must.
LOOK_AHEAD_S, FURTHER = 1200.0, 3.0


class Ensemble:
    """Hypotheses, their variants one after the other, and what they show.

    ``owner`` (variants,) is each variant's hypothesis, ``firsts`` (hypotheses,) where the variants of
    each begin, ``shares`` (variants,) each one's part of its hypothesis.
    """

    def __init__(self, rows: Rows, hypotheses: Sequence[Hypothesis]) -> None:
        self.rows, self.hypotheses = rows, tuple(hypotheses)
        self.variants: list[Variant] = [v for h in self.hypotheses for v in h.variants]
        self.owner: Index = np.array(
            [n for n, h in enumerate(self.hypotheses) for _ in h.variants], dtype=np.intp
        )
        self.firsts: Index = np.flatnonzero(np.diff(self.owner, prepend=-1))
        self.shares: Real = np.array([variant.share for variant in self.variants])
        self.shelves = Shelves()
        self._blown: dict[int, Ensemble] = {}
        self._runs: OrderedDict[tuple[Event, ...], VariantRun] = OrderedDict()
        #: The run that was cut off last: its history, its end, where it began, how far it is.
        self._growing: tuple[tuple[Event, ...], float, Begun, Grown] | None = None

    def most(self, by_variant: Real) -> Real:
        """The largest of each hypothesis' variants: (hypotheses,)."""
        return np.asarray(np.maximum.reduceat(by_variant, self.firsts))

    def likeliest(self, by_variant: Real) -> Index:
        """Which variant of each hypothesis is the largest, the first of equals: (hypotheses,)."""
        fits = np.flatnonzero(by_variant >= self.most(by_variant)[self.owner])[::-1]
        found = np.empty(len(self.firsts), dtype=np.intp)
        found[self.owner[fits]] = fits
        return found

    def run(self, switched: tuple[Event, ...], t_s: float) -> VariantRun:
        """The run through a history (from ``history``) that reaches ``t_s`` at least."""
        found = self._runs.get(switched)
        if found is None or found.until_s < t_s:
            last_s = switched[-1].t_s if switched else 0.0
            ahead = LOOK_AHEAD_S
            while last_s + ahead < t_s:
                ahead *= FURTHER
            until_s = last_s + ahead
            if self._growing is None or self._growing[:2] != (switched, until_s):
                self._growing = (switched, until_s, self._begun(switched), Grown())
            _, _, begun, grown = self._growing
            found = VariantRun(self.rows, self.variants, begun, switched, until_s, grown=grown)
            self._growing = None
            self._runs[switched] = found
            if len(self._runs) > RUNS_KEPT:
                self._runs.popitem(last=False)
        return found

    def run_partly(self, switched: tuple[Event, ...], until_s: float, partly: Partly) -> VariantRun:
        """A run of some variants only; it is not kept."""
        return VariantRun(self.rows, self.variants, self._resting, switched, until_s, partly)

    def _begun(self, switched: tuple[Event, ...]) -> Begun:
        """Where to go on from: the longest run whose history this one begins with."""
        for count in range(len(switched) - 1, -1, -1):
            known = self._runs.get(switched[:count])
            if known is not None:
                return Begun(known.standing, count)
        return self._resting

    @cached_property
    def _resting(self) -> Begun:
        return Begun([at_rest(self.rows, variant.clock) for variant in self.variants])

    def blown(self, variant: int) -> Ensemble:
        """One variant with its control fuse blown: it stays so, whatever is called."""
        kept = self._blown.get(variant)
        if kept is None:
            open_fuse = (fault_of("control-fuse", "fuse", "open"),)
            whole, one = self.hypotheses[self.owner[variant]], self.variants[variant]
            fused = Variant(one.clock + open_fuse, tuple(corner + open_fuse for corner in one.corners), 1.0)
            with_fuse = Hypothesis(whole.faults, whole.weight, (fused,))
            kept = self._blown[variant] = Ensemble(self.rows, [with_fuse])
        return kept

    def shrink(self) -> None:
        """Forget what the steps keep, and all runs but the last."""
        self.shelves.clear()
        self._blown.clear()
        while len(self._runs) > 1:
            self._runs.popitem(last=False)

    @property
    def held_bytes(self) -> int:
        """About what its runs, and what the steps keep of it, take, B."""
        runs = sum(run.held_bytes for run in self._runs.values())
        fused = sum(ensemble.held_bytes for ensemble in self._blown.values())
        return runs + fused + self.shelves.held_bytes
