"""What an ohmmeter and a capacitance meter show on one part, proved dead, under any fault."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from plentar.core.circuit.faults import Effects
from plentar.core.circuit.network import Real
from plentar.core.circuit.wiring import Wiring
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.quantity import Band, Quantity
from plentar.core.tables import thresholds as th
from plentar.core.tables.assumptions import LEAST_CAPACITOR, MOST_CAPACITOR
from plentar.core.tables.model import CONTACT_OHMS
from plentar.core.unit.parts import CALLS
from plentar.core.unit.points import Point
from plentar.core.unit.unit import Device, Unit

OPEN = Band(math.inf, math.inf)
#: Sound insulation, as an ohmmeter sees it.
CLEAR_OF_GROUND = Band(th.GROUND_GOOD_OHMS, math.inf)


@dataclass(frozen=True, slots=True)
class DeadBands:
    """What each variant shows at a point before the meter's error, least and most (variants,):
    infinite where it reads open, NaN where a fault leaves open what is read."""

    low: Real
    high: Real


@dataclass(slots=True)
class _DeadShelf:
    """Of an ensemble: by point, quantity, and whether the coil is driven."""

    bands: dict[tuple[str, Quantity, bool], DeadBands] = field(default_factory=dict)

    @property
    def held_bytes(self) -> int:
        return sum(one.low.nbytes + one.high.nbytes for one in self.bands.values())

    def clear(self) -> None:
        self.bands.clear()


def dead_bands(ensemble: Ensemble, point: Point, quantity: Quantity, driven: bool) -> DeadBands:
    """What every variant of an ensemble shows, its corners between them."""
    shelf = ensemble.shelves.of(_DeadShelf)
    key = (point.name, quantity, driven)
    kept = shelf.bands.get(key)
    if kept is None:
        wiring, effects = ensemble.rows.wiring, ensemble.rows.effects
        ends = np.full((2, len(ensemble.variants)), np.nan)
        for v, variant in enumerate(ensemble.variants):
            corners = [cold_band(wiring, effects(c), point, quantity, driven) for c in variant.corners]
            sure = [band for band in corners if band is not None]
            if len(sure) == len(corners):
                ends[:, v] = min(band.low for band in sure), max(band.high for band in sure)
        kept = shelf.bands[key] = DeadBands(*ends)
    return kept


def cold_band(
    wiring: Wiring, effects: Effects, point: Point, quantity: Quantity, driven: bool
) -> Band | None:
    """The readings before the meter's error; None where a fault leaves it open what is read."""
    unit = wiring.unit
    if quantity is Quantity.UF:
        return _microfarads(unit, effects)
    match point.kind:
        case "element":
            return _element(wiring, effects, point.name)
        case "switch" | "contact":
            return _contact(unit, effects, point, driven)
        case "limit" | "link":
            return _closed(effects, point.name)
        case "fuse":
            return None if _may_melt_it(effects) else _closed(effects, point.name)
        case "tie" if unit.relay is not None:
            return _closed(effects, f"{unit.relay.id}.nc.wire")
        case "coil":
            return _coil(unit, effects, point.component)
        case "node-ground" | "node-node":
            return _to_ground(wiring, effects, point)
        case _:
            return None


def _element(wiring: Wiring, effects: Effects, name: str) -> Band:
    network, rest = effects.network, f"{name}.rest"
    if rest in network.always_open:
        return OPEN
    index = wiring.topology.branch_index
    hot = sum(network.ohms.get(piece, float(wiring.ohms[index[piece]])) for piece in (name, rest))
    low = th.COLD_RATIO_LOW / th.PLATE_POWER_HIGH
    return Band(low * hot, hot / th.PLATE_POWER_LOW)


def _closed(effects: Effects, name: str) -> Band:
    if name in effects.network.always_open:
        return OPEN
    ohms = effects.network.ohms.get(name, CONTACT_OHMS)
    return Band(0.0, ohms) if ohms <= CONTACT_OHMS else Band(ohms, ohms)


def _may_melt_it(effects: Effects) -> bool:
    """A fault behind the control fuse may have blown it, by what was called since."""
    network = effects.network
    shorted = any(name.endswith(".coil") for name in network.ohms)
    return shorted or any(f"{wire}.ground" in network.always_closed for wire in ("R", *CALLS))


def _contact(unit: Unit, effects: Effects, point: Point, driven: bool) -> Band | None:
    name = point.name
    device = _device(unit, point)
    if driven and (device.id in effects.slow or device.id in effects.no_dc):
        return None  # acts some time later, or by the side that is fed
    acts = driven and device.id not in effects.no_action
    rests_closed = name.endswith(".nc")
    if rests_closed and effects.armature_held:
        return OPEN
    if name in effects.network.always_closed or acts != rests_closed:
        return _closed(effects, name)
    return OPEN


def _device(unit: Unit, point: Point) -> Device:
    return unit.device_by_id.get(point.component) or unit.control_of_switch[point.name]


def _coil(unit: Unit, effects: Effects, device: str) -> Band:
    branch = f"{device}.coil"
    if device in effects.no_dc:
        return unit.device_by_id[device].coil_ohms  # whatever its rectifier lets it draw
    if branch in effects.network.always_open:
        return OPEN
    if branch in effects.network.ohms:
        return Band(effects.network.ohms[branch], effects.network.ohms[branch])
    return unit.device_by_id[device].coil_ohms


def _to_ground(wiring: Wiring, effects: Effects, point: Point) -> Band | None:
    """A part, or a thermostat wire lifted off, to the frame (C is bonded to it)."""
    one, _, two = point.name.partition(":")
    far = {"ground", "C"} if wiring.unit.control_power.c_grounded else {"ground"}
    if two not in far:
        return None
    owner = one.rsplit(".", 1)[0]
    if owner == "C" or f"{owner}.ground" not in wiring.topology.branch_index:
        return None if owner == "C" else CLEAR_OF_GROUND
    if f"{owner}.ground" not in effects.network.always_closed:
        return CLEAR_OF_GROUND
    ohms = effects.network.ohms.get(f"{owner}.ground", 0.0)
    element = wiring.unit.element_by_id.get(owner)
    return Band(ohms, ohms + (element.rating.hot_ohms if element else 1.0))


def _microfarads(unit: Unit, effects: Effects) -> Band | None:
    rated = unit.blower.capacitor_uf if unit.blower else None
    if rated is None:
        return None
    if effects.capacitor == 1.0:
        return Band(LEAST_CAPACITOR * rated, MOST_CAPACITOR * rated)
    return Band(effects.capacitor * rated, effects.capacitor * rated)
