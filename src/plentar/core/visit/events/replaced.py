"""A part was replaced or repaired."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import ClassVar

from plentar.core.errors import BadInput
from plentar.core.unit.parts import BlowerRelay, Control
from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event


@dataclass(frozen=True, slots=True, kw_only=True)
class Replaced(Event):
    """A repair: older evidence about this component counts no more.

    ``by`` is a device of another kind that took the place of the old one, under its id.
    """

    name: ClassVar[str] = "replaced"
    may_be_struck: ClassVar[bool] = True

    component: str
    by: Control | BlowerRelay | None = None
    note: str = ""

    def check(self, unit: Unit) -> None:
        """The component is one of the unit's, and what takes its place fits there."""
        if self.component not in unit.workable:
            raise BadInput("replaced", f"no component {self.component!r}")
        if self.by is None:
            return
        like = unit.device_by_id.get(self.component)
        if like is None:
            raise BadInput("by", "only a device is replaced by one of another kind")
        if isinstance(like, BlowerRelay) != isinstance(self.by, BlowerRelay):
            raise BadInput("by", "a blower relay takes a blower relay’s place, and nothing else does")
        if self.by.id != self.component:
            raise BadInput("by.id", f"the new device stands at {self.component!r} and is called so")
        try:
            self.refit(unit)
        except BadInput as bad:
            raise BadInput("by", f"{bad.reason} ({bad.path})") from None

    def words(self, unit: Unit) -> str:
        """Such as “S1 replaced by a contactor: new spades”."""
        title = self.by.kind.title if self.by else ""
        by = f" by {'an' if title[:1] in 'AEIO' else 'a'} {title}" if title else ""
        return f"{self.component} replaced{by}{f': {self.note}' if self.note else ''}"

    @property
    def mended(self) -> str:
        """Of a lug, a wire's end or the line side it is the circuit that is as new."""
        return re.sub(r"\.(l1|l2|line)$", "", self.component)

    def refit(self, unit: Unit) -> Unit:
        if self.by is None:
            return unit
        if isinstance(self.by, BlowerRelay):
            assert unit.blower is not None
            return replace(unit, blower=replace(unit.blower, relay=self.by))
        new = tuple(self.by if c.id == self.component else c for c in unit.controls)
        return replace(unit, controls=new)
