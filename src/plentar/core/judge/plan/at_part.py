"""Which parts a meter touches: a reading at a part, or across its ends, speaks of it itself."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.unit.points import Point
from plentar.core.unit.unit import Unit


def is_at(unit: Unit, point: Point, part: str) -> bool:
    return part in set(_parts_at(unit, point))


def _parts_at(unit: Unit, point: Point) -> Iterator[str]:
    """What is to be worked on where a meter touches a point."""
    names = [point.component]
    if ":" in point.name:
        names = [end.rsplit(".", 1)[0] for end in point.name.split(":")]
    for name in names:
        yield from _works(unit, name)
    if point.kind == "air":
        yield "airflow"
    if point.kind in ("blower", "capacitor"):
        yield from ("blower", "capacitor")
    if point.name in ("R", "transformer"):
        yield from ("transformer", "control-fuse")


def _works(unit: Unit, name: str) -> Iterator[str]:
    yield name
    if name in unit.control_of_switch:
        yield unit.control_of_switch[name].id
    circuit = name.removesuffix(".line")
    if circuit in unit.circuit_by_id:
        yield from (circuit, f"{circuit}.supply")
    yield from (f"{element.id}.wire" for element in unit.elements_through(name))
