"""What if: every point as a fault would show it, beside what is due and what was read."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.circuit.predict import Predicted
from plentar.core.door import check_faults, faults_in_words, model_of
from plentar.core.errors import BadInput
from plentar.core.expected import Word
from plentar.core.quantity import Quantity
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.points import Point, resolve
from plentar.drawing.parts import Badge
from plentar.web.visits.view import BenchView
from plentar.words import capital, phrase
from plentar.words.numbers import show

#: A change this many times the meter's error can be seen.
SEEN = 2.0


@dataclass(frozen=True, slots=True)
class Row:
    point: Point
    quantity: Quantity
    due: str
    then: str
    read: str
    changed: bool

    @property
    def words(self) -> str:
        return f"{capital(str(self.point.title))}, {phrase(f'quantity.{self.quantity}')}"


@dataclass(frozen=True, slots=True)
class WhatIf:
    """The page: the faults to choose from, the table, and the drawing's badges."""

    fault: str
    choices: list[tuple[str, str]]
    rows: list[Row]
    badges: dict[str, Badge]


def what_if(view: BenchView, fault_id: str) -> WhatIf:
    """Expected, then and read at every point, as the switches stand now; raises BadInput."""
    unit, events, t_s = view.unit, view.visit.events, view.record.elapsed_s
    faults = check_faults(unit, fault_id.split("+") if fault_id else [])
    if fault_id and not faults:
        raise BadInput("fault", phrase("visits.what-if.choose-fault-list"))
    healthy = model_of(unit, events, t_s)
    then = model_of(unit, events, t_s, faults)
    taken = {(t.reading.at, t.reading.quantity): t for t in view.evidence.taken if t.counts}
    rows, badges = [], {}
    for due in healthy.readings:
        other = then.read(due.quantity, due.at) or due
        point = resolve(unit, due.at)
        read = taken.get((due.at, due.quantity))
        sign = due.quantity.sign
        changed = _visible(due, other)
        rows.append(
            Row(
                point,
                due.quantity,
                show(due.value, sign),
                _then(other, changed),
                show(read.reading.value, sign) if read else "",
                changed,
            )
        )
        if due.quantity is point.live_quantity and fault_id:
            badges[due.at] = _badge(due, other, changed)
    return WhatIf(fault_id, [(fault, str(said)) for fault, said in faults_in_words(unit)], rows, badges)


def _then(other: Predicted, changed: bool) -> str:
    text = show(other.value, other.quantity.sign)
    text = phrase("what-if.comes-and-goes", text=text) if other.cycling else text
    return f"{'● ' if changed else ''}{text}"


def _visible(due: Predicted, other: Predicted) -> bool:
    error = ACCURACY[due.quantity].error(max(due.value, other.value))
    return other.cycling or abs(due.value - other.value) > SEEN * error


def _badge(due: Predicted, other: Predicted, changed: bool) -> Badge:
    text = show(other.value, due.quantity.sign)
    if not changed:
        return Badge(text, Word.IN_BAND, None)
    word = Word.LOW if other.value < due.value else Word.HIGH
    return Badge(text, word, False, provisional=other.cycling)
