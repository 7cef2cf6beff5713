"""Whether an element must draw by now, or its windows are still open."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from plentar.core.quantity import Quantity
from plentar.core.said import Said, clock, figure, say
from plentar.core.tables import thresholds as th
from plentar.core.timing.moves import stretch_of
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import Element
from plentar.core.unit.unit import Unit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState, called_since, longest_on_s, typical_grace_s

#: Below this a coil is not low but dead, V.
LEAST_COIL_VOLTS = 15.0
NOBODY_READ: Mapping[str, float] = MappingProxyType({})


@dataclass(frozen=True, slots=True)
class Waiting:
    """Why an element need not draw at this moment.

    ``elapsed_s`` and ``window_s`` are those of a window that is still open; 0 where nothing is on
    its way.
    """

    why: Said
    elapsed_s: float = 0.0
    window_s: float = 0.0
    #: Its window is over as far as anybody knows, and nobody read it off the part.
    typical: bool = False

    @property
    def early(self) -> bool:
        return self.window_s > 0 and not self.typical

    @property
    def text(self) -> Said:
        """The same as a sentence."""
        if self.typical:
            return say(
                "expected.waiting.s-after-call-due",
                elapsed_s=figure(self.elapsed_s),
                why=self.why,
                window_s=figure(self.window_s),
                window_s_2=clock(self.window_s + th.TYPED_WITHIN_S),
            )
        if not self.early:
            return self.why
        left_s = math.ceil(self.window_s - self.elapsed_s)
        return say(
            "expected.waiting.s-after-call-may",
            elapsed_s=figure(self.elapsed_s),
            why=self.why,
            window_s=figure(self.window_s),
            left_s=left_s,
        )


def waiting_for(
    unit: Unit,
    state: PanelState,
    element: Element,
    lead_s: float,
    coil_volts: Mapping[str, float] = NOBODY_READ,
) -> Waiting | None:
    """Why an element need not draw yet in ``state``; None when it must.

    ``coil_volts`` are those read under this call by device: a heater that gets less than it is made
    for warms later.
    """
    if state.power[element.circuit] != "on":
        return Waiting(say("expected.waiting.circuit-off", circuit=said_of(unit, element.circuit)))
    if element.id in state.stages_off:
        return Waiting(say("expected.waiting.left-off", element=said_of(unit, element.id)))
    for switch in unit.rung_switches(element):
        control = unit.control_of_switch[switch.id]
        since = called_since(unit, state, control)
        if since is None:
            return Waiting(say("expected.waiting.nothing-calls", control=said_of(unit, control.id)))
        elapsed = state.t_s - since + lead_s
        window = longest_on_s(unit, control, switch.id)
        window *= stretch_of(control, coil_volts.get(control.id))
        if elapsed < window + typical_grace_s(unit, control, switch.id):
            return Waiting(said_of(unit, switch.id), elapsed, window, elapsed >= window)
    return None


def coil_volts_of(evidence: Evidence, state: PanelState) -> dict[str, float]:
    """The newest AC volts at each thermal device's coil under the calls that stand."""
    found = {}
    for control in evidence.unit.controls:
        taken = evidence.at(f"{control.id}.coil", Quantity.VOLTS) if control.kind.thermal else []
        since = called_since(evidence.unit, state, control) if taken else None
        read = [
            t.reading.value
            for t in taken
            if since is not None and since <= t.reading.t_s and t.reading.value > LEAST_COIL_VOLTS
        ]
        if read:
            found[control.id] = read[-1]
    return found


def some_window_open(unit: Unit, state: PanelState, lead_s: float) -> bool:
    found = (waiting_for(unit, state, element, lead_s) for element in unit.elements)
    return any(waiting is not None and waiting.early for waiting in found)
