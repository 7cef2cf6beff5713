"""From when to when something is fed or closed: what the calls of a visit say."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from plentar.core.quantity import Band
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Visit
from plentar.core.visit.state import changes


@dataclass(frozen=True, slots=True)
class Spell:
    """From when to when something is fed or closed, each end as far as it is known.

    ``cause`` is what began it: a thermostat terminal or an auxiliary switch. ``end_s`` is None
    while it lasts.
    """

    start_s: Band
    end_s: Band | None
    cause: str


def call_spells(unit: Unit, visit: Visit) -> dict[str, list[Spell]]:
    """When each thermostat terminal was asking, by terminal."""
    found: dict[str, list[Spell]] = {}
    standing: dict[str, float] = {}
    for state in changes(unit, visit.events):
        for call, began_s in list(standing.items()):
            if state.since_s.get(call) != began_s:
                ended_s = state.ended_s.get(call, state.t_s)
                _add(found, call, began_s, Band(ended_s, ended_s))
                del standing[call]
        standing |= {call: s for call, s in state.since_s.items() if call not in standing}
    for call, began_s in standing.items():
        _add(found, call, began_s, None)
    return found


def _add(found: dict[str, list[Spell]], call: str, began_s: float, end_s: Band | None) -> None:
    found.setdefault(call, []).append(Spell(Band(began_s, began_s), end_s, call))


def merged(spells: Iterable[Spell]) -> Iterator[Spell]:
    """Spells that touch are one."""
    held: Spell | None = None
    for spell in sorted(spells, key=lambda s: s.start_s.low):
        if held is None:
            held = spell
        elif held.end_s is None or spell.start_s.low <= held.end_s.high:
            later = held.end_s and spell.end_s and max(held.end_s, spell.end_s, key=_high)
            held = Spell(held.start_s, later, held.cause)
        else:
            yield held
            held = spell
    if held is not None:
        yield held


def _high(band: Band) -> float:
    return band.high
