"""The contact test on its page: leads, coil, every pair at rest and driven, starts again and again."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from markupsafe import Markup

from plentar.core.door import (
    Repeats,
    Row,
    SetVerdict,
    Word,
    device_verdict,
    leads_in_words,
    leads_of,
    readings_of,
    repeats_of,
    rows_of,
    set_verdicts,
)
from plentar.core.events import Event, Reading, Tested
from plentar.core.parts import BlowerRelay
from plentar.core.points import points
from plentar.core.quantity import Quantity, show
from plentar.core.terminals import PartKind
from plentar.drawing.part import part_figure
from plentar.web.devices.device import DeviceView
from plentar.web.showing import verdict

OHM, TONE = Quantity.OHMS, Quantity.TONE
Read = dict[tuple[frozenset[str], bool], tuple[str, bool | None]]


@dataclass(frozen=True, slots=True)
class PairRow:
    """A row of the table, ready to show."""

    fields: dict[str, str]
    said: str
    driven: bool
    due: str
    read: str
    mark: Markup


class ContactsView:
    """The contact test of the part that is there, or of the new one before it goes in."""

    face = "contacts"

    def __init__(self, device: DeviceView, *, new: bool = False, part: str = "") -> None:
        self.device, self.new = device, new
        self.kind: PartKind = device.kind_named(part) if new and part else device.kind

    @property
    def part(self) -> str:
        """The name of the kind that is tested."""
        return self.kind.name

    @cached_property
    def _events(self) -> tuple[Event, ...]:
        return self.device.view.visit.events

    @cached_property
    def read(self) -> Read:
        """What was read of each pair: on this page, or at the points of the bench."""
        found = readings_of(self._events, self.device.id, new=self.new)
        return found if self.new else dict(self._on_the_bench()) | found

    def _on_the_bench(
        self,
    ) -> Iterator[tuple[tuple[frozenset[str], bool], tuple[str, bool | None]]]:
        for pair, point in self.points.items():
            for event in self._events:
                if (
                    isinstance(event, Reading)
                    and event.at == point
                    and event.quantity in (OHM, TONE)
                ):
                    yield (frozenset(pair), event.driven), _shown(event)

    @cached_property
    def points(self) -> dict[tuple[str, str], str]:
        """The pairs that are points of the bench: those of the set in use, and of every switch."""
        return points_of(self.device)

    @cached_property
    def rows(self) -> tuple[Row, ...]:
        """The table."""
        return rows_of(self.kind, self.read)

    @property
    def groups(self) -> list[tuple[str, list[PairRow]]]:
        """The rows at rest, and those driven."""
        return [
            ("At rest", [self._row(row) for row in self.rows if not row.driven]),
            ("Coil driven", [self._row(row) for row in self.rows if row.driven]),
        ]

    def _row(self, row: Row) -> PairRow:
        word = Word.NOT_MEASURED
        if row.read:
            word = Word.UNCLEAR if row.closed is None else Word.CLOSED if row.closed else Word.OPEN
        due = "a tone, under 1 Ω" if row.due_closed else "no tone, OL"
        return PairRow(
            self._fields(row.pair) | ({"driven": "yes"} if row.driven else {}),
            f"{row.pair[0]} – {row.pair[1]}", row.driven, due, row.read, verdict(word, row.good),
        )  # fmt: skip

    def _fields(self, pair: tuple[str, str]) -> dict[str, str]:
        """What a form of this page says of a pair."""
        return {"pair": ":".join(pair), "part": self.part} | ({"new": "yes"} if self.new else {})

    @property
    def coil_fields(self) -> dict[str, str]:
        """The same of the coil."""
        return self._fields(self.kind.coil)

    @property
    def verdicts(self) -> tuple[SetVerdict, ...]:
        """A verdict for each set."""
        return set_verdicts(self.kind, self.rows)

    @property
    def whole(self) -> SetVerdict:
        """The device."""
        return device_verdict(self.verdicts)

    @cached_property
    def leads(self) -> tuple[bool | None, str]:
        """Whether the leads may be trusted, and what is said of them."""
        return leads_in_words(leads_of(self._events, self.device.id))

    @property
    def gated(self) -> bool:
        """The part in the unit is tested proved dead alone; a new one lies on the bench."""
        return not self.new and not self.device.view.state.proved_dead

    @cached_property
    def coil_ohms(self) -> float | None:
        """What the coil read, the newest; None where nobody did."""
        coil = frozenset(self.kind.coil)
        found = None
        for event in self._events:
            if event.mended == self.device.id and not self.new:
                found = None
            if isinstance(event, Tested) and event.device == self.device.id:
                if (
                    event.new == self.new
                    and frozenset(event.pair) == coil
                    and event.ohms is not None
                ):
                    found = event.ohms
            elif isinstance(event, Reading) and not self.new and event.quantity is OHM:
                found = event.value if event.at == f"{self.device.id}.coil" else found
        return found

    @property
    def may_drive(self) -> bool:
        """Its coil has ohms as a coil has: one with shorted turns is not driven."""
        return self.coil_ohms is not None and self.coil_ohms >= self.kind.ohms.low / 2

    @property
    def coil_said(self) -> str:
        """What is due of the coil, and what it read."""
        low, high = self.kind.ohms.low, self.kind.ohms.high
        due = f"due {show(low)} … {show(high, 'Ω')}"
        if self.coil_ohms is None:
            return f"{due}: before anything drives it"
        read = "OL" if self.coil_ohms == float("inf") else show(self.coil_ohms, "Ω")
        if not self.may_drive:
            return f"{due}, read {read}: shorted turns. It is not driven: replace it"
        return f"{due}, read {read}"

    @property
    def live_points(self) -> list[tuple[str, str]]:
        """Where volts across a contact are read instead, live: the point, and its pad."""
        link = self.device.view.link
        return [(name, f"{link(name)}&quantity=volts") for name in self.points.values()]

    @property
    def drive_words(self) -> str:
        """What to drive it with."""
        if self.kind.dc:
            return "driven by a bench DC supply of 20 to 30 V, or a small battery where it snaps on that; its plug pulled"
        return "driven by the bench 24 V alone, its own two wires off"

    @property
    def repeats(self) -> Repeats | None:
        """What repeated starts say."""
        return None if self.new else repeats_of(self._events, self.device.id)

    @property
    def figure(self) -> Markup:
        """The part, with its wires."""
        words = {} if self.new else self.device.end_words
        return Markup(part_figure(self.kind, words))


def points_of(device: DeviceView) -> dict[tuple[str, str], str]:
    """A pair of terminals of the part in the unit, and the point of the bench that it is."""
    kind, of = device.kind, device.device
    if isinstance(of, BlowerRelay):
        first = kind.sets[0]
        ends = {"no": first.no, "nc": first.nc}
        known = {point.name for point in points(device.view.unit)}
        return {
            (first.common, end): f"{of.id}.{side}"
            for side, end in ends.items() if end and f"{of.id}.{side}" in known
        }  # fmt: skip
    return {
        (one.common, one.no): switch.id
        for one, switch in zip(kind.sets, of.switches, strict=False) if one.no
    }  # fmt: skip


def _shown(event: Reading) -> tuple[str, bool | None]:
    said = Tested(
        t_s=event.t_s, device="", pair=("", ""), driven=event.driven,
        tone=bool(event.value) if event.quantity is TONE else None,
        ohms=None if event.quantity is TONE else event.value,
    )  # fmt: skip
    return said.shown, said.closed
