"""One act is one event: that a switch acted early is weighed once, however many readings follow.

While windows are open, what a rung draws tells when its switch acts. Two readings of the same rung that
show the same, draws or not, in one call, tell one thing: of those that draw the first, of those that do not
the last.
"""

from __future__ import annotations

from collections.abc import Sequence

from plentar.core.quantity import Quantity
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import floor_of
from plentar.core.visit.evidence import Taken
from plentar.core.visit.state import all_off_s, all_on_s

A = Quantity.AMPS


def told_once(unit: Unit, taken: Sequence[Taken]) -> list[Taken]:
    """The readings without those that tell of an act once more."""
    on_s, off_s = all_on_s(unit), all_off_s(unit)
    first: set[tuple[object, ...]] = set()
    last: dict[tuple[object, ...], int] = {}
    dropped: set[int] = set()
    for number, one in enumerate(taken):
        rung = _rung(unit, one)
        if rung is None or not _in_window(one, on_s, off_s):
            continue
        state = one.state
        draws = one.reading.value >= floor_of(unit.element_by_id[rung])
        key = (rung, draws, tuple(sorted(state.since_s.items())), tuple(sorted(state.ended_s.items())))
        if draws == bool(state.calls & HEAT_CALLS):  # it has acted by then: the first says when
            if key in first:
                dropped.add(number)
            first.add(key)
        elif key in last:  # not yet: the last says when
            dropped.add(last[key])
        last[key] = number
    return [one for number, one in enumerate(taken) if number not in dropped]


def _rung(unit: Unit, taken: Taken) -> str | None:
    """The element whose current alone a clamp shows there."""
    if taken.reading.quantity is not A:
        return None
    through = [element.id for element in unit.elements_through(taken.point.component)]
    return through[0] if len(through) == 1 else None


def _in_window(taken: Taken, on_s: float, off_s: float) -> bool:
    state, t_s = taken.state, taken.reading.t_s + taken.reading.lead_s
    rising = any(t_s - since < on_s for since in state.since_s.values())
    return rising or any(t_s - ended < off_s for ended in state.ended_s.values())
