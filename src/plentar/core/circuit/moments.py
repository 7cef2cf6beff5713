"""The unit through a visit's events: every settled moment, from long before the visit on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from plentar.core.circuit.clockwork import Clock, Draw
from plentar.core.circuit.faults import Effects
from plentar.core.circuit.movers import Moment
from plentar.core.circuit.solved import Networks
from plentar.core.circuit.wiring import Wiring
from plentar.core.tables.model import REST_BEFORE_S
from plentar.core.visit.events import ON, Event
from plentar.core.visit.state import PanelState, changes


def run(
    wiring: Wiring, effects: Effects, events: Sequence[Event], t_s: float, draw: Draw | None = None
) -> Moment:
    """The unit at ``t_s``, the events at that moment included."""
    moments = list(moments_until(wiring, effects, events, t_s, draw))
    return moments[-1]


def moments_until(
    wiring: Wiring,
    effects: Effects,
    events: Sequence[Event],
    t_s: float,
    draw: Draw | None = None,
    networks: Networks | None = None,
) -> Iterator[Moment]:
    """Every settled moment up to ``t_s``, in order; the last is that of ``t_s``.

    ``draw`` says where in its window a contact acts; the middle if not given. ``networks`` are those
    solved before.
    """
    clock = Clock(wiring, effects, draw or _middle, networks)
    unit = wiring.unit
    start = PanelState(-REST_BEFORE_S, {circuit.id: ON for circuit in unit.circuits})
    panels = [start, *(p for p in changes(unit, events) if p.t_s <= t_s)]
    for now, after in zip(panels, [*panels[1:], None], strict=True):
        clock.set_panel(now)
        yield from clock.until(t_s if after is None else after.t_s)
    yield clock.moment()


def _middle(_contact: str, _closes: bool) -> float:
    return 0.5
