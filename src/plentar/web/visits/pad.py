"""The reading pad at one point: what is due, what was typed, what it would mean."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from math import inf
from typing import ClassVar

from markupsafe import Markup

from plentar.core.expected import Expected, Verdict
from plentar.core.quantity import Quantity
from plentar.core.said import Said, say
from plentar.core.unit.points import CONTROL_SIDE, Point
from plentar.drawing.gauge import gauge
from plentar.web.showing import verdict
from plentar.web.visits.log_rows import LogRow
from plentar.words import measures, phrase
from plentar.words.numbers import show

CYCLES = {"cycling": say("visits.pad.comes-goes"), "steady": say("visits.pad.steady-ten-minutes")}
#: What may be seen at a kind of point, beside what is read there.
SEEN: Mapping[str, Mapping[str, Said]] = {
    "fuse": {"blown": say("visits.pad.blown"), "whole": say("visits.pad.whole")},
    "limit": CYCLES,
    "element": CYCLES,
}


@dataclass(frozen=True, slots=True)
class Wait:
    """How long until a reading is due, s; 0 when it is."""

    left_s: float

    @property
    def text(self) -> str:
        return (
            phrase("visits.pad.windows-still-open")
            if self.left_s
            else phrase("visits.pad.read-now-windows-over")
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class VerdictView:
    """What is due at a point, and what a number that was typed or stored there means."""

    point: Point
    quantity: Quantity
    due: Expected
    state: str
    value: float | None = None
    error: str = ""
    stored: bool = False
    #: Why what was stored is no evidence; empty where it counts.
    not_counted: str = ""
    #: Of the next entry.
    client_id: uuid.UUID = field(default_factory=uuid.uuid4)

    @property
    def seen(self) -> Mapping[str, Said]:
        """What may be seen there, with its words."""
        return SEEN.get(self.point.kind, {})

    @property
    def gauge(self) -> Markup:
        return Markup(gauge(self.due, self.value))

    @property
    def verdict(self) -> Verdict | None:
        """What the number means; None where there is none."""
        return None if self.value is None else self.due.judge(self.value)

    @property
    def due_text(self) -> str:
        return str(self.due.text() or "—")

    @property
    def nominal(self) -> str:
        """The middle of what is due, where there is one."""
        nominal = self.due.nominal
        return "" if nominal in (None, inf) else show(nominal, self.quantity.sign, 4)

    @property
    def mark(self) -> str:
        said = self.verdict
        return verdict(said.word, said.good, said.provisional) if said else ""

    @property
    def judges_others(self) -> bool:
        """A reading here changes what is due elsewhere: volts at the lugs judge the amps."""
        return self.point.kind == "circuit" and self.quantity is Quantity.VOLTS


@dataclass(frozen=True, slots=True, kw_only=True)
class PadView(VerdictView):
    """The pad. ``link`` is the point's address, ``driven`` None where a fed coil changes nothing."""

    link: str
    typed: str
    gated: bool
    history: list[LogRow]
    driven: bool | None = None
    #: The coil that a bench supply would feed, whether its own two wires are off, and how long it is to
    #: be fed at least where that is long, s.
    coil: str = ""
    coil_off: bool = False
    fed_at_least_s: float = 0.0
    #: A ghost may stand here: what is read with the power off.
    low_z: bool = False
    to_ground: str = ""
    #: The guided tests that it is part of, and the drawing that belongs beside it.
    tests: tuple[tuple[str, str], ...] = ()
    scale: Markup = field(default_factory=Markup)
    #: What was read here on earlier visits, in a line.
    past: str = ""

    keys: ClassVar[tuple[str, ...]] = ("7", "8", "9", "4", "5", "6", "1", "2", "3", ".", "0")

    @property
    def more_keys(self) -> tuple[str, ...]:
        """Prefixes, and what a meter shows without a path."""
        return ("k", "M", "OL") if self.quantity is Quantity.OHMS else ()

    @property
    def sign(self) -> str:
        return measures.sign(self.quantity.sign)

    @property
    def by_ear(self) -> bool:
        """The meter sounds or it does not: two buttons, and no number."""
        return self.quantity is Quantity.TONE

    @property
    def tabs(self) -> list[tuple[str, str, bool]]:
        """What can be read here: words, address, whether it is what the pad is open for."""
        found = [
            (phrase(f"quantity.{q}"), f"{self.link}&quantity={q}", q is self.quantity)
            for q in self.point.quantities
        ]
        if self.to_ground:
            found.append((phrase("visits.pad.ground"), f"{self.to_ground}&quantity=ohms", False))
        return found

    @property
    def part(self) -> str:
        return self.point.component

    @property
    def may_turn(self) -> bool:
        """A control wire: ten turns of it in the clamp make the amps large enough to read."""
        return self.quantity is Quantity.AMPS and self.point.kind in CONTROL_SIDE

    @property
    def caution(self) -> str:
        return caution_of(self.point, self.quantity)

    @property
    def holds_charge(self) -> bool:
        return self.point.kind == "capacitor"

    @property
    def gate_fields(self) -> dict[str, str]:
        """What the gate's form carries, so that the pad opens again as it was."""
        driven = {"driven": "yes"} if self.driven else {}
        return {"at": self.point.name} | driven


def caution_of(point: Point, quantity: Quantity) -> str:
    """What is minded where this is read."""
    if point.kind == "line" or ".line." in point.name:
        return phrase("visits.pad.line-side-live-breaker")
    if quantity is Quantity.AMPS:
        return phrase("visits.pad.one-conductor-jaw-both")
    if quantity.dead_only:
        return phrase("visits.pad.every-breaker-off-locked")
    if quantity is Quantity.TEMP_F:
        return phrase("visits.pad.probe-out-sight-elements")
    return phrase("visits.pad.live-parts-gloves-insulated")
