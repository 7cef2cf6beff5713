"""The pad at a point of a visit, and what a number that is typed or stored there means."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from markupsafe import Markup

from plentar.core.expected import Asked
from plentar.core.expected.rules import expected_at
from plentar.core.judgement import ReadingJudgement
from plentar.core.quantity import Quantity
from plentar.core.supply.ampere import ampere_scales
from plentar.core.supply.control_budget import control_budget
from plentar.core.unit.points import Point, device_at, resolve
from plentar.core.visit.events import DRIVEN, DRIVEN_KINDS
from plentar.core.visit.state import state_in_words
from plentar.core.visit.windows import wait_s
from plentar.drawing.ampere import ampere_scale
from plentar.drawing.budget import budget_stack
from plentar.web.visits.guided_tests import tests_at
from plentar.web.visits.log_rows import LogRow
from plentar.web.visits.pad import PadView, VerdictView
from plentar.web.visits.past import past_at
from plentar.web.visits.view import BenchView

#: How many earlier readings of a point the pad repeats; the log has them all.
SHOWN_BEFORE = 3


def pad_at(
    view: BenchView,
    at: str,
    quantity: str | None = None,
    typed: str = "",
    error: str = "",
    driven: bool = False,
) -> PadView:
    """The pad at a point; raises BadInput when there is no such point."""
    asked = _asked(view, at, quantity, driven)
    point, chosen = asked.point, asked.quantity
    coil = f"{device_at(view.unit, at)}.coil" if _by_driving(asked) else ""
    return PadView(
        **_due(view, asked),
        error=error,
        link=view.link(at),
        typed=typed,
        gated=view.gated(chosen),
        history=_history(view, at),
        driven=asked.driven if coil else None,
        coil=coil,
        coil_off=coil in view.state.coils_off,
        fed_at_least_s=wait_s(view.unit, point, (), view.state, driven=True) if coil else 0.0,
        low_z=chosen in (Quantity.VOLTS, Quantity.VOLTS_DC) and not view.state.live,
        to_ground=_to_ground(view, point),
        tests=tuple(tests_at(view.unit, point)),
        scale=_scale(view, point),
        past="" if typed or error else past_at(view.record, point, chosen, view.state),
    )


def said_at(
    view: BenchView, at: str, quantity: str | None, value: float | None, error: str = "", driven: bool = False
) -> VerdictView:
    """What a number would mean at a point; raises BadInput when there is no such point."""
    asked = _asked(view, at, quantity, driven)
    return VerdictView(**_due(view, asked), value=value, error=error)


def said_of(judged: ReadingJudgement) -> VerdictView:
    taken, reading = judged.taken, judged.taken.reading
    return VerdictView(
        point=taken.point,
        quantity=reading.quantity,
        due=judged.verdict.due,
        value=reading.value,
        state=str(state_in_words(taken.state, driven=reading.driven)),
        stored=True,
        not_counted=str(taken.refused),
    )


def _asked(view: BenchView, at: str, quantity: str | None, driven: bool) -> Asked:
    point = resolve(view.unit, at)
    chosen = Quantity(quantity) if quantity in list(point.quantities) else _usual(view, point)
    asked = Asked(point, chosen, view.state, driven=driven)
    return asked if _by_driving(asked) else replace(asked, driven=False)


def _due(view: BenchView, asked: Asked) -> dict[str, Any]:
    return {
        "point": asked.point,
        "quantity": asked.quantity,
        "due": expected_at(view.evidence, asked),
        "state": state_in_words(view.state, driven=asked.driven),
    }


def _scale(view: BenchView, point: Point) -> Markup:
    """Beside the supply its scale of amps, beside the transformer its stack."""
    if point.kind in ("circuit", "line", "feed"):
        owner = point.component.removesuffix(".line")
        own = (one for one in ampere_scales(view.evidence) if one.id == owner)
        return Markup("".join(map(ampere_scale, own)))
    if point.kind in ("secondary", "primary"):
        return Markup(budget_stack(control_budget(view.unit)))
    return Markup("")


def _to_ground(view: BenchView, point: Point) -> str:
    """Where a part is read to ground, its wires lifted; empty where that is not asked."""
    name = {
        "element": f"{point.name}.in",
        "terminal": point.name,
        "coil": point.name,
        "blower": "blower",
    }.get(point.kind)
    return view.link(f"{name}:ground") if name else ""


def _usual(view: BenchView, point: Point) -> Quantity:
    """The quantity that is read here as the unit stands."""
    dead = point.dead_quantity if view.state.proved_dead else None
    return dead or point.live_quantity or point.quantities[0]


def _history(view: BenchView, at: str) -> list[LogRow]:
    here = [e for e in view.record.events[::-1] if e.body.get("at") == at]
    return [view.row(event) for event in here[:SHOWN_BEFORE]]


def _by_driving(asked: Asked) -> bool:
    """Whether its coil is fed makes a difference here."""
    return asked.quantity in DRIVEN and asked.point.kind in DRIVEN_KINDS
