"""A part as it lies in the hand: its terminals, what is joined inside at rest and driven, and what
is printed on it. Generic: no maker's part is meant, and none is needed.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property

from plentar.core.errors import BadInput
from plentar.core.quantity import Band
from plentar.core.said import NOTHING, Said, listed, say
from plentar.core.tables.devices import BLOWER_RELAYS, CONTROLS, DeviceKind

NAME = re.compile(r"[A-Za-z0-9+~-]{1,8}")
#: How a wire is held: the quarter-inch blade, the narrow one, a screw, a pin of a board's plug.
BLADES = ("1/4", "3/16", "screw", "pin")
#: What a set of contacts is for.
ROLES = ("element", "blower", "auxiliary")
MOST_TERMINALS, MOST_SETS = 24, 8


@dataclass(frozen=True, slots=True)
class Terminal:
    """One terminal: its printed name, where it lies (column and row, from the upper left, as seen
    from the front), its blade, how many wires it takes side by side. A ``dummy`` holds wires
    together and is joined to nothing inside."""

    name: str
    column: int
    row: int
    blade: str = "1/4"
    places: int = 2
    dummy: bool = False


@dataclass(frozen=True, slots=True)
class ContactSet:
    """One set: its common, what the common meets driven, and at rest. Windows where they are
    printed; those of the kind where not, s."""

    name: str
    common: str
    no: str | None = None
    nc: str | None = None
    role: str = "element"
    on_s: Band | None = None
    off_s: Band | None = None

    @property
    def ends(self) -> tuple[str, ...]:
        return tuple(end for end in (self.common, self.no, self.nc) if end)


@dataclass(frozen=True)
class PartKind:
    """A kind of part. ``device`` is how it acts: a row of ``tables/devices``.

    ``resistive_amps`` and ``motor_amps`` are its contacts' ratings, None where none is printed;
    ``tied`` are terminals that a strap inside joins; ``seen``: its contacts can be looked at;
    ``board``: it is a part of a board, or plugged into one. ``former`` are names that terminals once had,
    in records of old, with those of today. Raises BadInput (path below the kind).
    """

    name: str
    title: Said
    device: str
    terminals: tuple[Terminal, ...]
    coil: tuple[str, str]
    sets: tuple[ContactSet, ...]
    tied: tuple[tuple[str, str], ...] = ()
    resistive_amps: float | None = None
    motor_amps: float | None = None
    coil_volts: float = 24.0
    coil_ohms: Band | None = None
    coil_va: float | None = None
    seen: bool = False
    board: bool = False
    former: Mapping[str, str] = field(default_factory=dict, hash=False)

    def __post_init__(self) -> None:
        _check(self)

    @property
    def kind(self) -> DeviceKind:
        return (CONTROLS | BLOWER_RELAYS)[self.device]

    @property
    def va(self) -> float:
        return self.coil_va or self.kind.coil_va

    @property
    def ohms(self) -> Band:
        return self.coil_ohms or self.kind.coil_ohms

    @property
    def dc(self) -> bool:
        """Its coil is fed with DC: behind a small rectifier of its own, or by a battery on the bench."""
        return self.kind.dc_coil

    @cached_property
    def terminal_by_name(self) -> dict[str, Terminal]:
        return {terminal.name: terminal for terminal in self.terminals}

    def named(self, terminal: str) -> str:
        """A terminal of a record by the name it has today."""
        return self.former.get(terminal, terminal)

    @property
    def power_sets(self) -> tuple[ContactSet, ...]:
        return tuple(one for one in self.sets if one.role != "auxiliary")

    @property
    def least_blade(self) -> str:
        return min((self.terminal_by_name[end].blade for end in self.coil), key=_width)

    def on_s(self, one: ContactSet) -> Band:
        return one.on_s or self.kind.on_s

    def off_s(self, one: ContactSet) -> Band:
        return one.off_s or self.kind.off_s

    def joined(self, *, driven: bool) -> Iterator[tuple[str, str]]:
        yield from self.tied
        for one in self.sets:
            other = one.no if driven else one.nc
            if other is not None:
                yield one.common, other

    def meets(self, a: str, b: str, *, driven: bool) -> bool:
        """Whether two terminals are joined inside, at rest or driven, through whatever is tied."""
        reached, pairs = {a}, list(self.joined(driven=driven))
        while True:
            more = {d for pair in pairs if reached & set(pair) for d in pair}
            if more <= reached:
                return b in reached
            reached |= more


def _width(blade: str) -> int:
    return {"pin": 0, "3/16": 1, "1/4": 2, "screw": 3}[blade]


def _check(kind: PartKind) -> None:
    """Raises BadInput at the first rule that the parts of a kind break."""
    if kind.device not in CONTROLS | BLOWER_RELAYS:
        raise BadInput("device", say("unit.terminals.no-device-acts-like", device=kind.device))
    if not 0 < len(kind.terminals) <= MOST_TERMINALS:
        raise BadInput("terminals", say("unit.terminals.between-1-terminals", most_terminals=MOST_TERMINALS))
    if not 0 < len(kind.sets) <= MOST_SETS:
        raise BadInput("sets", say("unit.terminals.between-1-sets-contacts", most_sets=MOST_SETS))
    _terminals(kind.terminals)
    for at, one in enumerate(kind.sets):
        if one.no is None and one.nc is None:
            raise BadInput(f"sets[{at}]", say("unit.terminals.set-makes-or-breaks"))
        if one.role not in ROLES:
            raise BadInput(f"sets[{at}].role", say("unit.terminals.one", roles=listed(ROLES, ",")))
    used: dict[str, str] = {}
    for path, end in _ends(kind):
        problem = _problem(kind, end) or (
            say("unit.terminals.already", end=end, used=used[end]) if end in used else ""
        )
        if problem:
            raise BadInput(path, problem)
        used[end] = path
    for at, pair in enumerate(kind.tied):
        for end in pair:
            if _problem(kind, end) or end in kind.coil:
                raise BadInput(f"tied[{at}]", say("unit.terminals.cant-tied-inside", end=end))
    if any(kind.meets(one.common, end, driven=driven) for driven, one, end in _apart(kind)):
        raise BadInput("tied", say("unit.terminals.what-tied-bridges-set"))


def _terminals(terminals: tuple[Terminal, ...]) -> None:
    names, places = set[str](), dict[tuple[int, int], str]()
    for at, terminal in enumerate(terminals):
        path, place = f"terminals[{at}]", (terminal.column, terminal.row)
        if not NAME.fullmatch(terminal.name):
            raise BadInput(f"{path}.name", say("unit.terminals.no-terminals-name", terminal=terminal.name))
        if terminal.name in names:
            raise BadInput(f"{path}.name", say("unit.terminals.named-twice", terminal=terminal.name))
        if place in places:
            raise BadInput(path, say("unit.terminals.lies", terminal=terminal.name, places=places[place]))
        if terminal.blade not in BLADES:
            raise BadInput(f"{path}.blade", say("unit.terminals.one-2", blades=listed(BLADES, ",")))
        names.add(terminal.name)
        places[place] = terminal.name


def _ends(kind: PartKind) -> Iterator[tuple[str, str]]:
    """Where a terminal is named, and which."""
    yield from ((f"coil[{n}]", end) for n, end in enumerate(kind.coil))
    for at, one in enumerate(kind.sets):
        for key, end in (("common", one.common), ("no", one.no), ("nc", one.nc)):
            if end:
                yield f"sets[{at}].{key}", end


def _problem(kind: PartKind, end: str) -> Said:
    terminal = kind.terminal_by_name.get(end)
    if terminal is None:
        return say("unit.terminals.no-terminal", end=end)
    return say("unit.terminals.dummy-nothing-inside-joined", end=end) if terminal.dummy else NOTHING


def _apart(kind: PartKind) -> Iterator[tuple[bool, ContactSet, str]]:
    """What must stay apart: a set's open side in each state."""
    for one in kind.sets:
        if one.no:
            yield False, one, one.no
        if one.nc:
            yield True, one, one.nc
