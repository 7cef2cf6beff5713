"""What a meter shows at every point, for many solved networks at once: the one place.

Volts are read by the meter's own 10 MΩ, amps by a clamp that takes in whole branches, DC behind a
rectifier, air as its rise over the return.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plentar.core.circuit.faults import Effects
from plentar.core.circuit.network import Index, Phasors, Real, Topology
from plentar.core.circuit.wiring import Mask, Wiring
from plentar.core.quantity import Band, Quantity
from plentar.core.tables import thresholds as th
from plentar.core.tables.assumptions import (
    BLOWER_AMPS_SPREAD,
    CONTROL_AMPS_SPREAD,
    CONTROL_RANGE,
    CONTROL_VOLTS_SPREAD,
    DC_SPREAD,
    FEED_AMPS_SPREAD,
    FEED_OHMS_SPREAD,
    LINE_VOLTS_SPREAD,
    RANGE,
    RISE_SPREAD,
    ZERO_OF_MISREADS,
)
from plentar.core.tables.model import (
    AC_RANGE_ON_DC_V,
    DC_LOADED,
    DC_OPEN,
    GHOST_OHMS,
    METER_OHMS,
    SEA_LEVEL_AIR,
)
from plentar.core.unit.accuracy import ACCURACY, CONTROL_WIRE_AMPS, Accuracy
from plentar.core.unit.points import Point, has_tie_wire, points, resolve
from plentar.core.unit.ratings import BTUH_PER_WATT
from plentar.core.unit.unit import Unit

A, V, DC, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC, Quantity.TEMP_F
LIVE_QUANTITIES = frozenset({A, V, DC, TEMP})
CONTROL_KINDS = frozenset({"coil", "terminal", "secondary", "rectifier", "fuse"})


def spread_of(point: Point, quantity: Quantity) -> Band:
    """How far a sound part may be from nominal, as a share, supply and meter apart."""
    if quantity is A:
        if point.kind in ("element", "switch", "limit", "link"):
            return Band(th.PLATE_POWER_LOW, th.PLATE_POWER_HIGH)
        if point.kind in ("blower", "contact"):
            return BLOWER_AMPS_SPREAD
        if point.kind in CONTROL_KINDS or point.kind == "primary":
            return CONTROL_AMPS_SPREAD
        return FEED_AMPS_SPREAD
    if quantity is TEMP:
        return RISE_SPREAD
    if quantity is DC:
        return DC_SPREAD
    if _across_pole(point):
        return FEED_OHMS_SPREAD  # across a pole and its wire
    return CONTROL_VOLTS_SPREAD if point.kind in CONTROL_KINDS else LINE_VOLTS_SPREAD


def _across_pole(point: Point) -> bool:
    return point.kind == "node-node" and ".line." in point.name


def accuracy_of(point: Point, quantity: Quantity) -> Accuracy:
    if quantity is A and point.kind in CONTROL_KINDS:
        return CONTROL_WIRE_AMPS
    return ACCURACY[quantity]


def anywhere_density(point: Point, quantity: Quantity) -> float:
    """Of an outright misreading that is not zero: even over the meter's usual range."""
    table = CONTROL_RANGE if point.kind in CONTROL_KINDS else RANGE
    return (1 - ZERO_OF_MISREADS) / table[quantity]


def point_ends(unit: Unit, point: Point) -> tuple[str, str]:
    name, power = point.name, unit.control_power
    if ":" in name:
        one, _, two = name.partition(":")
        return one, two
    match point.kind:
        case "circuit" | "line":
            return f"{name}.l1", f"{name}.l2"
        case "coil" | "rectifier":
            return f"{point.component}.coil.in", "C"
        case "primary":
            return f"{power.circuit}.l1", f"{power.circuit}.l2"
        case "secondary":
            return "transformer.hot", "C"
        case "terminal":
            return name, "C"
        case "fuse":
            return "transformer.hot", "R"
        case "contact":
            return f"{name}.in", "blower.in"
        case "blower" if unit.blower is not None and unit.blower.taps:
            return f"{unit.blower.circuit}.l1", "blower.out"  # its line volts stand there, called or not
        case "capacitor":
            return "blower.in", "blower.out"
        case "tie":
            blower, relay = unit.blower, unit.relay
            assert blower is not None, "a tie without a blower"
            assert relay is not None, "a tie without a relay"
            return f"{blower.interlock.tap}.out", f"{relay.id}.nc.in"
        case _:
            return f"{name}.in", f"{name}.out"


