"""The unit's model through a visit: predictions by time, each worked out once.

A trajectory is the run of settled moments after the switches that people moved; it depends on
those alone, so that reading a meter costs a look-up.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.circuit.faults import Effects, Fault, effects_of
from plentar.core.circuit.moments import moments_until
from plentar.core.circuit.movers import Moment
from plentar.core.circuit.predict import Prediction, readings_of
from plentar.core.circuit.wiring import Wiring, wire_up
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event
from plentar.core.visit.state import as_it_was

#: How far a trajectory looks past the last switch; every printed window is over long before.
HORIZON_S = 3600.0
#: About what a moment takes: its network's answer, and some two hundred readings of it.
MOMENT_BYTES = 40_000


@dataclass
class _Trajectory:
    wiring: Wiring
    effects: Effects
    moments: list[Moment]
    predictions: dict[int, Prediction] = field(default_factory=dict)

    def at(self, t_s: float) -> Prediction:
        """The prediction of the moment that holds at ``t_s``."""
        index = max(0, bisect_right(self.moments, t_s, key=lambda moment: moment.t_s) - 1)
        if index not in self.predictions:
            moment = self.moments[index]
            readings = tuple(readings_of(self.wiring, self.effects, moment))
            self.predictions[index] = Prediction(moment, readings)
        return self.predictions[index]


def model_at(unit: Unit, events: Iterable[Event], t_s: float, faults: Sequence[Fault] = ()) -> Prediction:
    """What the nominal unit with these faults shows at ``t_s``."""
    wiring = wire_up(unit)
    moved = as_it_was(e for e in events if e.is_switch)
    switched = tuple(event for event in moved if event.t_s <= t_s)
    key = (unit, tuple(faults), switched)

    def run() -> _Trajectory:
        effects = effects_of(wiring, faults)
        until = (switched[-1].t_s if switched else 0.0) + HORIZON_S
        return _Trajectory(wiring, effects, list(moments_until(wiring, effects, switched, until)))

    return _TRAJECTORIES.get_or_make(key, run).at(t_s)


_Key = tuple[Unit, tuple[Fault, ...], tuple[Event, ...]]
_TRAJECTORIES: Cache[_Key, _Trajectory] = Cache(
    "trajectories", 64 * MEGABYTE, lambda run: MOMENT_BYTES * len(run.moments)
)
