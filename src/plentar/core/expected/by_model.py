"""What no rule of the plate covers is due as the model of the healthy unit shows it now."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.circuit.faults import taps_of
from plentar.core.circuit.model import model_at
from plentar.core.expected import Asked, Expected, Word
from plentar.core.expected.ends import below, partition
from plentar.core.expected.waiting import some_window_open
from plentar.core.quantity import Band, Quantity
from plentar.core.said import figure, say, span
from plentar.core.unit.accuracy import CONTROL_WIRE_AMPS
from plentar.core.unit.points import Point
from plentar.core.visit.evidence import Evidence

#: How far a sound unit may be from the nominal one, beside this much of the quantity's unit.
SHARE = 0.15
FIXED = {Quantity.VOLTS: 1.0, Quantity.VOLTS_DC: 1.0, Quantity.AMPS: 0.35}
BY_MODEL = say("expected.by-model.healthy-unit-shows-now")
_CONTROL_KINDS = frozenset({"coil", "terminal", "secondary"})


def expected_by_model(evidence: Evidence, asked: Asked) -> Expected:
    """The healthy unit's reading, give or take; provisional while a stage is on its way."""
    point, quantity, state, lead_s = asked.point, asked.quantity, asked.state, asked.lead_s
    values = list(_predicted(evidence, point, quantity, state.t_s + lead_s))
    if not values:
        return Expected(point, quantity, absent=say("expected.by-model.kept-evidence-model-does"))
    fixed = FIXED[quantity]
    if quantity is Quantity.AMPS and point.kind in _CONTROL_KINDS:
        fixed = CONTROL_WIRE_AMPS.fixed
    least, most = min(values), max(values)
    band = Band(max(0.0, least - SHARE * least - fixed), most + SHARE * most + fixed)
    ranges = partition(
        [below(band.low), band.high],
        (Word.LOW, False, say("expected.by-model.less-than-should")),
        (Word.IN_BAND, True, BY_MODEL),
        (Word.HIGH, False, say("expected.by-model.more-than-should")),
    )
    sign = quantity.sign
    value = span(least, most, sign)
    step = say("expected.by-model.healthy-unit-shows-here", value=value, fixed=figure(fixed, sign))
    return Expected(
        point,
        quantity,
        ranges,
        nominal=most,
        explain=lambda: (step,),
        provisional=some_window_open(evidence.unit, state, lead_s),
    )


def _predicted(evidence: Evidence, point: Point, quantity: Quantity, t_s: float) -> Iterator[float]:
    """One reading for each place where the blower may be tied to the heat."""
    for tap in taps_of(evidence.unit) or (None,):
        prediction = model_at(evidence.unit, evidence.visit.events, t_s, () if tap is None else (tap,))
        if point.kind.startswith("node-"):
            one, _, two = point.name.partition(":")
            if quantity is Quantity.VOLTS:
                yield prediction.between(one, two)
        elif (found := prediction.read(quantity, point.name)) is not None:
            yield found.value
