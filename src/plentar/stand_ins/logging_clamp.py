"""A clamp that logs, on a hidden unit: for practice and tests without a meter."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from plentar.core.circuit.network import Real
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event
from plentar.stand_ins.hidden import hidden_unit

NOISE_SHARE, NOISE_AMPS = 0.02, 0.03
#: How far the unit is worked out past the last switch that somebody moved, s.
AHEAD_S = 3600.0


class LoggingClamp:
    """Amps at some points of one hidden unit, at any time of any visit to it."""

    def __init__(
        self, unit: Unit, fault_ids: Sequence[str], points: Sequence[str], seed: int | str = 0
    ) -> None:
        self.hidden, self.points = hidden_unit(unit, fault_ids, seed), tuple(points)
        self._worked_out: tuple[tuple[Event, ...], float] | None = None
        self._from_s: Real = np.empty(0)
        self._amps: Real = np.empty((0, len(points)))

    def log(
        self,
        events: Sequence[Event],
        t_s: Real,
        random: np.random.Generator,
        noise_share: float = NOISE_SHARE,
    ) -> Real:
        """Samples (times, points) at rising times of a visit, each with its noise."""
        true = self.true(events, t_s)
        noise = random.standard_normal(true.shape) * (noise_share * true + NOISE_AMPS)
        return np.maximum(0.0, true + noise)

    def true(self, events: Sequence[Event], t_s: Real) -> Real:
        """The same without the meter's noise."""
        self._work_out(events, float(t_s[-1]))
        at = np.searchsorted(self._from_s, t_s, side="right") - 1
        return np.asarray(self._amps[np.maximum(at, 0)])

    def _work_out(self, events: Sequence[Event], until_s: float) -> None:
        """How the unit stands, until the switches change or the time runs out."""
        switched = tuple(e for e in events if e.is_switch)
        if self._worked_out and self._worked_out[0] == switched and self._worked_out[1] >= until_s:
            return
        until_s += AHEAD_S
        standings = list(self.hidden.through(switched, until_s))
        amps = self.hidden.inside.meter.amps
        self._from_s = np.array([now.t_s for now in standings])
        self._amps = np.array([[amps(at, now) for at in self.points] for now in standings])
        self._worked_out = (switched, until_s)
