"""Logs made up sample by sample, with the answer beside them: what the finder is held against.

Nothing of the circuit model or of the finder is in them: times drawn from the windows, currents
from the plate, a meter's noise, dropouts, and at times a limit that cycles.
"""

from __future__ import annotations

from dataclasses import dataclass
from random import Random

import numpy as np

from plentar.core.circuit.network import Real
from plentar.core.logged.trace import Log
from plentar.core.unit.kits import Kit, build_kit
from plentar.core.unit.unit import Unit
from plentar.core.unit.usual_print import as_usually_printed
from plentar.core.visit.events import Calls, Visit

WATTS = (3500.0, 4800.0, 5000.0, 7500.0)
CALL_S, NOISE_SHARE, NOISE_AMPS = 20.0, 0.02, 0.05
POWER = (0.92, 1.04)


@dataclass
class Synthetic:
    """A log with its truth: when each element came and went for good, and its drops between."""

    unit: Unit
    visit: Visit
    log: Log
    on_off_s: dict[str, tuple[float, float]]
    drops: dict[str, int]
    spacing_s: float


def synthetic(seed: int, *, cycling: bool = False) -> Synthetic:
    """One to four elements through one call, at 1 to 10 samples a second."""
    rng = Random(seed)
    count = rng.randint(1, 4)
    alike = rng.random() < 0.6
    watts = (rng.choice(WATTS),) * count if alike else tuple(rng.choice(WATTS) for _ in range(count))
    unit = as_usually_printed(build_kit(Kit(watts, 240, "double-sequencers"), f"made-up-{seed}", ""))
    ended_s = CALL_S + rng.uniform(600, 1500)
    visit = Visit(
        events=(
            Calls(t_s=CALL_S, calls=frozenset(c.call for c in unit.controls if c.call)),
            Calls(t_s=ended_s, calls=frozenset()),
        )
    )
    spacing_s = 1 / rng.choice((1, 2, 4, 5, 10))
    t_s = np.arange(0.0, ended_s + 130, spacing_s)
    amps = np.zeros(len(t_s))
    truth: dict[str, tuple[float, float]] = {}
    drops: dict[str, int] = {}
    chosen = rng.choice(unit.elements).id if cycling else ""
    drawn = _times(rng, unit, ended_s)
    for element in unit.elements:
        on_s, off_s = drawn[next(unit.rung_switches(element)).id]
        own = element.rating.amps(240) * rng.uniform(*POWER)
        draws = (t_s >= on_s) & (t_s < off_s)
        if element.id == chosen:
            away = list(_drops(rng, on_s, ended_s))
            for gone_s, back_s in away:
                draws &= ~((t_s >= gone_s) & (t_s < back_s))
            drops[element.id] = len(away)
        amps[draws] += own
        truth[element.id] = (on_s, off_s)
    blower = unit.blower.running_amps or 0.0 if unit.blower else 0.0
    first_s = min(on for on, _ in truth.values())
    amps[(t_s >= first_s) & (t_s < max(off for _, off in truth.values()))] += blower
    t_s, amps = metered(t_s, amps, rng)
    return Synthetic(unit, visit, Log(t_s, {"C1": amps}), truth, drops, spacing_s)


def _times(rng: Random, unit: Unit, ended_s: float) -> dict[str, tuple[float, float]]:
    """On and off of every switch, each in its window, a stack in its order: last on, first off."""
    found: dict[str, tuple[float, float]] = {}
    for control in unit.controls:
        while True:
            ons = [CALL_S + rng.uniform(s.on_s.low, s.on_s.high) for s in control.switches]
            offs = [ended_s + rng.uniform(s.off_s.low, s.off_s.high) for s in control.switches]
            if ons == sorted(ons) and offs == sorted(offs, reverse=True):
                break
        found |= dict(zip((s.id for s in control.switches), zip(ons, offs, strict=True), strict=True))
    return found


def _drops(rng: Random, on_s: float, ended_s: float) -> list[tuple[float, float]]:
    """Openings of one limit, the last one over well before the call ends."""
    closed_s, open_s = rng.uniform(40, 200), rng.uniform(20, 120)
    found = []
    at_s = on_s + 1.5 * closed_s
    while at_s + open_s < ended_s - 5:
        found.append((at_s, at_s + open_s))
        at_s += open_s + closed_s * rng.uniform(0.9, 1.1)
    return found


def quiet(seed: int) -> Synthetic:
    """Nothing comes or goes: no current, the blower alone, or everything on throughout."""
    made = synthetic(seed)
    rng = Random(f"quiet/{seed}")
    spacing_s = made.spacing_s
    t_s = np.arange(0.0, 900.0, spacing_s)
    all_on = sum(e.rating.amps(240) for e in made.unit.elements) * rng.uniform(*POWER)
    level = rng.choice((0.0, 2.2, all_on, 0.5 * all_on))
    t_s, amps = metered(t_s, np.full(len(t_s), level), rng)
    return Synthetic(made.unit, made.visit, Log(t_s, {"C1": amps}), {}, {}, spacing_s)


def metered(t_s: Real, true: Real, rng: Random) -> tuple[Real, Real]:
    """Through a clamp that is noisy and drops out: empty cells, zeros for a moment, lost rows."""
    numbers = np.random.default_rng(rng.randrange(2**32))
    amps = true * (1 + NOISE_SHARE * numbers.standard_normal(len(true)))
    amps = np.maximum(0.0, amps + NOISE_AMPS * numbers.standard_normal(len(true)))
    spacing_s = float(t_s[1] - t_s[0])
    for _ in range(rng.randint(0, 4)):
        at = rng.randrange(len(t_s))
        amps[at : at + rng.randint(1, 2)] = 0.0
    for _ in range(rng.randint(0, 4)):
        at = rng.randrange(len(t_s))
        amps[at : at + rng.randint(1, max(1, int(2 / spacing_s)))] = np.nan
    keep = np.ones(len(t_s), dtype=bool)
    for _ in range(rng.randint(0, 3)):
        at = rng.randrange(len(t_s))
        keep[at : at + rng.randint(1, max(1, int(4 / spacing_s)))] = False
    return t_s[keep], amps[keep]
