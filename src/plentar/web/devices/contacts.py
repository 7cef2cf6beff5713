"""The contact test on its page: leads, coil, every pair at rest and driven, starts again and again."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.expected import Word
from plentar.core.relay_bench.contacts import (
    Read,
    Repeats,
    Row,
    SetVerdict,
    device_verdict,
    leads_in_words,
    leads_of,
    pair_points,
    readings_of,
    repeats_of,
    rows_of,
    set_verdicts,
)
from plentar.core.unit.terminals import PartKind
from plentar.core.visit.events import Event
from plentar.drawing.part import part_figure
from plentar.web.devices.device import DeviceView
from plentar.web.showing import verdict
from plentar.words import phrase
from plentar.words.numbers import show


@dataclass(frozen=True, slots=True)
class PairRow:
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
        return self.kind.name

    @cached_property
    def _events(self) -> tuple[Event, ...]:
        return self.device.view.visit.events

    @cached_property
    def read(self) -> Read:
        """What was read of each pair: on this page, or at the points of the bench."""
        device = self.device
        return readings_of(device.view.unit, device.device, self._events, new=self.new)

    @cached_property
    def rows(self) -> tuple[Row, ...]:
        return rows_of(self.kind, self.read)

    @property
    def groups(self) -> list[tuple[str, list[PairRow]]]:
        return [
            (phrase("devices.contacts.rest"), [self._row(row) for row in self.rows if not row.driven]),
            (phrase("devices.contacts.coil-driven"), [self._row(row) for row in self.rows if row.driven]),
        ]

    def _row(self, row: Row) -> PairRow:
        word = Word.NOT_MEASURED
        if row.read:
            word = Word.UNCLEAR if row.closed is None else Word.CLOSED if row.closed else Word.OPEN
        due = (
            phrase("devices.contacts.tone-under-1")
            if row.due_closed
            else phrase("devices.contacts.no-tone-ol")
        )
        return PairRow(
            self._fields(row.pair) | ({"driven": "yes"} if row.driven else {}),
            " – ".join(map(self.device.named, row.pair)) if not self.new else " – ".join(row.pair),
            row.driven,
            due,
            str(row.read),
            verdict(word, row.good),
        )

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
        return device_verdict(self.verdicts)

    @cached_property
    def leads(self) -> tuple[bool | None, str]:
        """Whether the leads may be trusted, and what is said of them."""
        good, said = leads_in_words(leads_of(self._events, self.device.id))
        return good, str(said)

    @property
    def gated(self) -> bool:
        """The part in the unit is tested proved dead alone; a new one lies on the bench."""
        return not self.new and not self.device.view.state.proved_dead

    @property
    def coil_ohms(self) -> float | None:
        """What the coil read, the newest; None where nobody did."""
        said = self.read.get((frozenset(self.kind.coil), False))
        return said.ohms if said else None

    @property
    def coil_off(self) -> bool:
        """Its own two wires are off, by the record."""
        return f"{self.device.id}.coil" in self.device.view.state.coils_off

    @property
    def may_drive(self) -> bool:
        """Its coil has ohms as a coil has: one with shorted turns is not driven."""
        return self.coil_ohms is not None and self.coil_ohms >= self.kind.ohms.low / 2

    @property
    def coil_said(self) -> str:
        low, high = self.kind.ohms.low, self.kind.ohms.high
        due = phrase("devices.contacts.due", low=show(low), high=show(high, "Ω"))
        if self.coil_ohms is None:
            return phrase("devices.contacts.before-anything-drives", due=due)
        read = "OL" if self.coil_ohms == float("inf") else show(self.coil_ohms, "Ω")
        if not self.may_drive:
            return phrase("devices.contacts.read-shorted-turns-not", due=due, read=read)
        return phrase("devices.contacts.read", due=due, read=read)

    @property
    def live_points(self) -> list[tuple[str, str]]:
        """Where volts across a contact are read instead, live: the point, and its pad."""
        link = self.device.view.link
        device = self.device
        points = pair_points(device.view.unit, device.device)
        return [(at, f"{link(at)}&quantity=volts") for at in points if not at.endswith(".coil")]

    @property
    def drive_words(self) -> str:
        if self.kind.dc:
            return phrase("devices.contacts.driven-bench-dc-supply")
        return phrase("devices.contacts.driven-isolated-bench-24")

    @property
    def repeats(self) -> Repeats | None:
        return None if self.new else repeats_of(self._events, self.device.id)

    @property
    def figure(self) -> Markup:
        words = {} if self.new else self.device.end_words
        prints = {} if self.new else self.device.prints
        return Markup(part_figure(self.kind, words, prints=prints))
