"""A device on the relay bench: which part it is, what lies on it, and the faces of its page."""

from __future__ import annotations

from collections.abc import Mapping

from werkzeug.utils import cached_property

from plentar.core.errors import BadInput
from plentar.core.relay_bench.fitted import drawer, fitted
from plentar.core.relay_bench.sheet import Sheet, sheet_of
from plentar.core.relay_bench.wires import wires_of
from plentar.core.said import Said, say
from plentar.core.unit.parts import BlowerRelay
from plentar.core.unit.terminals import PartKind
from plentar.core.unit.unit import Device
from plentar.web.visits.view import BenchView
from plentar.words import phrase

CONTACTS, WIRING, SWAP, MOTOR = "contacts", "wiring", "swap", "motor"
FACES = {
    CONTACTS: say("devices.device.contacts"),
    WIRING: say("devices.device.wiring"),
    SWAP: say("devices.device.swap"),
    MOTOR: say("devices.device.motor"),
}
#: Ends that are said otherwise than they are written.
END_WORDS: Mapping[str, Said | str] = {
    "blower": say("choice.blower"),
    "blower-2": say("devices.device.blower-other-speed"),
    "heat": say("devices.device.heat-side"),
    "tie": say("devices.device.tie-relay"),
    "none": say("nothing"),
    "C": "C",
    "R": "R",
}


def end_in_words(end: str) -> str:
    if end.startswith("="):
        return phrase("devices.device.jumper", end=end[1:])
    if end.endswith(".out"):
        return phrase("devices.device.far-end", end=end.removesuffix(".out"))
    return str(END_WORDS.get(end, end))


#: What is often printed at common, normally open and normally closed.
USUAL_PRINTS = (("1", "3", "2"), ("2", "3", "1"), ("1", "2", "3"), ("4", "6", "5"))


def prints_of(kind: PartKind, printed: str) -> tuple[tuple[str, str], ...]:
    """What is printed at the ends of the set in use, from three words in the order common, normally open,
    normally closed; raises BadInput at ``printed``."""
    words, ends = printed.replace(",", " ").split(), kind.sets[0].ends
    if not words:
        return ()
    if len(words) != len(ends) or len(set(words)) != len(words):
        raise BadInput("printed", phrase("devices.device.different-prints-common-normally", len=len(ends)))
    return tuple(zip(ends, words, strict=True))


class DeviceView:
    """One device of a visit's unit. ``own`` are the shop's part kinds, by name."""

    def __init__(self, view: BenchView, device_id: str, own: Mapping[str, PartKind]) -> None:
        self.view, self.id, self.own = view, device_id, own
        device = view.unit.device_by_id.get(device_id)
        if device is None:
            raise BadInput("device", phrase("devices.device.no-device-this-unit", device_id=device_id))
        self.device: Device = device

    @property
    def base(self) -> str:
        return f"{self.view.base}/devices/{self.id}"

    @property
    def of_blower(self) -> bool:
        return isinstance(self.device, BlowerRelay)

    @cached_property
    def kind(self) -> PartKind:
        """The part that stands there, with what the plate prints of it."""
        return fitted(self.view.unit, self.device)

    @cached_property
    def kinds(self) -> Mapping[str, PartKind]:
        """The drawer: kinds that ship, the unit's own, the shop's own."""
        return drawer(self.view.unit) | dict(self.own)

    def kind_named(self, name: str) -> PartKind:
        """A kind of the drawer; raises BadInput at ``part``."""
        if name not in self.kinds:
            raise BadInput("part", phrase("devices.device.no-part-kind-drawer", name=name))
        return self.kinds[name]

    @property
    def title(self) -> str:
        """Such as “BR · SPDT relay”."""
        return f"{self.id} · {self.kind.title}"

    @property
    def faces(self) -> list[tuple[str, str]]:
        """The faces of its page: address and words."""
        there = [face for face in FACES if face != MOTOR or self.of_blower]
        return [(face, str(FACES[face])) for face in there]

    @cached_property
    def ends(self) -> dict[str, tuple[str, ...]]:
        """What lies on each terminal."""
        wires = wires_of(self.view.unit, self.device)
        return {terminal: tuple(wire.to for wire in found) for terminal, found in wires.items()}

    @property
    def prints(self) -> Mapping[str, str]:
        """What is printed at its terminals, where somebody has said it."""
        return dict(self.device.printed) if isinstance(self.device, BlowerRelay) else {}

    def named(self, terminal: str) -> str:
        """A terminal as it is found on the part: such as “COM, printed 1”."""
        return (
            phrase("devices.device.printed", terminal=terminal, prints=self.prints[terminal])
            if terminal in self.prints
            else terminal
        )

    @property
    def usual_prints(self) -> list[tuple[str, str, bool]]:
        """What may be printed there: words, as a form sends it, whether it was chosen."""
        if not self.of_blower:
            return []
        now = " ".join(self.prints.values())
        said = [
            (
                phrase("devices.device.closed-and-open", closed=f"{com}–{nc}", open=f"{com}–{no}"),
                f"{com} {no} {nc}",
            )
            for com, no, nc in USUAL_PRINTS
        ]
        return [
            (words, sent, sent == now) for words, sent in [*said, (phrase("devices.device.com-no-nc"), "")]
        ]

    @property
    def end_words(self) -> dict[str, list[str]]:
        """The same in words."""
        return {terminal: [end_in_words(e) for e in ends] for terminal, ends in self.ends.items()}

    @cached_property
    def sheet(self) -> Sheet | None:
        return sheet_of(self.view.unit, self.view.visit.events, self.id)
