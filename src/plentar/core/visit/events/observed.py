"""Seen or heard: a switch or the blower acted, or a limit cycles or holds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from plentar.core.errors import BadInput
from plentar.core.said import Said, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event

FUSE = "control-fuse"
FUSE_SEEN = ("blown", "whole")


@dataclass(frozen=True, slots=True, kw_only=True)
class Observed(Event):
    """``action`` is on or off for a switch and the blower, cycling or steady for a rung, blown or whole for
    the control fuse."""

    name: ClassVar[str] = "observe"
    may_be_struck: ClassVar[bool] = True

    action: str
    part: str

    def check(self, unit: Unit) -> None:
        """What acts is a switch or the blower; what cycles is a limit or its element."""
        if self.action in ("on", "off"):
            if self.part != "blower" and self.part not in unit.switch_by_id:
                raise BadInput("part", say("visit.events.observed.no-switch-not-blower", part=self.part))
        elif self.action in FUSE_SEEN or self.part == FUSE:
            if self.part != FUSE or self.action not in FUSE_SEEN:
                raise BadInput("part", say("visit.events.observed.only-control-fuse-blown"))
        elif self.part not in {*unit.element_by_id, *(limit.id for limit in unit.limits)}:
            raise BadInput("part", say("visit.events.observed.no-limit-or-element", part=self.part))

    def words(self, unit: Unit) -> Said:
        """Such as “S1.2 seen: on”."""
        return say(
            "visit.events.observed.seen", part=said_of(unit, self.part), action=say(f"action.{self.action}")
        )