def amps_branches(wiring: Wiring, point: Point, topology: Topology) -> tuple[tuple[str, ...], float]:
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


@dataclass(frozen=True, slots=True)
class Probe:
    """One quantity at one point. At ``supply-air`` it stands for the rise over the return."""

    quantity: Quantity
    point: Point

    @property
    def key(self) -> tuple[Quantity, str]:
        return self.quantity, self.point.name


def point_probes(unit: Unit) -> list[Probe]:
    """All that may be read with power on at the named points, in their order."""
    return [
        Probe(quantity, point)
        for point in points(unit)
        for quantity in point.quantities
        if quantity in LIVE_QUANTITIES and point.kind != "capacitor" and point.name != "return-air"
    ]


def standing_probes(unit: Unit) -> list[Probe]:
    """All that may be read with power on: every point, along each rung, and legs to ground."""
    found = point_probes(unit)
    names = [f"{circuit.id}.{leg}:ground" for circuit in unit.circuits for leg in ("l1", "l2")]
    names += [f"{c.id}.line.{leg}:{c.id}.{leg}" for c in unit.circuits for leg in ("l1", "l2")]
    for element in unit.elements:
        names += [f"{part}.out:{element.circuit}.l2" for part in element.rung]
    names += [f"{element.id}.in:ground" for element in unit.elements]
    if has_tie_wire(unit) and unit.relay is not None and unit.blower is not None:
        names.append(f"{unit.relay.id}.nc.in:{unit.blower.circuit}.l2")
    return found + [Probe(V, resolve(unit, name)) for name in dict.fromkeys(names)]


