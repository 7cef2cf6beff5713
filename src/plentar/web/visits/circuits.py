"""The circuits of a unit: each on its scale of amps, what would pass, what to leave off until then."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from plentar.core.judgement import Finding
from plentar.core.supply.ampere import AmpereScale, ampere_scales
from plentar.core.unit.unit import Unit
from plentar.drawing.ampere import ampere_scale
from plentar.web.visits.view import BenchView


@dataclass(frozen=True, slots=True)
class CircuitCard:
    """One circuit: its drawing, what was found of it, what would pass, the stage to leave off."""

    id: str
    drawn: Markup
    findings: tuple[Finding, ...]
    passes: str
    meanwhile: str
    leave_off: tuple[str, ...]


def circuit_cards(view: BenchView) -> list[CircuitCard]:
    return [_card(view, scale) for scale in ampere_scales(view.evidence)]


def _card(view: BenchView, scale: AmpereScale) -> CircuitCard:
    found = tuple(f for f in view.judgement.findings if f.component == scale.id)
    less, off = scale.meanwhile, scale.left_off
    leave = less.elements if less and not off else ()
    said = f"Until it is put right, {less.words}" if less and not off else ""
    if off:
        said = f"{' and '.join(off)} {'is' if len(off) == 1 else 'are'} left off"
    return CircuitCard(scale.id, Markup(ampere_scale(scale)), found, _passes(view.unit, scale), said, leave)


def _passes(unit: Unit, scale: AmpereScale) -> str:
    low, high = scale.needs.breaker_amps
    if low is None or high is None:
        return "no standard breaker reaches what it needs"
    if high < low:
        return f"the plate allows {high:g} A at most, and {low:g} A is the least: read the plate again"
    breaker = f"{low:g} A" if low == high else f"{low:g} … {high:g} A"
    sizes = (("copper", scale.needs.copper_awg), ("aluminium", scale.needs.aluminium_awg))
    wires = [f"{awg} AWG {metal}" for metal, awg in sizes if awg]
    wire = " or ".join(wires) or "no size of the tables, as it lies"
    given = unit.circuit_by_id.get(scale.id)
    as_laid = "as this one lies" if given and given.conductor else "at 30 °C, terminals not given"
    return f"breaker {breaker}; conductor at least {wire}, {as_laid}"
