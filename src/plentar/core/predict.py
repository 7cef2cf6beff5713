"""What every meter would read on a nominal unit, with any faults, at any time of a visit."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plentar.core.clockwork import Moment, coil_volts, run
from plentar.core.events import Event
from plentar.core.faults import Fault, Harm, harm_of
from plentar.core.network import Topology, thevenin_ohms
from plentar.core.points import Point, points
from plentar.core.quantity import Quantity
from plentar.core.unit import Unit
from plentar.core.wiring import METER_OHMS, Wiring, wire_up

DC_LOADED, DC_OPEN, AC_RANGE_ON_DC_V = 0.9, 1.25, 0.5
#: From here on a node counts as live to ground; behind so many ohms it is a ghost.
LIVE_V, GHOST_OHMS = 10.0, 1e6
A, V, DC = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC


@dataclass(frozen=True, slots=True)
class Predicted:
    """One reading. ``cycling``: the rung comes and goes, and the other phase may be met."""

    quantity: Quantity
    at: str
    value: float
    cycling: bool = False


@dataclass(frozen=True)
class Prediction:
    """The unit at one moment: node volts to ground, and every point's reading."""

    moment: Moment
    readings: tuple[Predicted, ...]

    @property
    def nodes(self) -> dict[str, complex]:
        """Node volts to ground, without a meter."""
        topology = self.moment.solution.topology
        return dict(zip(topology.nodes, map(complex, self.moment.solution.volts), strict=True))

    @cached_property
    def _by_point(self) -> dict[tuple[Quantity, str], Predicted]:
        return {(reading.quantity, reading.at): reading for reading in self.readings}

    def read(self, quantity: Quantity, at: str) -> Predicted | None:
        """One point's reading."""
        return self._by_point.get((quantity, at))

    @cached_property
    def live_nodes(self) -> frozenset[str]:
        """Nodes that are held at volts to ground. What floats there through the leakage of open
        parts (a source of megohms) is a ghost and not among them."""
        solution = self.moment.solution
        source_ohms = np.diagonal(np.linalg.inv(solution.topology.nodal(solution.siemens)))
        live = (np.abs(solution.volts) > LIVE_V) & (source_ohms < GHOST_OHMS)
        return frozenset(node for node, on in zip(solution.topology.nodes, live, strict=True) if on)

    def between(self, one: str, two: str) -> float:
        """Volts between two nodes, without a meter."""
        solution = self.moment.solution
        return abs(solution.volt(one) - solution.volt(two))


def predict(unit: Unit, faults: Sequence[Fault], events: Sequence[Event], t_s: float) -> Prediction:
    """Every reading of the nominal unit with these faults at ``t_s``."""
    wiring = wire_up(unit)
    harm = harm_of(wiring, faults)
    moment = run(wiring, harm, events, t_s)
    return Prediction(moment, tuple(readings_of(wiring, harm, moment)))


def readings_of(wiring: Wiring, harm: Harm, moment: Moment) -> Iterator[Predicted]:
    """Every live reading at one moment, the voltmeter's own load on the circuit included."""
    unit = wiring.unit
    spots = [point for point in points(unit) if V in point.quantities]
    ends = [point_ends(unit, point) for point in spots]
    across = _across(wiring, moment, ends)
    measured = dict(zip((point.name for point in spots), across, strict=True))
    rungs = _cycling_parts(unit, moment)
    for point in points(unit):
        for quantity in point.quantities:
            value = _value(wiring, harm, moment, measured, point, quantity)
            if value is not None:
                yield Predicted(quantity, point.name, value, point.name in rungs)


def _across(wiring: Wiring, moment: Moment, ends: list[tuple[str, str]]) -> list[float]:
    """Voltmeter readings between pairs of nodes: each by its Thévenin source into 10 MΩ."""
    topology = moment.solution.topology
    pairs = np.zeros((len(ends), len(topology.nodes)))
    for row, pair in enumerate(ends):
        for node, sign in zip(pair, (1.0, -1.0), strict=True):
            if node != "ground":
                pairs[row, topology.node_index[node]] += sign
    open_volts = np.abs(pairs @ moment.solution.volts)
    source_ohms = thevenin_ohms(topology, moment.solution.siemens, pairs)
    return [float(v) for v in open_volts * METER_OHMS / (METER_OHMS + source_ohms)]


