"""What a variant may read at a probe: a stretch of values, blurred by the meter; or a ghost.

The stretch is that of the fault's size, of the part's spread and of the supply. Supply volts are
one unknown for the whole visit: where one probe is asked for, over a grid of it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from plentar.core.circuit.network import Index, Real
from plentar.core.circuit.wiring import Mask
from plentar.core.judge.shown.rows import Rows
from plentar.core.judge.weigh.observation import Floats, density, ghost_density
from plentar.core.tables.assumptions import (
    FEED_AMPS_SPREAD,
    GHOST_V,
    MILLIVOLTS_BELOW,
    MILLIVOLTS_FIXED,
    SUPPLY_FROM,
    SUPPLY_STEP,
    SUPPLY_TO,
    SUPPLY_USUAL,
    WORST_CASE_SCALES,
)

#: Supply as a share of rated: the middle of each cell, and how usual it is.
SUPPLY: Real = np.arange(SUPPLY_FROM, SUPPLY_TO + 1e-4, SUPPLY_STEP)
SUPPLY_CHANCE: Real = np.interp(
    SUPPLY, [share for share, _ in SUPPLY_USUAL], [chance for _, chance in SUPPLY_USUAL]
)
SUPPLY_CHANCE /= SUPPLY_CHANCE.sum()
SUPPLY_HALF_CELL = SUPPLY_STEP / 2
_ALL: tuple[Real, Real] = (np.array(1.0), np.array(1.0))


@dataclass(frozen=True, slots=True)
class Narrowed:
    """What is left of a part's spread: of the blower's share of a current, or of the rest."""

    low: float
    high: float
    blower: bool = False


@dataclass(frozen=True, slots=True)
class Spreads:
    """What is left of the parts' spreads for each of some states: (states, probes); of the
    blower's: (states,)."""

    low: Real
    high: Real
    blower_low: Real
    blower_high: Real


@dataclass(frozen=True, slots=True)
class Boxes:
    """Least and most value before the meter, the meter's scale, and which are ghosts; NaN where
    the model has none. All (…, supplies) or (…, probes)."""

    low: Real
    high: Real
    scale: Real
    ghost: Mask

    def density(self, value: float) -> Floats:
        found = density(value, self.low, self.high, self.scale)
        if not self.ghost.any():
            return found
        return np.asarray(np.where(self.ghost, ghost_density(value, self.scale), found))


def boxes(
    rows: Rows,
    numbers: np.ndarray,
    probes: int | slice | Index,
    supplies: tuple[Real, Real] = _ALL,
    narrowed: Narrowed | None = None,
    spreads: Spreads | None = None,
    fine: bool = True,
) -> Boxes:
    """For rows (…, corners): at one probe (…, supplies) over the grid; at several (…, probes), with
    the least and most supply of each, which must broadcast.

    ``narrowed`` is what is known of the part's spread, at one probe; ``fine`` that a millivolt
    range is used where there is one. ``spreads`` are the parts' spreads where they differ from
    state to state, at several probes.
    """
    table = rows.table
    one = isinstance(probes, int)
    at = numbers if isinstance(probes, slice) else (numbers if one else numbers[..., None], probes)
    values, ghosts = rows.values[at], rows.ghosts[at]
    corners = numbers.ndim - 1
    ghostly = ghosts.any(axis=corners)
    least, most = table.spread_low[probes], table.spread_high[probes]
    if spreads is not None:
        least, most = spreads.low, spreads.high
    blower = table.blower_of[probes]
    if one and blower >= 0:
        part = np.minimum(rows.values[numbers, blower], values)
        own_low, own_high = table.blower_spread
        if narrowed is not None and narrowed.blower:
            own_low, own_high = narrowed.low, narrowed.high
        elif narrowed is not None:
            least, most = np.array(narrowed.low), np.array(narrowed.high)
        low = (least * (values - part) + own_low * part).min(axis=corners)
        high = (most * (values - part) + own_high * part).max(axis=corners)
    else:
        if narrowed is not None:
            least, most = np.array(narrowed.low), np.array(narrowed.high)
        low, high = least * values.min(axis=corners), most * values.max(axis=corners)
        if not one and (carried := np.flatnonzero(blower >= 0)).size:
            low, high = _with_blower(rows, numbers, values, carried, blower, low, high, spreads)
    low = np.where(ghostly, GHOST_V.low, low)
    high = np.where(ghostly, GHOST_V.high, high)
    share, fixed = table.accuracy_share[probes], table.accuracy_fixed[probes]
    power = table.supply_power[probes]
    if one:
        low, high, ghostly = low[..., None], high[..., None], ghostly[..., None]
        from_, to = SUPPLY - SUPPLY_HALF_CELL, SUPPLY + SUPPLY_HALF_CELL
    else:
        from_, to = supplies
    low, high = low * from_**power, high * to**power
    scale = (np.abs(low + high) / 2 * share + fixed) / WORST_CASE_SCALES
    scale = np.where(ghostly, fixed / WORST_CASE_SCALES, scale)
    if fine:
        small = table.millivolts[probes] & (high < MILLIVOLTS_BELOW)
        scale = np.where(small, MILLIVOLTS_FIXED / WORST_CASE_SCALES, scale)
    return Boxes(low, high, scale, np.broadcast_to(ghostly, low.shape))


def _with_blower(
    rows: Rows,
    numbers: np.ndarray,
    values: Real,
    carried: Index,
    blower: Index,
    low: Real,
    high: Real,
    spreads: Spreads | None,
) -> tuple[Real, Real]:
    """The feeds among several probes: the blower's share of each by the blower's spread."""
    table, corners = rows.table, numbers.ndim - 1
    some = values[..., carried]
    part = np.minimum(rows.values[numbers[..., None], blower[carried]], some)
    least, most = np.array(table.blower_spread[0]), np.array(table.blower_spread[1])
    if spreads is not None:
        least, most = spreads.blower_low[:, None, None], spreads.blower_high[:, None, None]
    low, high = low.copy(), high.copy()
    low[..., carried] = (FEED_AMPS_SPREAD.low * (some - part) + least * part).min(axis=corners)
    high[..., carried] = (FEED_AMPS_SPREAD.high * (some - part) + most * part).max(axis=corners)
    return low, high
