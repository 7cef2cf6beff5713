"""What is due at the blower motor and its capacitor."""

from __future__ import annotations

import math

from plentar.core.due import Asked, Due, Range, Word
from plentar.core.due.ends import above, below
from plentar.core.evidence import Evidence
from plentar.core.meter import ACCURACY
from plentar.core.quantity import Band, Quantity, show
from plentar.core.tables import thresholds as th

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS


def blower_amps(evidence: Evidence, asked: Asked) -> Due:
    """Amps of the motor: up to its full-load amps as the plate gives them."""
    point = asked.point
    blower = evidence.unit.blower
    if blower is None or blower.fla is None:
        return Due(point, A, absent="kept as evidence; the plate gives no full-load amps")
    high = ACCURACY[A].widen(Band(0, blower.fla)).high
    return Due(
        point,
        A,
        (
            Range(Band(0, high), Word.IN_BAND, True, "not above its full-load amps"),
            Range(Band(above(high), math.inf), Word.HIGH, False, "above its full-load amps"),
        ),
        nominal=blower.running_amps,
        explain=lambda: (
            f"full-load amps {show(blower.fla, 'A')}; with the clamp {show(high, 'A')}",
        ),
    )


def microfarads(evidence: Evidence, asked: Asked) -> Due:
    """The capacitor beside its marking, proved dead: good within 6 %, weak below 90 %."""
    state, point = asked.state, asked.point
    blower = evidence.unit.blower
    if not state.proved_dead:
        return Due(point, Quantity.UF, absent="capacitance only proved dead and discharged")
    if blower is None or blower.capacitor_uf is None:
        return Due(point, Quantity.UF, absent="kept as evidence; its marking is not on the plate")
    mark = blower.capacitor_uf
    share = th.CAPACITOR_GOOD.value
    watch = 0.90 * mark
    return Due(
        point,
        Quantity.UF,
        (
            Range(Band(0, below(watch)), Word.LOW, False, "more than 10 % down: replace it"),
            Range(Band(watch, below((1 - share) * mark)), Word.LOW, None, "6 to 10 % down: watch"),
            Range(Band((1 - share) * mark, (1 + share) * mark), Word.IN_BAND, True, "good"),
            Range(Band(above((1 + share) * mark), math.inf), Word.HIGH, False, "wrong part?"),
        ),
        nominal=mark,
        explain=lambda: (f"marked {show(mark, 'µF')}, ±6 % good, down to −10 % watch",),
    )
