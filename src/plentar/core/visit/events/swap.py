"""A device is swapped: the sheet of its wires, and each wire as it is taken off and landed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from plentar.core.errors import BadInput
from plentar.core.said import Said, listed, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event
from plentar.core.visit.events.tested import kind_named

OFF, LANDED, BACK = "off", "on", "back"
#: What may be done with a wire of the old part.
WIRE_ACTS = (OFF, LANDED, BACK)
MOST_WIRES = 48


@dataclass(frozen=True, slots=True)
class SheetWire:
    """A line of the sheet: the wire, its terminal on the old part, and the one on the new."""

    id: str
    old: str
    new: str
    to: str = ""
    colour: str = ""
    label: str = ""
    awg: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Swap(Event):
    """A swap begins: the kind of the part that comes in, and every wire of the one that goes out."""

    name: ClassVar[str] = "swap"
    may_be_struck: ClassVar[bool] = True

    device: str
    part: str
    wires: tuple[SheetWire, ...]

    def check(self, unit: Unit) -> None:
        """The device is there; every wire has a name of its own and leads to a terminal."""
        if self.device not in unit.device_by_id:
            raise BadInput("swap", say("visit.events.swap.no-device", device=self.device))
        kind = kind_named(unit, self.part)
        assert kind is not None
        seen: set[str] = set()
        for at, wire in enumerate(self.wires):
            if wire.id in seen:
                raise BadInput(f"sheet[{at}].id", say("visit.events.swap.named-twice", wire=wire.id))
            if kind.named(wire.new) not in kind.terminal_by_name:
                raise BadInput(
                    f"sheet[{at}].new", say("visit.events.swap.no-terminal", new=wire.new, kind=kind.title)
                )
            seen.add(wire.id)

    def words(self, unit: Unit) -> Said:
        """Such as “swap of BR by a DPDT relay begun: 5 wires”."""
        kind = kind_named(unit, self.part)
        title = kind.title if kind else self.part
        return say(
            "visit.events.swap.swap-begun-goes-wires",
            device=said_of(unit, self.device),
            title=title,
            len=len(self.wires),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class WireMoved(Event):
    """A wire of a sheet: taken off the old part, landed on a terminal of the new one, or put back
    where it was. ``renewed`` is the size of the end that was made new, and why it was."""

    name: ClassVar[str] = "wire"
    may_be_struck: ClassVar[bool] = True

    wire: str
    device: str
    act: str
    at: str = ""
    renewed: str = ""

    def check(self, unit: Unit) -> None:
        """The device is there. Whether the sheet has such a wire, the sheet says."""
        if self.device not in unit.device_by_id:
            raise BadInput("of", say("visit.events.swap.no-device", device=self.device))
        if self.act not in WIRE_ACTS:
            raise BadInput("is", say("visit.events.swap.only", wire_acts=listed(WIRE_ACTS, ",")))
        if (self.act == LANDED) != bool(self.at):
            raise BadInput("at", say("visit.events.swap.wire-landed-names-terminal"))

    def words(self, unit: Unit) -> Said:
        """Such as “wire w3 of BR landed on 2, end renewed: 10 AWG, burnt”."""
        said = {
            OFF: say("visit.events.swap.taken-off"),
            LANDED: say("visit.events.swap.landed", at=self.at),
            BACK: say("visit.events.swap.put-back"),
        }[self.act]
        renewed = say("visit.events.swap.end-renewed", renewed=self.renewed) if self.renewed else ""
        return say(
            "visit.events.swap.wire",
            wire=self.wire,
            device=said_of(unit, self.device),
            said=said,
            renewed=renewed,
        )
