"""Work on a part that is no replacement."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import ClassVar

from plentar.core.errors import BadInput
from plentar.core.said import NOTHING, Said, listed, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event, Switches

#: Work after which a part is as new: older readings of it say nothing of it now.
MENDS = frozenset({"remade", "tightened", "renewed", "reset", "switched-on", "cleaned"})
STAGE_OFF, STAGE_ON = "stage-off", "stage-on"
BRIDGED, UNBRIDGED = "bridged", "unbridged"
MOVED = "moved"
#: Work that lands or lifts a wire which may be live: with the power off alone.
DEAD_WORK = frozenset({STAGE_OFF, STAGE_ON, BRIDGED, UNBRIDGED})
#: Work for which a hand goes to a part or a wire's end: with its circuits off.
HANDS_ON = frozenset({"replaced", "remade", "tightened", "renewed", MOVED})
#: What may be done to a part, and how it is said.
VERBS: Mapping[str, Said] = {
    "remade": say("visit.events.did.remade"),
    "tightened": say("visit.events.did.tightened"),
    "renewed": say("visit.events.did.renewed"),
    "reset": say("visit.events.did.reset"),
    "switched-on": say("visit.events.did.switched"),
    "cleaned": say("visit.events.did.cleaned"),
    MOVED: say("visit.events.did.moved"),
    BRIDGED: say("visit.events.did.bridged"),
    UNBRIDGED: say("visit.events.did.bridge-removed"),
    STAGE_OFF: say("visit.events.did.left-off"),
    STAGE_ON: say("visit.events.did.connected-again"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Did(Event):
    """What was done to a part: a key of VERBS. A stage that is left off draws nothing after it."""

    name: ClassVar[str] = "did"
    may_be_struck: ClassVar[bool] = True

    verb: str
    part: str
    note: str = ""

    def check(self, unit: Unit) -> None:
        if self.verb not in VERBS:
            raise BadInput("did", say("visit.events.did.only", verbs=listed(VERBS, ",")))
        if self.part not in unit.workable:
            raise BadInput("part", say("visit.events.did.no-part", part=self.part))
        stages = {*unit.element_by_id, *unit.control_by_id, *unit.heat_calls}
        if self.verb in (STAGE_OFF, STAGE_ON) and self.part not in stages:
            raise BadInput("part", say("visit.events.did.stage-named-element-device"))

    def words(self, unit: Unit) -> Said:
        """Such as “heater lug L1 of circuit C1: remade. new lug”."""
        said = say("event.did", part=said_of(unit, self.part), verb=VERBS[self.verb])
        return said + (say("noted", note=self.note) if self.note else NOTHING)

    @property
    def mended(self) -> str:
        """The component that is as new after it: of a lug or a wire's end its circuit; or none."""
        return self.part.removesuffix(".l1").removesuffix(".l2") if self.verb in MENDS else ""

    @property
    def is_switch(self) -> bool:  # type: ignore[override]
        return self.verb in (STAGE_OFF, STAGE_ON)

    def moves(self, before: Switches) -> Switches:
        """The stage among those that are left off, or no more."""
        if self.verb == STAGE_OFF:
            return replace(before, stages_off=before.stages_off | {self.part})
        if self.verb == STAGE_ON:
            return replace(before, stages_off=before.stages_off - {self.part})
        return before


def bridges_standing(events: Iterable[Event]) -> frozenset[str]:
    """What was bridged, and has neither lost its bridge nor been replaced since."""
    standing: set[str] = set()
    for event in events:
        if isinstance(event, Did) and event.verb == BRIDGED:
            standing.add(event.part)
        elif isinstance(event, Did) and event.verb == UNBRIDGED:
            standing.discard(event.part)
        elif event.mended:
            standing.discard(event.mended)
    return frozenset(standing)
