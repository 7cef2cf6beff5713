"""The switches of a visit that changed anything, as the runs know them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from plentar.core.events import Calls, Event, Power
from plentar.core.state import ON, PanelState, changes
from plentar.core.unit import Unit


@dataclass(frozen=True, slots=True)
class History:
    """The switches that people moved, counted from the first that changed anything."""

    switched: tuple[Event, ...]
    began_s: float

    def time(self, t_s: float) -> float:
        """A time of the visit in this history."""
        return t_s - self.began_s

    def before(self, t_s: float) -> tuple[Event, ...]:
        """The switches up to a time of this history: what is read then depends on no later one."""
        return tuple(event for event in self.switched if event.t_s <= t_s)


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
