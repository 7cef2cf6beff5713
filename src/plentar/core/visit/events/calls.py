"""What the thermostat, or a jumper, asks for from now on."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from plentar.core.said import Said, listed, say
from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event, Switches


@dataclass(frozen=True, slots=True, kw_only=True)
class Calls(Event):
    """The terminals that are asked for, by the thermostat or, with its wires off, by jumper.

    ``lifted`` is the older way to say that the wires are off or back; None leaves them as they are.
    """

    name: ClassVar[str] = "calls"
    is_switch: ClassVar[bool] = True
    may_be_struck: ClassVar[bool] = True

    calls: frozenset[str]
    lifted: bool | None = None

    @property
    def began_s(self) -> float:
        """The watch was started ``lead_s`` after the call."""
        return self.t_s - self.lead_s

    def check(self, unit: Unit) -> None:
        """Any terminal may be called for, whatever hangs on it."""

    def words(self, unit: Unit) -> Said:
        """Such as “thermostat asks for W1”."""
        return say(
            "visit.events.calls.thermostat-asks", value=" + ".join(sorted(self.calls)) or say("nothing")
        )

    def words_by_jumper(self) -> Said:
        """The same with the thermostat's wires lifted: who calls then is a jumper."""
        if not self.calls:
            return say("visit.events.calls.jumper-off-nothing-called")
        return say("visit.events.calls.jumper-from-r-wires", calls=listed(sorted(self.calls), "+"))

    def moves(self, before: Switches) -> Switches:
        lifted = before.lifted if self.lifted is None else self.lifted
        return replace(before, calls=self.calls, lifted=lifted)
