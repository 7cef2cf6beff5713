"""The columns of a logged current: where they were clamped, and what their current feeds."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from plentar.core.circuit.network import Real
from plentar.core.errors import BadInput
from plentar.core.logged.levels import Levels, find_levels
from plentar.core.logged.matching import LoggedLoad
from plentar.core.quantity import Band
from plentar.core.said import say
from plentar.core.timing.moves import BLOWER
from plentar.core.unit.parts import CALLS, Element
from plentar.core.unit.points import Point, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event
from plentar.core.visit.evidence import Evidence

ELEMENT_KINDS = frozenset({"element", "switch", "limit", "link"})
FEED_KINDS = frozenset({"circuit", "feed"})
#: A column is a call's wire, and its steps are the call.
CALL_KINDS = frozenset({"terminal"})


@dataclass(frozen=True, slots=True)
class Column:
    at: str
    levels: Levels
    loads: tuple[LoggedLoad, ...]


def check_columns(unit: Unit, names: Iterable[str]) -> None:
    """Raises BadInput (path: the name) where a column is no point whose stages can be found."""
    for name in names:
        try:
            point = resolve(unit, name)
        except BadInput:
            raise BadInput(name, say("logged.columns.no-reading-point-this", name=name)) from None
        if point.kind not in ELEMENT_KINDS | FEED_KINDS | CALL_KINDS | {"blower"} or name == "R":
            raise BadInput(name, say("logged.columns.stages-not-sought-amps", name=name))


def read_column(evidence: Evidence, name: str, t_s: Real, amps: Real) -> Column:
    """One column with its levels, sought by the smallest load that it feeds."""
    loads = tuple(loads_of(evidence, resolve(evidence.unit, name)))
    least_amps = min((load.amps for load in loads), default=1.0)
    return Column(name, find_levels(t_s, amps, least_amps), loads)


def loads_of(evidence: Evidence, point: Point) -> Iterable[LoggedLoad]:
    unit = evidence.unit
    if point.kind == "blower":
        amps = unit.blower.running_amps if unit.blower else None
        yield LoggedLoad(BLOWER, amps or 1.0)
    elif point.kind in CALL_KINDS:
        devices = [
            (device.coil_va, device.coil.volts)
            for device in unit.device_by_id.values()
            if device.call == point.name
        ]
        devices += [(load.va, 24.0) for load in unit.other_loads if load.call == point.name]
        yield LoggedLoad(point.name, sum(va / volts for va, volts in devices) or 0.1)
    else:
        for element in _elements(unit, point):
            yield LoggedLoad(element.id, due_amps(evidence, element)[0])


def blower_amps(unit: Unit, point: Point) -> float:
    blower = unit.blower
    here = blower is not None and point.kind in FEED_KINDS and blower.circuit == point.component
    return (blower.running_amps or 0.0) if blower and here else 0.0


def _elements(unit: Unit, point: Point) -> Iterable[Element]:
    if point.kind == "element":
        return (unit.element_by_id[point.component],)
    if point.kind in FEED_KINDS:
        return unit.elements_on(point.component)
    return unit.elements_through(point.component)


def due_amps(evidence: Evidence, element: Element) -> tuple[float, Band]:
    """An element’s nominal amps at the supply read, and the band that is due."""
    supply = evidence.supply(evidence.unit.circuit_by_id[element.circuit], float("inf"))
    expected = element.rating.expected_amps(supply.band, evidence.visit.settings.band)
    return element.rating.amps(supply.nominal), expected


def calls_in(columns: Iterable[Column]) -> list[Event]:
    """The calls, where the log holds the current in their wires."""
    asked: set[str] = set()
    found: list[Event] = []
    steps = [(step, c.at) for c in columns if c.at in CALLS for step in c.levels.steps]
    for step, call in sorted(steps, key=lambda pair: pair[0].t_s):
        (asked.add if step.size_amps > 0 else asked.discard)(call)
        found.append(Calls(t_s=max(0.0, step.t_s), calls=frozenset(asked)))
    return found
