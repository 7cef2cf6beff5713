"""What the readings show to be drawing heat, and whether anything asks for it.

A clamp shows heat at an element, at a switch, limit or link of its rung, or in the feed that it
shares with others. Whoever asks whether heat runs asks here, so that it is seen wherever it shows.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th
from plentar.core.unit.parts import HEAT_CALLS, Element
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import PanelState, all_off_s, called_since

A = Quantity.AMPS
#: A feed shows heat from this share of the smallest element that hangs on it.
FEED_SHARE = 0.5


@dataclass(frozen=True, slots=True)
class Draw:
    """Amps that heat draws at a point: the elements that may draw them, by what was read."""

    taken: Taken
    elements: tuple[Element, ...]
    amps: float


def dead_blower_amps(unit: Unit) -> float:
    """Below this the motor stands still, as far as the plate tells."""
    return unit.blower.still_below_amps if unit.blower else th.DEAD_AMPS


def motor_amps(unit: Unit, circuit_id: str) -> float:
    blower = unit.blower
    if blower is None or blower.circuit != circuit_id:
        return 0.0
    return blower.fla or blower.running_amps or 0.0


def draws(evidence: Evidence) -> tuple[Draw, ...]:
    """The newest reading of each point that shows heat drawn, oldest first."""
    return evidence.once("draws", lambda: tuple(_draws(evidence)))


def _draws(evidence: Evidence) -> Iterator[Draw]:
    newest = {
        taken.point.name: taken for taken in evidence.taken if taken.counts and taken.reading.quantity is A
    }
    for taken in sorted(newest.values(), key=lambda t: t.reading.t_s):
        draw = draw_of(evidence, taken)
        if draw is not None:
            yield draw


def draw_of(evidence: Evidence, taken: Taken) -> Draw | None:
    """The heat that one reading of amps shows; None where it shows none."""
    unit, point, amps = evidence.unit, taken.point, taken.reading.value
    if point.kind == "element":
        element = unit.element_by_id[point.component]
        return Draw(taken, (element,), amps) if amps >= floor_of(element) else None
    if point.kind in ("switch", "limit", "link"):
        through = tuple(unit.elements_through(point.component))
        if not through or amps < min(map(floor_of, through)):
            return None
        return Draw(taken, through, amps)
    if point.kind in ("circuit", "feed"):
        fed = tuple(unit.elements_on(point.component))
        heat = amps - motor_amps(unit, point.component)
        if not fed or heat < FEED_SHARE * min(e.rating.amps(e.rated_volts) for e in fed):
            return None
        return Draw(taken, fed, amps)
    return None


def floor_of(element: Element) -> float:
    """Below these amps an element draws nothing."""
    return element.rating.dead_below_amps(element.rated_volts)


def asked_for(unit: Unit, state: PanelState, element: Element) -> bool:
    """Its circuit is on and every device that closes its rung is called."""
    if state.power[element.circuit] != ON or element.id in state.stages_off:
        return False
    return all(
        called_since(unit, state, unit.control_of_switch[switch.id]) is not None
        for switch in unit.rung_switches(element)
    )


def may_linger(unit: Unit, state: PanelState, element: Element, lead_s: float = 0.0) -> bool:
    """What held it may still be dropping out: a call that ended less than all off windows ago, and what
    was seen then may have been typed a minute later."""
    if state.power[element.circuit] != ON:
        return False
    ended = [s for call, s in state.ended_s.items() if call in HEAT_CALLS]
    return bool(ended) and state.t_s + lead_s - max(ended) < all_off_s(unit) + th.TYPED_WITHIN_S


def same_setting(one: PanelState, other: PanelState) -> bool:
    """Nothing was switched between two readings but what leaves calls and power alike."""
    same = one.calls == other.calls and one.power == other.power and one.since_s == other.since_s
    return same and one.bridged == other.bridged
