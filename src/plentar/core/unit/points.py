"""Reading points: their names, what they mean on a unit, and which quantities are read there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
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
    title: str
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
                raise BadInput("at", f"no node {node!r} on this unit")
        component = one if two == "ground" else two if one == "ground" else one
        whole = bool({one, two} & whole_parts(unit))
        if whole and "ground" not in (one, two):
            raise BadInput("at", "a whole part is read to ground alone")
        to_ground = "ground" in (one, two)
        kind = "node-ground" if to_ground else "node-node"
        owner = component.rsplit(".", 1)[0]
        title = f"{one} to {two}".replace("ground", "ground (cabinet)")
        cold = (OHM, TONE) if to_ground else (OHM,)
        return Point(name, kind, owner, title, cold if whole else (V, *cold))
    point = named_points(unit).get(name)
    if point is None:
        raise BadInput("at", f"no reading point {name!r} on this unit")
    return point


def named_points(unit: Unit) -> dict[str, Point]:
    """The named reading points of a unit (pairs of nodes apart), by name."""
    return _BY_NAME.get_or_make(unit, lambda: {point.name: point for point in points(unit)})


_BY_NAME: Cache[Unit, dict[str, Point]] = Cache("reading points", 8 * MEGABYTE, lambda v: 500 * len(v))


def points(unit: Unit) -> Iterator[Point]:
    """Every named point of the unit (pairs of nodes apart), in the order of the drawing."""
    for circuit in unit.circuits:
        cid = circuit.id
        yield Point(cid, "circuit", cid, f"Kit lugs of {cid}, L1 to L2", (V, A))
        for leg in ("l1", "l2"):
            yield Point(f"{cid}.{leg}", "feed", cid, f"Feed {leg.upper()} of {cid}", (A,))
        yield Point(f"{cid}.line", "line", cid, f"Line side of breaker {cid}", (V,))
    for element in unit.elements:
        yield Point(element.id, "element", element.id, f"Element {element.id}", (A, V, OHM, TONE))
    for switch in unit.switch_by_id.values():
        words = {"element": "Switch", "blower": "Blower switch", "auxiliary": "Auxiliary switch"}
        title = f"{words[switch.role]} {switch.id}"
        yield Point(switch.id, "switch", switch.id, title, (V, A, OHM, TONE))
    for limit in unit.limits:
        yield Point(limit.id, "limit", limit.id, f"Limit {limit.id}", (V, A, OHM, TONE))
    for link in unit.links:
        yield Point(link.id, "link", link.id, f"Fusible link {link.id}", (V, A, OHM, TONE))
    for control in unit.controls:
        dc = control.kind.dc_coil
        at_coil = (DC, V, A, OHM) if dc else (V, A, OHM)
        yield Point(f"{control.id}.coil", "coil", control.id, f"Coil of {control.id}", at_coil)
        if dc:
            title = f"Rectifier of {control.id}, AC side"
            yield Point(f"{control.id}.rectifier", "rectifier", control.id, title, (V,))
    yield from _blower_points(unit)
    yield Point("transformer.primary", "primary", "transformer", "Transformer, primary", (V, A))
    yield Point("transformer", "secondary", "transformer", "Transformer, secondary", (V, A))
    yield Point("control-fuse", "fuse", "control-fuse", "Control fuse", (V, OHM, TONE))
    for terminal in ("R", *CALLS):
        yield Point(terminal, "terminal", terminal, f"{terminal} to C at the board", (V, A))
    yield Point("supply-air", "air", "supply-air", "Supply air", (Quantity.TEMP_F,))
    yield Point("return-air", "air", "return-air", "Return air", (Quantity.TEMP_F,))


def _blower_points(unit: Unit) -> Iterator[Point]:
    if unit.blower is None:
        return
    yield Point("blower", "blower", "blower", "Blower motor", (A, V))
    if unit.blower.motor == "psc":
        yield Point("capacitor", "capacitor", "blower", "Run capacitor", (Quantity.UF, A, V))
    relay = unit.blower.relay
    if relay is not None:
        yield Point(f"{relay.id}.coil", "coil", relay.id, "Coil of the blower relay", (V, A, OHM))
        yield Point(f"{relay.id}.no", "contact", relay.id, "Normally-open contact", (V, A, OHM, TONE))
        if relay.kind.normally_closed or unit.blower.interlock.kind == "nc-contact":
            title = "Normally-closed contact"
            yield Point(f"{relay.id}.nc", "contact", relay.id, title, (V, A, OHM, TONE))
    if has_tie_wire(unit):
        yield Point(TIE_WIRE, "tie", TIE_WIRE, "Wire of the tie", (V, OHM, TONE))


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
