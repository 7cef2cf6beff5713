"""Which ranges are due where: plate and panel state → Expected. One rule a kind of point.

What the plate alone does not tell, such as volts across a part just now, the model of the
healthy unit does.
"""

from __future__ import annotations

from collections.abc import Callable

from plentar.core.expected import Asked, Expected, blower, control, rung, supply
from plentar.core.expected.by_model import FIXED, expected_by_model
from plentar.core.quantity import Quantity
from plentar.core.said import say
from plentar.core.unit.ratings import Tolerance
from plentar.core.visit.events import DRIVEN
from plentar.core.visit.evidence import Evidence, Taken

A, V, OHM, TONE = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TONE
Rule = Callable[[Evidence, Asked], Expected]


def expected_at(evidence: Evidence, asked: Asked) -> Expected:
    """What the quantity that is asked for may be at its point, in its setting."""
    point, quantity = asked.point, asked.quantity
    if quantity in DRIVEN and not asked.state.proved_dead:
        return Expected(
            point, quantity, absent=say("expected.rules.only-while-every-circuit", quantity=quantity)
        )
    rule = _RULES.get((point.kind, quantity))
    if rule is None and quantity in FIXED:
        rule = expected_by_model
    if rule is None:
        return Expected(point, quantity, absent=say("expected.rules.kept-evidence-nothing-due"))
    return rule(evidence, asked)


def expected_of(evidence: Evidence, taken: Taken, tolerance: Tolerance | None = None) -> Expected:
    """What was due where and when a reading was taken; worked out once for all that ask."""
    reading = taken.reading

    def work_out() -> Expected:
        return expected_at(
            evidence,
            Asked(taken.point, reading.quantity, taken.state, reading.lead_s, reading.driven, tolerance),
        )

    return evidence.once(("due", reading, tolerance), work_out)


_RULES: dict[tuple[str, Quantity], Rule] = {
    ("element", A): rung.element_amps,
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
    ("switch", TONE): rung.tone,
    ("contact", TONE): rung.tone,
    ("fuse", V): control.fuse_volts,
    ("fuse", OHM): rung.continuity,
    ("fuse", TONE): rung.tone,
    ("limit", TONE): rung.tone,
    ("link", TONE): rung.tone,
    ("element", TONE): rung.tone,
    ("node-ground", TONE): rung.tone,
    ("coil", OHM): control.coil_ohms,
    ("coil", Quantity.VOLTS_DC): control.dc_coil_volts,
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
