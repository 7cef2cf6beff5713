"""Which ranges are due where: plate and panel state → Due. One rule a kind of point.

What the plate alone does not tell, such as volts across a part just now, the model of the
healthy unit does.
"""

from __future__ import annotations

from collections.abc import Callable

from plentar.core.due import Due, blower, control, rung, supply
from plentar.core.due.by_model import FIXED, due_by_model
from plentar.core.evidence import Evidence
from plentar.core.points import Point
from plentar.core.quantity import Quantity
from plentar.core.ratings import Tolerance
from plentar.core.state import PanelState

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS
Rule = Callable[[Evidence, PanelState, Point, float], Due]


def due_at(
    evidence: Evidence,
    state: PanelState,
    point: Point,
    quantity: Quantity,
    lead_s: float = 0.0,
    tolerance: Tolerance | None = None,
) -> Due:
    """What ``quantity`` may be at ``point`` in ``state``; times since a call gain ``lead_s``."""
    if quantity is OHM and not state.proved_dead:
        return Due(point, quantity, absent="ohms only while every circuit is proved dead")
    if point.kind == "element" and quantity is A:
        school = tolerance or evidence.visit.settings.band
        return rung.element_amps(evidence, state, point, lead_s, school)
    rule = _RULES.get((point.kind, quantity))
    if rule is None and quantity in FIXED:
        return due_by_model(evidence, state, point, quantity, lead_s)
    if rule is None:
        return Due(point, quantity, absent="kept as evidence; nothing is due here by plate alone")
    return rule(evidence, state, point, lead_s)


_RULES: dict[tuple[str, Quantity], Rule] = {
    ("element", V): rung.element_volts,
    ("element", OHM): rung.element_ohms,
    ("switch", V): rung.across,
    ("limit", V): rung.across,
    ("link", V): rung.across,
    ("switch", A): rung.rung_part_amps,
    ("limit", A): rung.rung_part_amps,
    ("link", A): rung.rung_part_amps,
    ("switch", OHM): rung.contact_ohms,
    ("contact", OHM): rung.contact_ohms,
    ("limit", OHM): rung.continuity,
    ("link", OHM): rung.continuity,
    ("coil", OHM): control.coil_ohms,
    ("node-ground", OHM): rung.to_ground,
    ("circuit", V): supply.lug_volts,
    ("line", V): supply.lug_volts,
    ("circuit", A): supply.feed_amps,
    ("feed", A): supply.feed_amps,
    ("secondary", V): control.control_volts,
    ("terminal", V): control.terminal_volts,
    ("blower", A): blower.blower_amps,
    ("capacitor", Quantity.UF): blower.microfarads,
}
