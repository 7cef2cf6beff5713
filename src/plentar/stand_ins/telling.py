"""Whether any reading at all could tell a simulated unit from what was named: computed."""

from __future__ import annotations

import math

import numpy as np

from plentar.core.circuit.network import Real
from plentar.core.judge.plan.dead import cold_points
from plentar.core.judge.shown.cold import cold_band, dead_bands
from plentar.core.judge.shown.scenes import Scene, Scenes, scenes_of
from plentar.core.judge.shown.workspace import workspace_of
from plentar.core.judge.weigh.boxes import boxes
from plentar.core.quantity import Quantity
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.visit.events import Calls, Event
from plentar.stand_ins.simulated_unit import SimulatedUnit


def could_be(simulated: SimulatedUnit, hypothesis_id: str) -> bool:
    """No legal reading of this unit, at any point in any scene, could rule the hypothesis out."""
    workspace = workspace_of(simulated.unit)
    if hypothesis_id not in workspace.by_id:
        return False
    scenes = scenes_of(workspace)
    variants = np.flatnonzero(workspace.singles.owner == workspace.by_id[hypothesis_id])
    fits = np.ones(len(variants), dtype=bool)
    for name, scene in scenes.scenes.items():
        if name != "rest":
            fits &= _fit_in(simulated, scenes, scene, variants)
    return bool((fits & _fit_cold(simulated, variants)).any())


def _fit_in(simulated: SimulatedUnit, scenes: Scenes, scene: Scene, variants: np.ndarray) -> np.ndarray:
    """Which variants may show what the unit shows in a scene, everywhere."""
    rows = scenes.workspace.rows
    true = _true(simulated, scenes, scene)
    shown = scenes.look(scene.name)
    share = np.array(simulated.drawn.supply)
    found = boxes(rows, shown.rows[variants], slice(None), (share, share))
    low, high, scale = found.low, found.high, found.scale
    error = 3.6 * scale
    inside = (true >= low - error) & (true <= high + error) | np.isnan(low) | np.isnan(true)
    may = (shown.weights[variants] > 0.02)[:, :, None] & inside
    return np.asarray(may.any(axis=1).all(axis=1))


def _true(simulated: SimulatedUnit, scenes: Scenes, scene: Scene) -> Real:
    events: list[Event] = []
    at_s = scene.after_s
    if scene.name == "heat-ended":
        events.append(Calls(t_s=0, calls=scenes.scenes["heat"].calls))
        at_s += scenes.ended_s
        events.append(Calls(t_s=scenes.ended_s, calls=frozenset()))
    else:
        events.append(Calls(t_s=0, calls=scene.calls, lifted=scene.lifted))
    moment = simulated.moment(events, at_s)
    solution = moment.solution
    found, _ = scenes.workspace.rows.table.read(
        solution.topology, solution.siemens[None], solution.emf[None], [simulated.drawn.effects]
    )
    return np.asarray(found[0])


def _fit_cold(simulated: SimulatedUnit, variants: np.ndarray) -> np.ndarray:
    workspace = workspace_of(simulated.unit)
    fits = np.ones(len(variants), dtype=bool)
    for point, quantity, driven in cold_points(simulated.unit):
        own = cold_band(simulated.wiring, simulated.drawn.broken, point, quantity, driven)
        if own is None:
            continue
        bands = dead_bands(workspace.singles, point, quantity, driven)
        true = simulated.cold(quantity, point.name, driven=driven)
        for n, v in enumerate(variants):
            low, high = float(bands.low[v]), float(bands.high[v])
            fits[n] &= math.isnan(low) or _reads_as(low, high, true, quantity)
    return fits


def _reads_as(low: float, high: float, true: float, quantity: Quantity) -> bool:
    if math.isinf(true):
        return math.isinf(high)
    error = ACCURACY[quantity].error(true)
    return low - error <= true <= (high if math.isinf(high) else high + error)
