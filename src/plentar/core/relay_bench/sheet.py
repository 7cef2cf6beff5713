"""The transfer sheet: where every wire of a swap is, folded from the events alone.

A wire is in one place: on the old part, in the hand, or on a terminal of the new one. Whatever is
struck out, sent twice or sent late, it is never lost and never in two places.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace

from plentar.core.errors import BadInput
from plentar.core.relay_bench.fitted import drawer, fitted
from plentar.core.relay_bench.wires import right_wires, wires_of
from plentar.core.said import Said, say
from plentar.core.unit.parts import Wire
from plentar.core.unit.terminals import PartKind
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import BACK, LANDED, SheetWire, Swap, WireMoved
from plentar.core.visit.events.event import Event

OLD, HAND, NEW = "old", "hand", "new"


@dataclass(frozen=True, slots=True)
class PlacedWire:
    """A wire of the sheet and where it is: OLD, HAND, or NEW with the terminal it was landed on."""

    wire: SheetWire
    where: str = OLD
    at: str = ""
    renewed: str = ""

    @property
    def as_planned(self) -> bool:
        """It is on the terminal of the new part that the sheet names."""
        return self.where == NEW and self.at == self.wire.new


@dataclass(frozen=True)
class Sheet:
    """A swap as it stands: every wire in the order of the sheet."""

    unit: Unit
    device: str
    kind: PartKind
    wires: tuple[PlacedWire, ...]

    @property
    def off(self) -> int:
        return sum(placed.where != OLD for placed in self.wires)

    @property
    def on(self) -> int:
        return sum(placed.where == NEW for placed in self.wires)

    @property
    def in_hand(self) -> tuple[PlacedWire, ...]:
        """Wires that are off and not landed."""
        return tuple(placed for placed in self.wires if placed.where == HAND)

    @property
    def under_way(self) -> bool:
        """A wire has left its place, and the swap is not through."""
        return self.off > 0 and bool(self.open)

    @property
    def open(self) -> tuple[Said, ...]:
        """What is missing before power may come back, in words; empty when the swap is through."""
        return tuple(self._open())

    def _open(self) -> Iterable[Said]:
        for placed in self.wires:
            wire = placed.wire
            if placed.where == OLD:
                yield say("relay-bench.sheet.still-old-part", wire=wire.id, to=wire.to, old=wire.old)
            elif placed.where == HAND:
                yield say("relay-bench.sheet.off-not-landed-goes", wire=wire.id, to=wire.to, new=wire.new)
            elif not placed.as_planned:
                yield say(
                    "relay-bench.sheet.sheet-says", wire=wire.id, to=wire.to, at=placed.at, new=wire.new
                )
        device = self.unit.device_by_id[self.device]
        listed = Counter(placed.wire.to for placed in self.wires)
        due = Counter(wire.to for wire in right_wires(self.unit, device, self.kind))
        for end, count in (due - listed).items():
            yield (
                say("relay-bench.sheet.nothing-leads", end=end)
                if count == 1
                else say("relay-bench.sheet.wires-missing", count=count, end=end)
            )
        for terminal, count in Counter(p.at for p in self.wires if p.where == NEW).items():
            places = self.kind.terminal_by_name[terminal].places
            if count > places:
                yield say(
                    "relay-bench.sheet.wires-which-takes-double",
                    count=count,
                    terminal=terminal,
                    places=places,
                )

    def after(self, moved: WireMoved) -> Sheet:
        """The sheet with one wire moved; raises BadInput where that can't be."""
        placed = next((p for p in self.wires if p.wire.id == moved.wire), None)
        if placed is None:
            raise BadInput(
                "wire", say("relay-bench.sheet.no-wire-sheet", wire=moved.wire, device=self.device)
            )
        if moved.act == LANDED:
            at = self.kind.named(moved.at)
            if at not in self.kind.terminal_by_name:
                raise BadInput("at", say("relay-bench.sheet.no-terminal", at=moved.at, kind=self.kind.title))
            now = replace(placed, where=NEW, at=at, renewed=moved.renewed or placed.renewed)
        elif moved.act == BACK:
            now = replace(placed, where=OLD, at="")
        else:
            now = replace(placed, where=HAND, at="", renewed=moved.renewed or placed.renewed)
        return replace(self, wires=tuple(now if p is placed else p for p in self.wires))

    def check_next(self, moved: WireMoved) -> None:
        """One wire at a time: raises BadInput where another is in the hand."""
        self.after(moved)
        others = [p.wire.id for p in self.in_hand if p.wire.id != moved.wire]
        if others:
            raise BadInput("wire", say("relay-bench.sheet.one-wire-time-off", others=others[0]))

    @property
    def landed(self) -> tuple[Wire, ...]:
        return tuple(
            Wire(p.wire.id, p.at, p.wire.to, p.wire.colour, p.wire.label, p.wire.awg)
            for p in self.wires
            if p.where == NEW
        )


def sheet_of(unit: Unit, events: Iterable[Event], device: str) -> Sheet | None:
    """The newest swap of a device that has not been finished by its replacement; None without one.

    ``unit`` is the unit before the replacement. A wire that its sheet does not know is passed over:
    what began it was struck out.
    """
    found: Sheet | None = None
    kinds = drawer(unit)
    for event in events:
        if isinstance(event, Swap) and event.device == device:
            old, new = fitted(unit, unit.device_by_id[device]), kinds[event.part]
            wires = [replace(w, old=old.named(w.old), new=new.named(w.new)) for w in event.wires]
            found = Sheet(unit, device, new, tuple(map(PlacedWire, wires)))
        elif isinstance(event, WireMoved) and event.device == device and found is not None:
            if any(p.wire.id == event.wire for p in found.wires):
                found = found.after(event)
        elif event.mended == device and found is not None and not found.open:
            found = None
    return found


def open_sheets(unit: Unit, events: Iterable[Event]) -> list[Sheet]:
    """Every swap that is under way: no power before it is through."""
    every = list(events)
    names = dict.fromkeys(event.device for event in every if isinstance(event, Swap))
    found = (sheet_of(unit, every, name) for name in names)
    return [sheet for sheet in found if sheet is not None and sheet.under_way]


def plan(unit: Unit, device_id: str, kind: PartKind) -> tuple[SheetWire, ...]:
    """Every wire of the old part with the terminal of the new one that it goes to: where the right
    wiring of the new part has that end. Where it has none, the wire goes to a dummy, or its old
    terminal's namesake, or the first terminal: somebody has to look at it."""
    device = unit.device_by_id[device_id]
    free = list(right_wires(unit, device, kind))
    lines = []
    for terminal, wires in wires_of(unit, device).items():
        for wire in wires:
            match = next((w for w in free if w.to == wire.to), None)
            if match is not None:
                free.remove(match)
            new = match.terminal if match else _somewhere(kind, terminal)
            lines.append(SheetWire(wire.id, terminal, new, wire.to, wire.colour, wire.label, wire.awg))
    return tuple(lines)


def _somewhere(kind: PartKind, old: str) -> str:
    dummy = next((t.name for t in kind.terminals if t.dummy), None)
    return dummy or (old if old in kind.terminal_by_name else kind.terminals[0].name)
