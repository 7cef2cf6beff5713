"""A device is swapped: the sheet of its wires, and each wire as it is taken off and landed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from plentar.core.errors import BadInput
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
            raise BadInput("swap", f"no device {self.device!r}")
        kind = kind_named(unit, self.part)
        assert kind is not None
        seen: set[str] = set()
        for at, wire in enumerate(self.wires):
            if wire.id in seen:
                raise BadInput(f"sheet[{at}].id", f"{wire.id!r} is named twice")
            if kind.named(wire.new) not in kind.terminal_by_name:
                raise BadInput(f"sheet[{at}].new", f"no terminal {wire.new!r} on a {kind.title}")
            seen.add(wire.id)

    def words(self, unit: Unit) -> str:
        """Such as “swap of BR by a DPDT relay begun: 5 wires”."""
        kind = kind_named(unit, self.part)
        title = kind.title if kind else self.part
        return f"swap of {self.device} begun, {title} goes in: {len(self.wires)} wires"


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
            raise BadInput("of", f"no device {self.device!r}")
        if self.act not in WIRE_ACTS:
            raise BadInput("is", f"only {', '.join(WIRE_ACTS)}")
        if (self.act == LANDED) != bool(self.at):
            raise BadInput("at", "a wire that is landed names its terminal, and no other does")

    def words(self, unit: Unit) -> str:
        """Such as “wire w3 of BR landed on 2, end renewed: 10 AWG, burnt”."""
        said = {OFF: "taken off", LANDED: f"landed on {self.at}", BACK: "put back"}[self.act]
        renewed = f", end renewed: {self.renewed}" if self.renewed else ""
        return f"wire {self.wire} of {self.device} {said}{renewed}"
