"""What a part or a reading point of a unit is called: its kind by a code, its mark beside."""

from __future__ import annotations

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.said import Said, listed, say
from plentar.core.unit.parts import CALLS, Control
from plentar.core.unit.unit import Unit

#: Parts that a unit has one of, by the word that the file contract has for them.
SINGLE = frozenset(
    {
        "airflow",
        "blower",
        "capacitor",
        "control-fuse",
        "devices",
        "feeder",
        "ground",
        "joints",
        "limits",
        "return-air",
        "supply-air",
        "tie.wire",
        "transformer",
        "transformer.primary",
    }
)
_NAMES: Cache[tuple[Unit, str], Said] = Cache("names", 2 * MEGABYTE, lambda _: 400)


def said_of(unit: Unit, name: str) -> Said:
    """What a component, a decision, a node or a named reading point is called; of a pair of nodes both ends.
    What the unit does not have is called by its id."""
    return _NAMES.get_or_make((unit, name), lambda: _named(unit, name))


def said_of_all(unit: Unit, names: str) -> Said:
    """The parts of a decision, ``A+B``."""
    return listed(said_of(unit, name) for name in names.split("+"))


def _named(unit: Unit, name: str) -> Said:
    if ":" in name:
        return _pair(unit, name)
    if name in SINGLE:
        return say(f"part.{name}")
    if name in unit.element_by_id:
        return say("part.element", mark=_mark(unit, name))
    if name in unit.circuit_by_id:
        return say("part.circuit", mark=_mark(unit, name))
    control = unit.control_by_id.get(name)
    if control is not None:
        return say(f"part.{control.type}", mark=_mark(unit, name))
    if name in unit.control_of_switch:
        return _switch(unit, unit.control_of_switch[name], name)
    if unit.relay is not None and name == unit.relay.id:
        return say("part.blower-relay")
    for kind, parts in (("limit", unit.limits), ("link", unit.links)):
        if name in {part.id for part in parts}:
            return say(f"part.{kind}", mark=_mark(unit, name))
    if name in ("R", "C", *CALLS):
        return say("part.terminal", mark=name)
    load = next((load for load in unit.other_loads if load.id == name), None)
    if load is not None:
        return say("part.load", mark=name)
    return _below(unit, name)


def _mark(unit: Unit, name: str) -> Said | str:
    """The name that is printed at a part, with the mark that it has on the drawing; else the mark."""
    printed = unit.printed_by_id.get(name)
    return say("part.printed", printed=printed, mark=name) if printed else name


def _switch(unit: Unit, control: Control, name: str) -> Said:
    """A switch by its device and its place in it; a contactor has poles."""
    switch = next(s for s in control.switches if s.id == name)
    device = said_of(unit, control.id)
    if switch.role != "element":
        return say(f"part.{switch.role}-switch", device=device)
    if len(control.switches) == 1:
        return say("part.contact", device=device)
    place = name.rsplit(".", 1)[-1]
    printed = unit.printed_by_id.get(name)
    number = say("part.printed", printed=printed, mark=place) if printed else place
    return say("part.pole" if control.type == "contactor" else "part.switch", device=device, number=number)


def _below(unit: Unit, name: str) -> Said:
    """What belongs to a part: its coil, its contacts, its wires, its ends."""
    owner, _, what = name.rpartition(".")
    if not owner:
        return say("part.other", mark=name)
    if what in ("l1", "l2"):
        circuit = owner.removesuffix(".line")
        return say(
            "point.line-leg" if owner != circuit else "point.lug", leg=what.upper(), mark=_mark(unit, circuit)
        )
    if what == "line":
        return say("point.line", mark=_mark(unit, owner))
    if what == "supply":
        return say("part.supply", mark=_mark(unit, owner))
    of = said_of(unit, owner)
    if what in ("coil", "rectifier", "wire", "in", "out", "no", "nc"):
        return say(f"part.of-{what}", of=of)
    return say("part.other", mark=name)


def _pair(unit: Unit, name: str) -> Said:
    one, _, two = name.partition(":")
    for circuit in unit.circuits:
        for leg in ("l1", "l2"):
            if {one, two} == {f"{circuit.id}.line.{leg}", f"{circuit.id}.{leg}"}:
                return say("point.pole", mark=_mark(unit, circuit.id), leg=leg.upper())
    return say("point.pair", one=said_of(unit, one), two=said_of(unit, two))
