"""The one observation model: how probable a reading is where a hypothesis is so.

    P(x) = (1 − ε) · p(x) + ε · q(x)

``p`` is what a meter shows of a value that is spread evenly over a stretch [low, high]: the stretch
blurred by a logistic curve whose scale is the meter's worst case ÷ WORST_CASE_SCALES,

    p(x) = (σ((x − low) / scale) − σ((x − high) / scale)) / (high − low).

``q`` is what an outright misreading shows: anything on the range, and zero more often than else. ε is
the share of outright misreadings, usually small, on some days large. So one slip never kills the truth.
(A contaminated likelihood, as Box and Tiao have it for outliers, Biometrika 55, 1968.)

The judge weighs by it and the planner prices by it. Densities are per unit of the quantity; NaN where
the model tells nothing, which then speaks for nobody: p = q.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from plentar.core.circuit.shown_by_meter import accuracy_of, anywhere_density
from plentar.core.quantity import OPEN_FROM_OHMS, Band, Quantity
from plentar.core.tables.assumptions import GHOST_V, GHOST_ZEROS, MISREAD, WORST_CASE_SCALES, ZERO_OF_MISREADS
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.points import Point

Floats = np.ndarray[Any, np.dtype[np.floating[Any]]]
#: A meter's continuity range sounds below some 30 to 50 Ω.
SOUNDS_OHMS = Band(30.0, 50.0)
#: Ohms of a band that is wider than this are of any order within it.
DECADES = 3.0
#: Misread ohms: how many read open; the others are of any order over eight decades from the least.
OPEN_OF_MISREADS, LEAST_MISREAD_OHMS, MISREAD_DECADES = 0.3, 0.3, 8.0
#: Below so many ohms all are one order.
LEAST_OHMS = 1e-3


def log_mixture(true: Floats, misread: Floats | float, share: float = MISREAD) -> Floats:
    """log((1 − ε) p + ε q), ``true`` being p, ``misread`` q and ``share`` ε."""
    known = np.where(np.isnan(true), misread, true)
    return np.asarray(np.log((1 - share) * known + share * misread))


def density(x: float | Floats, low: Floats, high: Floats, scale: Floats) -> Floats:
    """p of an even stretch; one narrower than the meter's scale counts as that wide."""
    width = np.maximum(high - low, scale)
    middle = (low + high) / 2
    rising = _logistic((x - (middle - width / 2)) / scale)
    falling = _logistic((x - (middle + width / 2)) / scale)
    return np.asarray(np.maximum(rising - falling, 0.0) / width)


def ghost_density(x: float | Floats, scale: Floats) -> Floats:
    """p of volts through an open part: zero as often as not, else anything below 60 V."""
    zero = np.zeros_like(scale)
    anything = density(x, zero, np.full_like(scale, GHOST_V.high), scale)
    return np.asarray(GHOST_ZEROS * density(x, zero, zero, scale) + (1 - GHOST_ZEROS) * anything)


def dead_density(quantity: Quantity, x: float | Floats, low: Floats, high: Floats) -> Floats:
    """p of ohms, µF or tone, read proved dead; ``high`` is infinite where the part reads open.

    Open is one outcome, however many megohms. A band of ohms that is wide is even over the logarithm,
    for a fault's size may be of any order, and so is the meter's error then.
    """
    x, low, high = np.broadcast_arrays(x, low, high)
    if quantity is Quantity.TONE:
        sounds, silent = high <= SOUNDS_OHMS.low, low >= SOUNDS_OHMS.high
        return np.where(sounds | silent, sounds == (x != 0), 0.5)
    unknown, opens = np.isnan(low), np.isinf(high)
    as_open = x >= np.minimum(OPEN_FROM_OHMS, np.where(unknown, np.inf, low))
    bounded = opens | unknown
    low, high = np.where(bounded, 0.0, low), np.where(bounded, 0.0, high)
    accuracy = ACCURACY[quantity]
    scale = ((low + high) / 2 * accuracy.share + accuracy.fixed) / WORST_CASE_SCALES
    found = density(x, low, high, scale)
    if quantity is Quantity.OHMS and (wide := is_wide(low, high)).any():
        found = np.where(wide, _even_over_orders(x, low, high, wide), found)
    return np.where(unknown, np.nan, np.where(opens, as_open, found))


def is_wide(low: Floats, high: Floats) -> np.ndarray:
    """Which bands of ohms are of any order within them."""
    return np.asarray((high > DECADES * low) & (DECADES * low > ACCURACY[Quantity.OHMS].fixed))


def _even_over_orders(x: Floats, low: Floats, high: Floats, wide: np.ndarray) -> Floats:
    accuracy, ohms = ACCURACY[Quantity.OHMS], np.maximum(x, LEAST_OHMS)
    low, high = np.where(wide, low, 1.0), np.where(wide, high, 1.0)
    error = (accuracy.share + accuracy.fixed / np.maximum(x, low)) / WORST_CASE_SCALES
    return np.asarray(density(np.log(ohms), np.log(low), np.log(high), error) / ohms)


def misread_density(point: Point, quantity: Quantity, x: float | Floats) -> Floats:
    """q of any quantity at a point: ohms are of any order or open, a tone as often as none; all else as ``anything``."""
    if quantity is Quantity.TONE:
        return np.full(np.shape(x), 0.5)
    if quantity is Quantity.OHMS:
        orders = MISREAD_DECADES * np.log(10.0)
        any_order = (1 - OPEN_OF_MISREADS) / (np.maximum(x, LEAST_MISREAD_OHMS) * orders)
        return np.where(np.asarray(x) >= OPEN_FROM_OHMS, OPEN_OF_MISREADS, any_order)
    anywhere = anywhere_density(point, quantity)
    return anything(x, np.array(anywhere), np.array(accuracy_of(point, quantity).fixed))


def anything(x: float | Floats, anywhere: Floats, fixed: Floats) -> Floats:
    """q over a range: even, and zero (within the meter's fixed error) more than else."""
    return np.asarray(anywhere + np.where(x < fixed, ZERO_OF_MISREADS / fixed, 0.0))


def _logistic(x: Floats) -> Floats:
    return np.asarray(0.5 * (1.0 + np.tanh(0.5 * x)))
