"""What is asked once before a unit is handed over: what was poor at the first look, and the reason
behind a repair that was too easy."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from plentar.core.said import Said, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import LOOK_ITEMS, Did, Visit

#: Work that only takes back what something else has done.
_EASY = {
    "switched-on": "handover.asked-once.was-off-what-tripped",
    "reset": "handover.asked-once.was-reset-what-tripped",
    "renewed": "handover.asked-once.was-renewed-what-blew",
}


@dataclass(frozen=True, slots=True)
class Easy:
    """An easy repair nobody has given the reason of: the part, and the question."""

    part: str
    question: Said


def reasons_to_ask(unit: Unit, visit: Visit, noted: Collection[tuple[float, str]]) -> tuple[Easy, ...]:
    """Easy repairs without words of their own; ``noted`` are time and part of what was noted since."""
    found = {}
    for event in visit.of_kind(Did):
        said = event.note or any(t_s >= event.t_s and part == event.part for t_s, part in noted)
        if event.verb in _EASY and not said:
            found[event.part] = Easy(event.part, say(_EASY[event.verb], part=said_of(unit, event.part)))
    return tuple(found.values())


def to_look_at_again(visit: Visit) -> tuple[str, ...]:
    """The items that were poor or burnt when somebody looked last, before the last repair: what was
    mended since may have mended them too."""
    mended_s = max((event.t_s for event in visit.events if event.mended), default=-1.0)
    newest = {seen.item: seen for seen in visit.looked}
    return tuple(
        item
        for item in LOOK_ITEMS
        if item in newest and newest[item].state != "fine" and newest[item].t_s <= mended_s
    )