def point_ends(unit: Unit, point: Point) -> tuple[str, str]:
    """The two nodes that a voltmeter touches at a point."""
    name, power = point.name, unit.control_power
    if ":" in name:
        one, _, two = name.partition(":")
        return one, two
    match point.kind:
        case "circuit":
            return f"{name}.l1", f"{name}.l2"
        case "line":
            return f"{name}.l1", f"{name}.l2"
        case "coil" | "rectifier":
            return f"{point.component}.coil.in", "C"
        case "primary":
            return f"{power.circuit}.l1", f"{power.circuit}.l2"
        case "secondary":
            return "transformer.hot", "C"
        case "terminal":
            return name, "C"
        case "contact":
            return f"{name}.in", "blower.in"
        case "capacitor":
            return "blower.in", "blower.out"
        case _:
            return f"{name}.in", f"{name}.out"


def _value(
    wiring: Wiring,
    harm: Harm,
    moment: Moment,
    measured: dict[str, float],
    point: Point,
    quantity: Quantity,
) -> float | None:
    if point.kind == "capacitor":
        return None  # what its winding does is not modelled
    if quantity is A:
        return _amps(wiring, moment, point)
    device = wiring.unit.control_by_id.get(point.component)
    dc_side = point.kind == "coil" and device is not None and device.type == "relay-dc"
    if quantity is DC and dc_side:
        return _dc_volts(harm, moment, point.component)
    if quantity is V:
        if dc_side:
            return AC_RANGE_ON_DC_V if _dc_volts(harm, moment, point.component) > 1 else 0.0
        return measured[point.name]
    return None


def _dc_volts(harm: Harm, moment: Moment, device: str) -> float:
    if device in harm.no_dc:
        return 0.0
    loaded = f"{device}.coil" not in harm.effects.always_open
    return (DC_LOADED if loaded else DC_OPEN) * coil_volts(moment.solution, device)


def amps_branches(
    wiring: Wiring, point: Point, topology: Topology
) -> tuple[tuple[str, ...], float]:
    """The branches whose current a clamp at a point takes in, and what it is multiplied by.

    Of several, a clamp on an element shows the largest; on a terminal's wire their sum.
    """
    name = point.name
    match point.kind:
        case "element":
            return (name, f"{name}.rest"), 1.0
        case "circuit":
            return (f"{name}.feed.l1",), 1.0
        case "feed":
            circuit, _, leg = name.rpartition(".")
            return (f"{circuit}.feed.{leg}",), 1.0
        case "secondary":
            return ("transformer",), 1.0
        case "primary":
            row = topology.branch_index["transformer"]
            node = topology.node_index[f"{wiring.unit.control_power.circuit}.l1"]
            return ("transformer",), float(topology.incidence[row, node])
        case "terminal" if name == "R":
            return ("control-fuse",), 1.0
        case "terminal" if name == "G" and "board.G" in wiring.contacts:
            return ("thermostat.G", "board.G"), 1.0
        case "terminal":
            return (f"thermostat.{name}",), 1.0
        case _:
            return (name,), 1.0


def _amps(wiring: Wiring, moment: Moment, point: Point) -> float:
    branches, factor = amps_branches(wiring, point, moment.solution.topology)
    found = [abs(moment.solution.amp(name)) for name in branches]
    return factor * (max(found) if point.kind == "element" else sum(found))


def _cycling_parts(unit: Unit, moment: Moment) -> set[str]:
    """Every part of a rung whose limit cycles, and what carries its current besides."""
    parts: set[str] = set()
    for element in unit.elements:
        if moment.cycling & set(element.rung):
            circuit = element.circuit
            parts |= {*element.rung, circuit, f"{circuit}.l1", f"{circuit}.l2"}
    return parts
