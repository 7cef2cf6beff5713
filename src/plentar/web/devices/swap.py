"""A swap on its page: what may go in, what that asks, and the sheet of its wires."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.relay_bench.sheet import PlacedWire, Sheet, plan
from plentar.core.relay_bench.substitute import Substitute, substitute
from plentar.core.said import say
from plentar.core.unit.terminals import PartKind
from plentar.core.visit.events import BACK, LANDED, TAKEN_OFF, SheetWire
from plentar.drawing.part import part_figure
from plentar.web.devices.device import DeviceView, end_in_words
from plentar.words import phrase

VERDICT_WORDS = {
    "same": say("devices.swap.same-like-like"),
    "changes": say("devices.swap.acceptable-these-changes"),
    "no": say("devices.swap.not-acceptable"),
}
_ORDER = ("same", "changes", "no")


@dataclass(frozen=True, slots=True)
class Candidate:
    kind: PartKind
    verdict: str
    words: str
    points: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, slots=True)
class SheetRow:
    """A wire of the sheet, ready for a thumb: what it is, where it is, what comes next."""

    id: str
    to: str
    told: str
    old: str
    new: str
    where: str
    said: str
    act: str
    act_words: str
    may_go_back: bool

    @property
    def moved(self) -> dict[str, str]:
        return {"wire": self.id, "act": self.act, "at": self.new if self.act == LANDED else ""}

    @property
    def moved_back(self) -> dict[str, str]:
        return {"wire": self.id, "act": BACK if self.where == "hand" else TAKEN_OFF}


class SwapView:
    """What may take the device's place, or the swap that is under way."""

    face = "swap"

    def __init__(self, device: DeviceView, part: str = "", *, other: bool = False) -> None:
        self.device, self.other = device, other
        self.part = device.kind_named(part) if part else None

    @cached_property
    def sheet(self) -> Sheet | None:
        return self.device.sheet

    @property
    def shows_sheet(self) -> bool:
        """The swap stands, and no other part is looked at before a wire is off."""
        if self.sheet is None:
            return False
        return self.sheet.off > 0 or not (self.part or self.other)

    @property
    def photos(self) -> list[str]:
        """The photos of the old part: addresses."""
        base, own = self.device.view.base, self.device.id
        return [f"{base}/photos/{p.key}.jpg" for p in self.device.view.record.photos if p.part == own]

    def words(self, end: str) -> str:
        return end_in_words(end)

    @property
    def candidates(self) -> list[Candidate]:
        """Every kind of the drawer, like for like first."""
        found = [self._candidate(kind) for kind in self.device.kinds.values()]
        return sorted(found, key=lambda one: _ORDER.index(one.verdict))

    def _candidate(self, kind: PartKind) -> Candidate:
        held: Substitute = substitute(self.device.view.unit, self.device.id, kind)
        rank = {"no": 0, "change": 1, "fits": 2}
        points = sorted(held.points, key=lambda point: rank[str(point.fit)])
        said = tuple((str(point.what), str(point.fit), str(point.text)) for point in points)
        return Candidate(kind, str(held.verdict), str(VERDICT_WORDS[str(held.verdict)]), said)

    @property
    def chosen(self) -> Candidate | None:
        return self._candidate(self.part) if self.part else None

    @property
    def lines(self) -> tuple[SheetWire, ...]:
        """The sheet before it begins: every wire, and where it will go."""
        assert self.part is not None
        return plan(self.device.view.unit, self.device.id, self.part)

    @property
    def terminals(self) -> list[str]:
        kind = self.part or (self.sheet.kind if self.sheet else None)
        return [terminal.name for terminal in kind.terminals] if kind else []

    @property
    def rows(self) -> list[SheetRow]:
        return [_row(placed) for placed in self.sheet.wires] if self.sheet else []

    @property
    def progress(self) -> str:
        assert self.sheet is not None
        return phrase(
            "devices.swap.off-wires", off=self.sheet.off, on=self.sheet.on, len=len(self.sheet.wires)
        )

    @property
    def figure(self) -> Markup:
        assert self.sheet is not None
        words: dict[str, list[str]] = {}
        for placed in self.sheet.wires:
            if placed.where == "new":
                words.setdefault(placed.at, []).append(end_in_words(placed.wire.to))
        return Markup(part_figure(self.sheet.kind, words))


def _row(placed: PlacedWire) -> SheetRow:
    wire = placed.wire
    told = " · ".join(
        filter(None, (wire.colour, wire.label, wire.awg and phrase("devices.swap.awg", awg=wire.awg)))
    )
    told = phrase("devices.swap.end-renewed", told=told, renewed=placed.renewed) if placed.renewed else told
    said = {
        "old": phrase("devices.swap.old-part"),
        "hand": phrase("devices.swap.off-hand"),
        "new": phrase("devices.swap.landed", at=placed.at),
    }
    act, words = {
        "old": ("off", phrase("devices.swap.take-off", old=wire.old)),
        "hand": ("on", phrase("devices.swap.landed-2", new=wire.new)),
        "new": ("", ""),
    }[placed.where]
    return SheetRow(
        wire.id,
        end_in_words(wire.to),
        told.strip(" ·"),
        wire.old,
        wire.new,
        placed.where,
        said[placed.where],
        act,
        words,
        placed.where != "old",
    )
