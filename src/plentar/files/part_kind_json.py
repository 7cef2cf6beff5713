"""A part kind, and the wires on a device's terminals, as the visit file writes them."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from plentar.core.quantity import Band
from plentar.core.unit import terminals as core
from plentar.core.unit.parts import CONTROL_KINDS, RELAY_KINDS, Wire
from plentar.files.shapes import Amps, OhmsRange, Strict, Text, Va, WindowS, pair, present

KindName = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
TerminalName = Annotated[str, Field(pattern=r"^[A-Za-z0-9+~-]{1,8}$")]
End = Annotated[str, Field(max_length=40)]
Short = Annotated[str, Field(max_length=40)]


class TerminalJson(Strict):
    """A terminal: what is printed beside it, and where it lies."""

    name: TerminalName
    column: Annotated[int, Field(ge=0, le=7)]
    row: Annotated[int, Field(ge=0, le=11)]
    blade: Literal[core.BLADES] = "1/4"  # type: ignore[valid-type]
    places: Annotated[int, Field(ge=1, le=4, description="Wires that it takes side by side.")] = 2
    dummy: Annotated[bool, Field(description="Holds wires, joined to nothing inside.")] = False


class ContactSetJson(Strict):
    """A set of contacts: its common, what it meets driven, what it meets at rest."""

    name: Short
    common: TerminalName
    no: TerminalName | None = None
    nc: TerminalName | None = None
    role: Literal[core.ROLES] = "element"  # type: ignore[valid-type]
    on_s: WindowS | None = None
    off_s: WindowS | None = None


class PartKindJson(Strict):
    """A kind of part beyond those that ship: its terminals, and what is printed on it."""

    name: KindName
    title: Text
    device: Annotated[
        Literal[(*CONTROL_KINDS, *RELAY_KINDS)],  # type: ignore[valid-type]
        Field(description="How it acts."),
    ]
    terminals: Annotated[list[TerminalJson], Field(min_length=1, max_length=core.MOST_TERMINALS)]
    coil: Annotated[tuple[TerminalName, TerminalName], Field(strict=False)]
    sets: Annotated[list[ContactSetJson], Field(min_length=1, max_length=core.MOST_SETS)]
    tied: Annotated[
        list[Annotated[tuple[TerminalName, TerminalName], Field(strict=False)]], Field(max_length=8)
    ] = []
    resistive_amps: Amps | None = None
    motor_amps: Amps | None = None
    coil_volts: Annotated[float, Field(gt=0, le=300)] = 24
    coil_ohms: OhmsRange | None = None
    coil_va: Va | None = None
    seen: bool = False
    board: bool = False

    def to_core(self) -> core.PartKind:
        """The kind in the core's terms; raises BadInput (path below the kind)."""
        given = self.model_dump(exclude={"terminals", "coil", "sets", "tied", "coil_ohms"})
        return core.PartKind(
            **given,
            terminals=tuple(core.Terminal(**t.model_dump()) for t in self.terminals),
            coil=self.coil,
            sets=tuple(_set(one) for one in self.sets),
            tied=tuple(self.tied),
            coil_ohms=Band(*self.coil_ohms) if self.coil_ohms else None,
        )


def _set(one: ContactSetJson) -> core.ContactSet:
    windows = {
        name: Band(*printed) if (printed := getattr(one, name)) else None for name in ("on_s", "off_s")
    }
    return core.ContactSet(one.name, one.common, one.no, one.nc, one.role, **windows)


def part_kind_to_json(kind: core.PartKind) -> dict[str, Any]:
    """A kind in the visit file's terms; what is at its default is left out."""
    return {
        "name": kind.name,
        "title": kind.title,
        "device": kind.device,
        "terminals": [
            {"name": t.name, "column": t.column, "row": t.row, "blade": t.blade, "places": t.places}
            | ({"dummy": True} if t.dummy else {})
            for t in kind.terminals
        ],
        "coil": list(kind.coil),
        "sets": [
            present(
                name=one.name,
                common=one.common,
                no=one.no,
                nc=one.nc,
                role=one.role,
                on_s=pair(one.on_s),
                off_s=pair(one.off_s),
            )
            for one in kind.sets
        ],
        **({"tied": [list(each) for each in kind.tied]} if kind.tied else {}),
        **present(
            resistive_amps=kind.resistive_amps,
            motor_amps=kind.motor_amps,
            coil_volts=kind.coil_volts,
            coil_ohms=pair(kind.coil_ohms),
            coil_va=kind.coil_va,
        ),
        **({"seen": True} if kind.seen else {}),
        **({"board": True} if kind.board else {}),
    }


class WireJson(Strict):
    """A wire on a terminal of a device, where it leads, and how it is told from others."""

    id: Short
    terminal: TerminalName
    to: End
    colour: Short = ""
    label: Short = ""
    awg: Short = ""

    def to_core(self) -> Wire:
        return Wire(**self.model_dump())


Wired = Annotated[list[WireJson], Field(max_length=48)]


def wires_to_json(wires: tuple[Wire, ...]) -> list[dict[str, Any]] | None:
    """The wires of a device; None where nobody has looked."""
    if not wires:
        return None
    told = ("colour", "label", "awg")
    return [
        {"id": wire.id, "terminal": wire.terminal, "to": wire.to}
        | {name: getattr(wire, name) for name in told if getattr(wire, name)}
        for wire in wires
    ]
