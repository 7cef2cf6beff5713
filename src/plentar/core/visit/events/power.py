"""A breaker was moved, or the unit was proved dead."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar, Self

from plentar.core.errors import BadInput
from plentar.core.said import Said, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event, Switches

ON, OFF, PROVED_DEAD = "on", "off", "proved-dead"


@dataclass(frozen=True, slots=True, kw_only=True)
class Power(Event):
    """A breaker was moved, or proved dead; all circuits unless one is named."""

    name: ClassVar[str] = "power"
    is_switch: ClassVar[bool] = True

    state: str
    circuit: str | None = None

    def check(self, unit: Unit) -> None:
        if self.circuit is not None and self.circuit not in unit.circuit_by_id:
            raise BadInput("circuit", say("visit.events.power.no-circuit", circuit=self.circuit))

    def words(self, unit: Unit) -> Said:
        """Such as “power off, C2”."""
        return say(
            "visit.events.power.power",
            state=say(f"power.{self.state}"),
            value=said_of(unit, self.circuit) if self.circuit else say("power.all"),
        )

    def moves(self, before: Switches) -> Switches:
        named = [self.circuit] if self.circuit else list(before.power)
        return replace(before, power={**before.power, **dict.fromkeys(named, self.state)})

    def moved_to(self, t_s: float) -> Self:
        """To the circuit, proved dead is off."""
        state = ON if self.state == ON else OFF
        return replace(self, t_s=t_s, lead_s=0.0, key="", clock_s=None, state=state)
