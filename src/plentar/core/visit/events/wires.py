"""The thermostat wires at the board are lifted off, or put back."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event, Switches

LIFTED, RESTORED = "lifted", "restored"


@dataclass(frozen=True, slots=True, kw_only=True)
class Wires(Event):
    """With the wires off nothing is called until a jumper does; with the wires back the jumper is
    off, and nothing is called until the thermostat is seen to."""

    name: ClassVar[str] = "wires"
    is_switch: ClassVar[bool] = True

    state: str

    def check(self, unit: Unit) -> None:
        """Every unit has a board."""

    def words(self, unit: Unit) -> str:
        """Such as “thermostat wires lifted”."""
        if self.state == LIFTED:
            return "thermostat wires lifted at the board"
        return "jumper off, thermostat wires restored"

    def moves(self, before: Switches) -> Switches:
        lifted = self.state == LIFTED
        calls = before.calls if lifted == before.lifted else frozenset[str]()
        return replace(before, calls=calls, lifted=lifted)
