"""Wires lifted off, or put back: the thermostat’s at the board, or the two of a coil."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from plentar.core.errors import BadInput
from plentar.core.said import Said, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event, Switches

LIFTED, RESTORED = "lifted", "restored"


@dataclass(frozen=True, slots=True, kw_only=True)
class Wires(Event):
    """With the thermostat's wires off nothing is called until a jumper does; with the wires back the
    jumper is off, and nothing is called until the thermostat is seen to.

    ``part`` is a coil (``S1.coil``) where its own two wires are meant: off, a bench supply feeds the coil
    and not, backwards, the transformer.
    """

    name: ClassVar[str] = "wires"

    state: str
    part: str = ""

    @property
    def is_switch(self) -> bool:  # type: ignore[override]
        """A coil's own wires leave power and calls as they are."""
        return not self.part

    def check(self, unit: Unit) -> None:
        """Every unit has a board; a coil is one of the unit's."""
        if self.part and self.part not in {f"{device}.coil" for device in unit.device_by_id}:
            raise BadInput("part", say("visit.events.wires.no-coil", part=self.part))

    def words(self, unit: Unit) -> Said:
        """Such as “thermostat wires lifted”."""
        if self.part:
            done = (
                say("visit.events.wires.taken-off")
                if self.state == LIFTED
                else say("visit.events.wires.back")
            )
            return say("visit.events.wires.both-wires", part=said_of(unit, self.part), done=done)
        if self.state == LIFTED:
            return say("visit.events.wires.thermostat-wires-lifted-board")
        return say("visit.events.wires.jumper-off-thermostat-wires")

    def moves(self, before: Switches) -> Switches:
        lifted = self.state == LIFTED
        if self.part:
            coils = before.coils_off | {self.part} if lifted else before.coils_off - {self.part}
            return replace(before, coils_off=coils)
        calls = before.calls if lifted == before.lifted else frozenset[str]()
        return replace(before, calls=calls, lifted=lifted)
