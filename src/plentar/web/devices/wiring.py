"""The wiring proof on its page: what is on each terminal, what comes of it, the right way beside it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from flask import url_for
from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.checks.relay_bench import HARM
from plentar.core.checks.relay_bench import WORDS as WIRING_WORDS
from plentar.core.errors import BadInput
from plentar.core.relay_bench.proof import Proof, Wrong, prove_wiring
from plentar.core.relay_bench.wires import right_wires
from plentar.core.said import listed, say
from plentar.drawing.part import part_figure
from plentar.web.devices.device import DeviceView, end_in_words
from plentar.words import chosen, phrase
from plentar.words.numbers import show

CALL_WORDS = {
    (): say("devices.wiring.nothing-called"),
    ("G",): "G",
    ("W1",): "W1",
    ("G", "W1"): listed(("G", "W1")),
}
FAULT_WORDS = {
    "no-stuck-open": say("devices.wiring.normally-open-never-closes"),
    "no-welded": say("devices.wiring.normally-open-welded"),
    "nc-stuck-open": say("devices.wiring.normally-closed-burnt-open"),
    "nc-welded": say("devices.wiring.normally-closed-welded"),
}
NO = "–"


@dataclass(frozen=True, slots=True)
class WrongLine:
    """One thing that is wrong: in words, whether it hurts, the way in words and as an address."""

    text: str
    harm: bool
    way: str
    href: str
    shown: bool


@dataclass(frozen=True, slots=True)
class Choice:
    """An end that a terminal may be wired to: its words, where a touch leads, chosen or not."""

    words: str
    href: str
    chosen: bool


class WiringView:
    """A wiring as it is tried: nothing is stored before it is written to the plate.

    ``on`` are ``terminal:end`` pairs; empty, what is on the terminals by the plate.
    """

    face = "wiring"

    def __init__(
        self, device: DeviceView, on: Sequence[str], part: str = "", at: str = "", way: str = ""
    ) -> None:
        self.device = device
        self.kind = device.kind_named(part) if part and part != device.kind.name else device.kind
        self.as_on_plate = not on and self.kind.name == device.kind.name
        self.ends = self._given(on) if on or not self.as_on_plate else dict(device.ends)
        self.at = at if at in self.kind.terminal_by_name else ""
        self.way = way

    def _given(self, on: Sequence[str]) -> dict[str, tuple[str, ...]]:
        found: dict[str, tuple[str, ...]] = {}
        for each in on:
            terminal, _, end = each.partition(":")
            terminal = self.kind.named(terminal)
            if terminal not in self.kind.terminal_by_name:
                raise BadInput(
                    "on", phrase("devices.wiring.no-terminal", terminal=terminal, kind=self.kind.title)
                )
            if end and end not in found.get(terminal, ()):
                found[terminal] = (*found.get(terminal, ()), end)
        return found

    @property
    def on(self) -> list[str]:
        return [f"{terminal}:{end}" for terminal, ends in self.ends.items() for end in ends]

    @cached_property
    def _tried(self) -> Proof | str:
        device, view = self.device.device, self.device.view
        try:
            return prove_wiring(view.unit, device, self.kind, self.ends)
        except BadInput as bad:
            return f"{bad.path}: {bad.reason}"

    @property
    def proof(self) -> Proof | None:
        """What comes of it; None where an end is not known."""
        return self._tried if isinstance(self._tried, Proof) else None

    @property
    def problem(self) -> str:
        return self._tried if isinstance(self._tried, str) else ""

    @property
    def wrong(self) -> list[WrongLine]:
        """What is wrong, the harm first."""
        if self.proof is None:
            return []
        codes = sorted((*self.proof.wrong, *self.proof.beside), key=lambda code: code not in HARM)
        return [self._line(code) for code in codes]

    def _line(self, code: Wrong) -> WrongLine:
        assert self.proof is not None
        way = (self.proof.ways or {}).get(code, ())
        said = " → ".join(_node_in_words(node) for node in way)
        return WrongLine(
            str(WIRING_WORDS[code]), code in HARM, said, self._href(way=str(code)), self.way == str(code)
        )

    @property
    def lit(self) -> list[tuple[str, str]]:
        """The way that is shown, terminal by terminal: the one asked for, else the worst."""
        ways = (self.proof.ways or {}) if self.proof else {}
        chosen = next((way for code, way in ways.items() if str(code) == self.way), None)
        way = chosen or next(iter(ways.values()), ())
        names = [node.removeprefix("at ") for node in way if node.startswith("at ")]
        return list(pairwise(names))

    @property
    def cases(self) -> list[tuple[str, str, str, str]]:
        """Each set of calls: does the blower run, do strips heat, the most through a contact."""
        if self.proof is None:
            return []
        every = [(CALL_WORDS[tuple(sorted(c.calls))], c) for c in self.proof.cases]
        if self.proof.after is not None:
            every.append((phrase("devices.wiring.call-over-heat-switch"), self.proof.after))
        if self.proof.stuck is not None and self.device.of_blower:
            every.append((phrase("devices.wiring.w1-heat-switch-does"), self.proof.stuck))
        return [
            (
                str(words),
                _does("devices.wiring.runs", case.blower, case.short),
                _does("devices.wiring.heats", case.heat, case.short),
                "" if case.through_relay_amps is None else show(case.through_relay_amps, "A"),
            )
            for words, case in every
        ]

    @property
    def failing(self) -> list[tuple[str, str]]:
        if self.proof is None or len(self.proof.failing) == 0:
            return []
        many = len({one.set_name for one in self.proof.failing}) > 1
        return [
            (
                phrase("devices.wiring.set", set_name=one.set_name, fault_words=FAULT_WORDS[one.fault])
                if many
                else str(FAULT_WORDS[one.fault]),
                "; ".join(str(WIRING_WORDS[code]) for code in one.wrong)
                or phrase("devices.wiring.nothing-shows-these-calls"),
            )
            for one in self.proof.failing
        ]

    @property
    def rights(self) -> list[tuple[str, str, bool]]:
        """The right wiring, one wire at a time: terminal, where it leads, whether it is so here."""
        wires = right_wires(self.device.view.unit, self.device.device, self.kind)
        return [(w.terminal, end_in_words(w.to), w.to in self.ends.get(w.terminal, ())) for w in wires]

    @property
    def choices(self) -> list[Choice]:
        here = self.ends.get(self.at, ())
        return [
            Choice(end_in_words(end), self._with(end), end in here if end else not here)
            for end in self._possible()
        ]

    def _possible(self) -> Iterator[str]:
        yield ""
        unit = self.device.view.unit
        if self.device.of_blower:
            yield from ("L1", "L2", "blower", "blower-2")
            if unit.possible_taps:
                yield "heat"
        else:
            yield from ("L1", "L2")
            strips = [
                e
                for e in unit.elements
                if self.device.id in {unit.control_of_switch[s.id].id for s in unit.rung_switches(e)}
            ]
            yield from (e.id for e in strips)
            yield from (f"{e.id}.out" for e in strips)
        yield from ("R", "C", *unit.calls)
        yield from (f"={t.name}" for t in self.kind.terminals if t.name != self.at)

    def _with(self, end: str) -> str:
        """The address with this end on the chosen terminal, or off it where it is on it."""
        here = self.ends.get(self.at, ())
        now = () if not end else tuple(e for e in here if e != end) if end in here else (*here, end)
        ends = {t: e for t, e in self.ends.items() if t != self.at} | ({self.at: now} if now else {})
        return self._href(ends=ends, at=self.at)

    def _href(self, ends: dict[str, tuple[str, ...]] | None = None, at: str = "", way: str = "") -> str:
        there = self.ends if ends is None else ends
        on = [f"{terminal}:{end}" for terminal, all_ in there.items() for end in all_]
        return url_for(
            "devices.show",
            visit_id=self.device.view.record.row.id,
            device_id=self.device.id,
            face=self.face,
            part=self.kind.name,
            on=on or [f"{self.kind.coil[0]}:"],
            at=at or None,
            way=way or None,
        )

    @property
    def figure(self) -> Markup:
        """The part with its wires, each terminal a touch, the way of the harm lit."""
        words = {t: [end_in_words(e) for e in ends] for t, ends in self.ends.items()}
        return Markup(
            part_figure(
                self.kind,
                words,
                lit=self.lit,
                link=lambda t: self._href(at=t),
                selected=self.at,
                prints=self.device.prints,
            )
        )


def _does(code: str, so: bool | None, short: bool) -> str:
    if short:
        return phrase("devices.wiring.short")
    return phrase(code) if so else NO


_NODES = {
    "at": "devices.wiring.terminal",
    "heat": "devices.wiring.heat-side",
    "return": "devices.wiring.far-end",
}


def _node_in_words(node: str) -> str:
    kind, _, name = node.rpartition(" ")
    return phrase(_NODES[kind], name=name) if kind in _NODES else chosen(name)
