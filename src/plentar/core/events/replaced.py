"""A part was replaced or repaired."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from plentar.core.errors import BadInput
from plentar.core.events.event import Event
from plentar.core.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class Replaced(Event):
    """A repair: older evidence about this component counts no more."""

    name: ClassVar[str] = "replaced"

    component: str

    def check(self, unit: Unit) -> None:
        """The component is one of the unit's."""
        if self.component not in unit.components:
            raise BadInput("replaced", f"no component {self.component!r}")

    def words(self, unit: Unit) -> str:
        """Such as “S1 replaced”."""
        return f"{self.component} replaced"
