"""A part was replaced or repaired."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import ClassVar

from plentar.core.errors import BadInput
from plentar.core.said import NOTHING, Said, say
from plentar.core.unit.naming import said_of
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
            raise BadInput("replaced", say("visit.events.replaced.no-component", component=self.component))
        if self.by is None:
            return
        like = unit.device_by_id.get(self.component)
        if like is None:
            raise BadInput("by", say("visit.events.replaced.only-device-replaced-one"))
        if isinstance(like, BlowerRelay) != isinstance(self.by, BlowerRelay):
            raise BadInput("by", say("visit.events.replaced.blower-relay-takes-blower"))
        if self.by.id != self.component:
            raise BadInput(
                "by.id", say("visit.events.replaced.new-device-stands-called", component=self.component)
            )
        try:
            self.refit(unit)
        except BadInput as bad:
            raise BadInput(
                "by", say("visit.events.replaced.below", reason=bad.reason, path=bad.path)
            ) from None

    def words(self, unit: Unit) -> Said:
        """Such as “S1 replaced by contactor: new spades”, whatever stands there now."""
        part = self.component
        if self.by is None:
            said = say("visit.events.replaced.replaced", part=said_of(unit, part))
        else:
            said = say("visit.events.replaced.by", part=part, title=self.by.kind.title)
        return said + (say("noted", note=self.note) if self.note else NOTHING)

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
