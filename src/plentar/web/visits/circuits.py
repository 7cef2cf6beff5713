"""The circuits of a unit: each on its scale of amps, what would pass, what to leave off until then."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from plentar.core.judgement import Finding
from plentar.core.said import listed
from plentar.core.supply.ampere import AmpereScale, ampere_scales
from plentar.core.unit.unit import Unit
from plentar.drawing.ampere import ampere_scale
from plentar.web.visits.view import BenchView
from plentar.words import chosen, phrase, text
from plentar.words.numbers import show_span


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
    said = phrase("visits.circuits.until-put-right", less=less.words) if less and not off else ""
    if off:
        said = phrase(
            "visits.circuits.left-off",
            off=listed(off),
            how=phrase("visits.circuits.is") if len(off) == 1 else phrase("visits.circuits.are"),
        )
    return CircuitCard(scale.id, Markup(ampere_scale(scale)), found, _passes(view.unit, scale), said, leave)


def _passes(unit: Unit, scale: AmpereScale) -> str:
    low, high = scale.needs.breaker_amps
    if low is None or high is None:
        return phrase("visits.circuits.no-standard-breaker-reaches")
    if high < low:
        return phrase("visits.circuits.plate-allows-most-least", high=f"{high:g}", low=f"{low:g}")
    breaker = show_span(low, high, "A", 2)
    sizes = (("copper", scale.needs.copper_awg), ("aluminium", scale.needs.aluminium_awg))
    wires = [phrase("visits.circuits.awg", awg=awg, metal=chosen(metal)) for metal, awg in sizes if awg]
    wire = (text(listed(wires, "or")) if wires else "") or phrase("visits.circuits.no-size-tables-lies")
    given = unit.circuit_by_id.get(scale.id)
    as_laid = (
        phrase("visits.circuits.this-one-lies")
        if given and given.conductor
        else phrase("visits.circuits.30-c-terminals-not")
    )
    return phrase("visits.circuits.breaker-conductor-least", breaker=breaker, wire=wire, as_laid=as_laid)
