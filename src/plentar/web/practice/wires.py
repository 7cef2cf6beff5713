"""The wires of a device on their page: where each came from, where it leads, and the terminals to choose from."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.unit.naming import said_of
from plentar.drawing.part import part_figure
from plentar.practice.bench import Bench
from plentar.practice.transfer import Transfer
from plentar.web.devices.device import end_in_words
from plentar.words import phrase

REPLACE, MOVE = "replace", "move"


@dataclass(frozen=True, slots=True)
class WireRow:
    """A wire: its id, the old part's terminal (empty where nobody marked it), where it leads, and each terminal that
    it may be put on: value, words, chosen."""

    id: str
    came_from: str
    leads_to: str
    choices: tuple[tuple[str, str, bool], ...]


@dataclass(frozen=True)
class WiresView:
    """The wires of a new part that goes in, or of one that is in and whose wires go elsewhere (``act``).

    ``chosen`` is what a form has said, by the wire; ``shown`` whether each right terminal is chosen to begin with."""

    bench: Bench
    part: str
    act: str
    marked: bool = True
    chosen: Mapping[str, str] | None = None
    shown: bool = False

    @cached_property
    def transfer(self) -> Transfer:
        if self.act == MOVE:
            return self.bench.transfer_of(self.part)
        return self.bench.transfer_to(self.part, marked=self.marked)

    @cached_property
    def _lies(self) -> Mapping[str, str]:
        """Where each wire lies, as far as it is known."""
        if self.chosen is not None:
            return self.chosen
        if self.act == MOVE:
            return self.bench.landed[self.part]
        return {wire.id: wire.terminal for wire in self.transfer.wires} if self.shown else {}

    @property
    def rows(self) -> list[WireRow]:
        before = self.transfer.before if self.marked and self.act == REPLACE else {}
        return [
            WireRow(
                wire.id,
                before.get(wire.id, ""),
                end_in_words(wire.to),
                self._choices(self._lies.get(wire.id, "")),
            )
            for wire in self.transfer.wires
        ]

    def _choices(self, lies: str) -> tuple[tuple[str, str, bool], ...]:
        names = [terminal.name for terminal in self.transfer.kind.terminals]
        return (("", phrase("practice.left-off"), not lies), *((name, name, name == lies) for name in names))

    @property
    def name(self) -> str:
        return str(said_of(self.bench.unit, self.part))

    @property
    def title(self) -> str:
        """What the new part is."""
        return str(self.transfer.kind.title)

    @property
    def figure(self) -> Markup:
        """The new part with what lies on it."""
        words: dict[str, list[str]] = {}
        for wire in self.transfer.wires:
            if terminal := self._lies.get(wire.id):
                words.setdefault(terminal, []).append(end_in_words(wire.to))
        return Markup(part_figure(self.transfer.kind, words))


def said_on(pairs: Sequence[str]) -> dict[str, str]:
    """The terminal of each wire from a form's pairs such as ``w1:NO``; the last that is said of a wire counts."""
    return {wire: terminal for wire, _, terminal in (pair.partition(":") for pair in pairs)}
