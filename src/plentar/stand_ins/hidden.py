"""A hidden unit in the core's terms: where a technician of the episodes or a clamp stands before it."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from typing import Any

from plentar.core.quantity import Quantity
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event
from plentar.files.events_json import event_to_json
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.stand_ins.wider.clock import Standing
from plentar.stand_ins.wider.plates import plate
from plentar.stand_ins.wider.specimen import filled
from plentar.stand_ins.wider.world import HiddenUnit


def drawn_unit(number: int) -> Unit:
    return UnitJson.model_validate(plate(number)).to_core()


def hidden_unit(unit: Unit, faults: Sequence[str], seed: int | str = 1) -> Hidden:
    """A specimen of a unit of the judge's side, with faults by their ids."""
    return Hidden(unit, HiddenUnit(filled(unit_to_json(unit)), faults, str(seed)))


class Hidden:
    """Read, watched and mended in the core's terms; what passes between is the visit file's."""

    def __init__(self, unit: Unit, inside: HiddenUnit) -> None:
        self.unit, self.inside = unit, inside

    def read(
        self, quantity: Quantity, at: str, events: Sequence[Event], t_s: float, *, driven: bool = False
    ) -> float:
        """What the meter shows; infinity for an overload."""
        return self.inside.read(quantity.value, at, _written(events), t_s, driven=driven)

    def cycles(self, part: str, events: Sequence[Event], t_s: float) -> bool:
        """Whether an element's current comes and goes with the call steady, or a limit opens."""
        return self.inside.cycles(part, _written(events), t_s)

    def through(self, events: Sequence[Event], until_s: float) -> Iterator[Standing]:
        """Every standing of a visit up to a time; the last is that of the time itself."""
        return self.inside.clock.through(_written(events), until_s)

    def mended(self, parts: Collection[str]) -> Hidden:
        """The same unit with some of its parts put right."""
        return Hidden(self.unit, self.inside.mended(parts))


def _written(events: Sequence[Event]) -> list[dict[str, Any]]:
    return [event_to_json(event) for event in events if event.is_switch]
