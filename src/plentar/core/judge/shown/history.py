"""The switches of a visit that changed anything, as the runs know them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from plentar.core.unit.unit import Unit
from plentar.core.visit.events import ON, Calls, Event
from plentar.core.visit.state import PanelState, changes


@dataclass(frozen=True, slots=True)
class SwitchHistory:
    """The switches that people moved, counted from the first that changed anything."""

    switched: tuple[Event, ...]
    began_s: float

    def time(self, t_s: float) -> float:
        return t_s - self.began_s

    def before(self, t_s: float) -> tuple[Event, ...]:
        """The switches up to a time of this history: what is read then depends on no later one."""
        return tuple(event for event in self.switched if event.t_s <= t_s)


def history_of(unit: Unit, events: Sequence[Event]) -> SwitchHistory:
    """What changed the panel; a call with a lead began that much earlier."""
    last = PanelState(0.0, {circuit.id: ON for circuit in unit.circuits})
    moved: list[Event] = []
    began_s, previous_s = 0.0, 0.0
    switches = [event for event in events if event.is_switch]
    for event, state in zip(switches, changes(unit, switches), strict=True):
        if (
            _live(state) == _live(last)
            and state.calls == last.calls
            and (state.lifted == last.lifted or not state.calls)
            and state.stages_off == last.stages_off
        ):
            continue
        kept = event
        if isinstance(event, Calls):
            # What was skipped may have moved the wires: here it is said, where it differs.
            kept = replace(event, lifted=None if state.lifted == last.lifted else state.lifted)
        last = state
        at_s = max(previous_s, event.began_s) if moved else event.began_s
        began_s = began_s if moved else at_s
        previous_s = at_s
        moved.append(kept.moved_to(at_s - began_s))
    return SwitchHistory(tuple(moved), began_s)


def _live(state: PanelState) -> dict[str, bool]:
    return {circuit: power == ON for circuit, power in state.power.items()}
