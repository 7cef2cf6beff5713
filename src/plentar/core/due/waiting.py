"""Whether an element must draw by now, or its windows are still open."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.parts import Element
from plentar.core.quantity import show
from plentar.core.state import PanelState, called_since, longest_on_s
from plentar.core.unit import Unit


@dataclass(frozen=True, slots=True)
class Waiting:
    """Why an element need not draw at this moment; ``early`` when its window is still open."""

    text: str
    early: bool = False


def waiting_for(unit: Unit, state: PanelState, element: Element, lead_s: float) -> Waiting | None:
    """Why an element need not draw yet in ``state``; None when it must."""
    if state.power[element.circuit] != "on":
        return Waiting(f"circuit {element.circuit} is off")
    for switch in unit.rung_switches(element):
        control = unit.control_of_switch[switch.id]
        since = called_since(unit, state, control)
        if since is None:
            return Waiting(f"nothing calls for {control.id}")
        elapsed = state.t_s - since + lead_s
        window = longest_on_s(unit, control, switch.id)
        if elapsed < window:
            text = f"{show(elapsed)} s after the call; {switch.id} may take up to {show(window)} s"
            return Waiting(text, early=True)
    return None


def some_window_open(unit: Unit, state: PanelState, lead_s: float) -> bool:
    """Some stage that is called for may still be on its way."""
    found = (waiting_for(unit, state, element, lead_s) for element in unit.elements)
    return any(waiting is not None and waiting.early for waiting in found)