class ProbeTable:
    def __init__(self, wiring: Wiring, probes: Sequence[Probe]) -> None:
        self.wiring, self.probes = wiring, tuple(probes)
        self.index = {probe.key: at for at, probe in enumerate(self.probes)}
        unit, nodes = wiring.unit, wiring.topology.node_index
        ground = len(nodes)
        self._volts = [n for n, p in enumerate(self.probes) if p.quantity in (V, DC)]
        ends = [point_ends(unit, self.probes[n].point) for n in self._volts]
        self._ends: Index = np.array(
            [[nodes.get(end, ground) for end in pair] for pair in ends], dtype=np.intp
        ).reshape(-1, 2)
        self._amps = [n for n, p in enumerate(self.probes) if p.quantity is A]
        self._rise = [n for n, p in enumerate(self.probes) if p.quantity is TEMP]
        spreads = [spread_of(p.point, p.quantity) for p in self.probes]
        self.spread_low: Real = np.array([band.low for band in spreads])
        self.spread_high: Real = np.array([band.high for band in spreads])
        meters = [accuracy_of(p.point, p.quantity) for p in self.probes]
        self.accuracy_share: Real = np.array([meter.share for meter in meters])
        self.accuracy_fixed: Real = np.array([meter.fixed for meter in meters])
        #: Where a millivolt range is used: across what should be closed.
        self.millivolts: Mask = np.array(
            [
                p.quantity is V
                and (p.point.kind in ("switch", "limit", "link", "contact") or _across_pole(p.point))
                for p in self.probes
            ]
        )
        self.misread: Real = np.array([anywhere_density(p.point, p.quantity) for p in self.probes])
        #: Volts and amps go with the supply, heat with its square.
        self.supply_power: Real = np.array([2.0 if p.quantity is TEMP else 1.0 for p in self.probes])
        #: The column of the blower's amps for a feed that carries the blower, else -1.
        carries = unit.blower.circuit if unit.blower else None
        self.blower_of: Index = np.array(
            [
                self.index[A, "blower"]
                if p.quantity is A
                and p.point.kind in ("circuit", "feed")
                and p.point.component == carries
                and (A, "blower") in self.index
                else -1
                for p in self.probes
            ],
            dtype=np.intp,
        )
        self.blower_spread = (BLOWER_AMPS_SPREAD.low, BLOWER_AMPS_SPREAD.high)
        self._dc_coils = {
            n: p.point.component
            for n, p in enumerate(self.probes)
            if p.point.kind == "coil"
            and p.quantity in (V, DC)
            and unit.device_by_id[p.point.component].kind.dc_coil
        }

    @property
    def slips(self) -> frozenset[int]:
        """The probes that show anything or nothing: the AC range on the DC side of a rectifier."""
        return frozenset(n for n in self._dc_coils if self.probes[n].quantity is V)

    def column(self, quantity: Quantity, at: str) -> int | None:
        """Where a quantity at a point stands in what is read; None where the model has none."""
        return self.index.get((quantity, at))

    def read(
        self, topology: Topology, siemens: Real, emf: Phasors, every_effect: Sequence[Effects]
    ) -> tuple[Real, Mask]:
        """Readings (networks, probes) of networks (networks, branches), and which are ghosts:
        volts of a place that nothing holds."""
        impedance: Real = np.asarray(np.linalg.inv(topology.nodal(siemens)), dtype=np.float64)
        drive = -(siemens * emf) @ topology.incidence
        volts = np.einsum("bij,bj->bi", impedance, drive)
        amps = np.abs(siemens * (volts @ topology.incidence.T + emf))
        found = np.full((len(siemens), len(self.probes)), np.nan)
        ghosts = np.zeros(found.shape, dtype=bool)
        self._read_volts(volts, impedance, found, ghosts)
        branch = topology.branch_index
        for n in self._amps:
            point = self.probes[n].point
            names, factor = amps_branches(self.wiring, point, topology)
            columns = amps[:, [branch[name] for name in names]]
            found[:, n] = factor * (columns.max(1) if point.kind == "element" else columns.sum(1))
        self._read_dc(found, every_effect)
        self._read_rise(siemens, amps, branch, found, every_effect)
        return found, ghosts

    def _read_volts(self, volts: Phasors, impedance: Real, found: Real, ghosts: Mask) -> None:
        """Each by its Thévenin source into the voltmeter's 10 MΩ; ground is one node more."""
        count, size = volts.shape
        at = np.zeros((count, size + 1), dtype=complex)
        at[:, :size] = volts
        z = np.zeros((count, size + 1, size + 1))
        z[:, :size, :size] = impedance
        one, two = self._ends[:, 0], self._ends[:, 1]
        source = z[:, one, one] + z[:, two, two] - z[:, one, two] - z[:, two, one]
        found[:, self._volts] = np.abs(at[:, one] - at[:, two]) * METER_OHMS / (METER_OHMS + source)
        ghosts[:, self._volts] = source > GHOST_OHMS

    def _read_dc(self, found: Real, every_effect: Sequence[Effects]) -> None:
        for n, device in self._dc_coils.items():
            for row, effects in enumerate(every_effect):
                loaded = f"{device}.coil" not in effects.network.always_open
                dc = found[row, n] * (DC_LOADED if loaded else DC_OPEN)
                dc = 0.0 if device in effects.no_dc else dc
                is_dc = self.probes[n].quantity is DC
                found[row, n] = dc if is_dc else (AC_RANGE_ON_DC_V if dc > 1 else 0.0)

    def _read_rise(
        self, siemens: Real, amps: Real, branch: dict[str, int], found: Real, every_effect: Sequence[Effects]
    ) -> None:
        unit = self.wiring.unit
        cfm = unit.blower.air_cfm if unit.blower else None
        if cfm is None or not self._rise:
            return
        pieces = [branch[n] for e in unit.elements for n in (e.id, f"{e.id}.rest")]
        watts = (amps[:, pieces] ** 2 / siemens[:, pieces]).sum(1)
        moved = np.array([cfm * h.airflow if h.blower_moves_air else np.nan for h in every_effect])
        for n in self._rise:
            found[:, n] = BTUH_PER_WATT * watts / (SEA_LEVEL_AIR * moved)
