"""Reading points: their names, what they mean on a unit, and which quantities are read there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.said import Said, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import CALLS
from plentar.core.unit.unit import Unit

A, V, DC, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC, Quantity.OHMS
TONE = Quantity.TONE
#: The kinds of point where the 24 V side is read.
CONTROL_SIDE = frozenset({"terminal", "coil", "secondary", "primary", "fuse"})


@dataclass(frozen=True, slots=True)
class Point:
    """Where the meter goes. ``component`` is the part; ``kind`` says how to judge it.

    ``quantities`` lists what may be read, the usual one with power on first; ``dead`` is the
    usual one when the unit is proved dead, if there is one.
    """

    name: str
    kind: str
    component: str
    title: Said
    quantities: tuple[Quantity, ...]

    @property
    def live_quantity(self) -> Quantity | None:
        return next((q for q in self.quantities if not q.dead_only), None)

    @property
    def dead_quantity(self) -> Quantity | None:
        """What is usually read here proved dead."""
        return next((q for q in self.quantities if q.dead_only), None)


def resolve(unit: Unit, name: str) -> Point:
    """The point of this name on this unit; raises BadInput at ``at`` if there is none."""
    if ":" in name:
        one, _, two = name.partition(":")
        known = set(nodes(unit))
        for node in (one, two):
            if node not in known:
                raise BadInput("at", say("unit.points.no-node-this-unit", node=node))
        component = one if two == "ground" else two if one == "ground" else one
        whole = bool({one, two} & whole_parts(unit))
        if whole and "ground" not in (one, two):
            raise BadInput("at", say("unit.points.whole-part-read-ground"))
        to_ground = "ground" in (one, two)
        kind = "node-ground" if to_ground else "node-node"
        owner = component.rsplit(".", 1)[0]
        title = said_of(unit, name)
        cold = (OHM, TONE) if to_ground else (OHM,)
        return Point(name, kind, owner, title, cold if whole else (V, *cold))
    point = named_points(unit).get(name)
    if point is None:
        raise BadInput("at", say("unit.points.no-reading-point-this", name=name))
    return point


def point_said(unit: Unit, name: str) -> Said:
    """What a reading point is called; a part that is none by its own name."""
    try:
        return resolve(unit, name).title
    except BadInput:
        return said_of(unit, name)


def named_points(unit: Unit) -> dict[str, Point]:
    """The named reading points of a unit (pairs of nodes apart), by name."""
    return _BY_NAME.get_or_make(unit, lambda: {point.name: point for point in points(unit)})


_BY_NAME: Cache[Unit, dict[str, Point]] = Cache("reading points", 8 * MEGABYTE, lambda v: 500 * len(v))


def points(unit: Unit) -> Iterator[Point]:
    """Every named point of the unit (pairs of nodes apart), in the order of the drawing."""
    for circuit in unit.circuits:
        cid = circuit.id
        yield Point(cid, "circuit", cid, say("point.lugs", mark=cid), (V, A))
        for leg in ("l1", "l2"):
            yield Point(f"{cid}.{leg}", "feed", cid, say("point.feed", leg=leg.upper(), mark=cid), (A,))
        yield Point(f"{cid}.line", "line", cid, said_of(unit, f"{cid}.line"), (V,))
    for element in unit.elements:
        yield _part(unit, element.id, "element", (A, V, OHM, TONE))
    for switch in unit.switch_by_id.values():
        yield _part(unit, switch.id, "switch", (V, A, OHM, TONE))
    for limit in unit.limits:
        yield _part(unit, limit.id, "limit", (V, A, OHM, TONE))
    for link in unit.links:
        yield _part(unit, link.id, "link", (V, A, OHM, TONE))
    for control in unit.controls:
        dc = control.kind.dc_coil
        at_coil = (DC, V, A, OHM) if dc else (V, A, OHM)
        yield _part(unit, f"{control.id}.coil", "coil", at_coil, control.id)
        if dc:
            yield _part(unit, f"{control.id}.rectifier", "rectifier", (V,), control.id)
    yield from _blower_points(unit)
    yield _part(unit, "transformer.primary", "primary", (V, A), "transformer")
    yield Point("transformer", "secondary", "transformer", say("point.secondary"), (V, A))
    yield _part(unit, "control-fuse", "fuse", (V, OHM, TONE))
    for terminal in ("R", *CALLS):
        yield Point(terminal, "terminal", terminal, say("point.terminal", mark=terminal), (V, A))
    yield _part(unit, "supply-air", "air", (Quantity.TEMP_F,))
    yield _part(unit, "return-air", "air", (Quantity.TEMP_F,))


def _part(unit: Unit, name: str, kind: str, quantities: tuple[Quantity, ...], owner: str = "") -> Point:
    """A point that is called as its part is."""
    return Point(name, kind, owner or name, said_of(unit, name), quantities)


def _blower_points(unit: Unit) -> Iterator[Point]:
    if unit.blower is None:
        return
    yield _part(unit, "blower", "blower", (A, V))
    if unit.blower.motor == "psc":
        yield _part(unit, "capacitor", "capacitor", (Quantity.UF, A, V), "blower")
    relay = unit.blower.relay
    if relay is not None:
        yield _part(unit, f"{relay.id}.coil", "coil", (V, A, OHM), relay.id)
        yield _part(unit, f"{relay.id}.no", "contact", (V, A, OHM, TONE), relay.id)
        if relay.kind.normally_closed or unit.blower.interlock.kind == "nc-contact":
            yield _part(unit, f"{relay.id}.nc", "contact", (V, A, OHM, TONE), relay.id)
    if has_tie_wire(unit):
        yield _part(unit, TIE_WIRE, "tie", (V, OHM, TONE))


def device_at(unit: Unit, at: str) -> str:
    """The device that a contact belongs to, by the contact's point."""
    control = unit.control_of_switch.get(at)
    return control.id if control is not None else at.rsplit(".", 1)[0]


#: The wire from the tap's load side to the relay's normally-closed contact, read as a part.
TIE_WIRE = "tie.wire"


def has_tie_wire(unit: Unit) -> bool:
    """Read as a part, it has two ends that somebody knows."""
    tie = unit.blower.interlock if unit.blower else None
    return unit.relay is not None and tie is not None and tie.kind == "nc-contact" and tie.tap is not None


def whole_parts(unit: Unit) -> set[str]:
    """Parts that are read to ground as a whole, their wires lifted: coils and the motor."""
    coils = {f"{device}.coil" for device in unit.device_by_id}
    return coils | ({"blower"} if unit.blower is not None else set())


def nodes(unit: Unit) -> Iterator[str]:
    """Every node that a NODE:NODE point may name."""
    yield "ground"
    yield from ("R", "C", *CALLS)
    for device in unit.device_by_id:
        yield f"{device}.coil"
    if unit.blower is not None:
        yield "blower"
    for circuit in unit.circuits:
        yield from (f"{circuit.id}.l1", f"{circuit.id}.l2")
        yield from (f"{circuit.id}.line.l1", f"{circuit.id}.line.l2")
    if has_tie_wire(unit) and unit.relay is not None:
        yield f"{unit.relay.id}.nc.in"
    for part in (*unit.part_by_id, "blower"):
        yield from (f"{part}.in", f"{part}.out")
