"""A device on the relay bench: a pair of its terminals, a start of it, what a hand and an ear say of
the motor."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

from plentar.core.errors import BadInput
from plentar.core.said import Said, figure, listed, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.terminals import PartKind
from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event

#: A contact reads up to so many ohms closed, and from so many open; between it is burnt, Ω.
MOST_CLOSED_OHMS, LEAST_OPEN_OHMS = 1.0, 1000.0
#: In place of a pair: the meter's leads on each other.
LEADS = ("leads", "leads")
#: What a hand and an ear say of a motor that is told to run, or stands, proved dead.
FEELS: Mapping[str, Said] = {
    "hums": say("visit.events.tested.hums"),
    "silent": say("visit.events.tested.silent"),
    "spins": say("visit.events.tested.spins-freely-hand"),
    "stiff": say("visit.events.tested.stiff-hand"),
    "play": say("visit.events.tested.bearing-or-hub-has"),
    "tight": say("visit.events.tested.bearing-hub-tight"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Tested(Event):
    """Ohms or a tone between two terminals of a device, or between the leads alone.

    ``ohms`` is infinite where the meter showed OL, ``tone`` None where ohms were read. ``new``: of
    the part that is to go in, a kind by the name ``part``. What is read of the set in use of the part
    in the unit is a ``Reading`` and no event of this kind.
    """

    __test__: ClassVar[bool] = False  # no test, though it is called so
    name: ClassVar[str] = "tested"
    may_be_struck: ClassVar[bool] = True

    device: str
    pair: tuple[str, str]
    ohms: float | None = None
    tone: bool | None = None
    driven: bool = False
    new: bool = False
    part: str | None = None

    def check(self, unit: Unit) -> None:
        """The device is there, and the terminals are those of a known kind."""
        if self.device not in unit.device_by_id:
            raise BadInput("tested", say("visit.events.tested.no-device", device=self.device))
        if (self.ohms is None) == (self.tone is None):
            raise BadInput("ohms", say("visit.events.tested.ohms-or-tone-one"))
        if self.pair == LEADS:
            return
        kind = kind_named(unit, self.part)
        for terminal in self.pair:
            if kind is not None and kind.named(terminal) not in kind.terminal_by_name:
                raise BadInput(
                    "pair", say("visit.events.tested.no-terminal", terminal=terminal, kind=kind.title)
                )

    @property
    def closed(self) -> bool | None:
        """It sounds or reads as a contact does; None between closed and open."""
        if self.tone is not None:
            return self.tone
        assert self.ohms is not None
        if MOST_CLOSED_OHMS < self.ohms < LEAST_OPEN_OHMS:
            return None
        return self.ohms <= MOST_CLOSED_OHMS

    @property
    def shown(self) -> Said:
        if self.tone is not None:
            return say("visit.events.tested.tone") if self.tone else say("visit.events.tested.no-tone")
        return (
            say("visit.events.tested.ol")
            if self.ohms is None or math.isinf(self.ohms)
            else figure(self.ohms, "Ω")
        )

    def words(self, unit: Unit) -> Said:
        """Such as “BR 4 to 5 driven: 0.2 Ω”."""
        which = say("visit.events.tested.new", device=said_of(unit, self.device)) if self.new else self.device
        if self.pair == LEADS:
            return say("visit.events.tested.leads-each-other", shown=self.shown)
        return say(
            "visit.events.tested.driven" if self.driven else "visit.events.tested.to",
            which=which,
            one=self.pair[0],
            two=self.pair[1],
            shown=self.shown,
        )


def kind_named(unit: Unit, name: str | None) -> PartKind | None:
    """A kind of the drawer or of the unit's file; None where none is named. Raises BadInput."""
    if name is None:
        return None
    kinds = PART_KINDS | {kind.name: kind for kind in unit.part_kinds}
    if name not in kinds:
        raise BadInput("part", say("visit.events.tested.no-part-kind", name=name))
    return kinds[name]


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried(Event):
    """One start of a device: it acted, after so many seconds where somebody timed it, or did not."""

    name: ClassVar[str] = "tried"
    may_be_struck: ClassVar[bool] = True

    device: str
    acted: bool
    after_s: float | None = None

    def check(self, unit: Unit) -> None:
        if self.device not in unit.device_by_id:
            raise BadInput("tried", say("visit.events.tested.no-device", device=self.device))

    def words(self, unit: Unit) -> Said:
        """Such as “BR started: acted after 1.5 s”."""
        after = (
            ""
            if self.after_s is None
            else say("visit.events.tested.after", after_s=figure(self.after_s, "s"))
        )
        return say(
            "visit.events.tested.started",
            device=said_of(unit, self.device),
            how=say("visit.events.tested.acted") if self.acted else say("visit.events.tested.did-not-act"),
            after=after,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Felt(Event):
    """What a hand or an ear says of the motor: a key of FEELS."""

    name: ClassVar[str] = "felt"
    may_be_struck: ClassVar[bool] = True

    what: str
    part: str = "blower"

    def check(self, unit: Unit) -> None:
        if self.what not in FEELS:
            raise BadInput("felt", say("visit.events.tested.only", feels=listed(FEELS, ",")))
        if self.part != "blower" or unit.blower is None:
            raise BadInput("part", say("visit.events.tested.only-blowers-motor-felt"))

    def words(self, unit: Unit) -> Said:
        """Such as “blower motor: hums”."""
        return say("event.felt", part=said_of(unit, self.part), what=FEELS[self.what])
