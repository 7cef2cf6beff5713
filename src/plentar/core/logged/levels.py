"""A logged current → its levels and the steps between them. Pure numerics.

A step is a change of level that is held for three seconds or more, larger than four times the
noise and than two fifths of the smallest load (job rule). Shorter excursions, a clamp that drops
out for a moment among them, are taken out by a running median, which leaves edges where they
are; steps are sought in half-second blocks, as the peaks of the difference of what lies before
and behind, and each is then placed among the samples by least squares.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from plentar.core.circuit.network import Index, Real

HELD_S = 3.0
NOISE_TIMES, LOAD_SHARE = 4.0, 0.4
BLOCK_S = 0.5
#: The two sides whose means are compared, and how far an edge is sought around its block.
SIDE_S, SEARCH_S = 1.5, 2.0
#: Spacing from which samples are missing: so many usual spacings, and no less than a held step.
GAP_SPACINGS = 4.0
#: The median of a normal difference's size, in standard deviations of one sample.
MEDIAN_OF_DIFFERENCES = 0.6745 * math.sqrt(2)
QUIET_AMPS = 1.0
#: From this many of the smallest load a step may be two that came close together.
TWO_LOADS = 1.5


@dataclass(frozen=True, slots=True)
class LevelStep:
    """One change of level: at ``t_s``, give or take ``within_s``."""

    t_s: float
    within_s: float
    before_amps: float
    after_amps: float

    @property
    def size_amps(self) -> float:
        return self.after_amps - self.before_amps


@dataclass(frozen=True, slots=True)
class Levels:
    """What one column of a log shows: the first level, and the steps in order.

    ``gaps`` are stretches without samples; ``noise_share`` is the noise of one sample over its
    level.
    """

    first_amps: float
    steps: tuple[LevelStep, ...]
    noise_amps: float
    noise_share: float
    spacing_s: float
    gaps: tuple[tuple[float, float], ...]


def find_levels(t_s: Real, amps: Real, least_load_amps: float) -> Levels:
    """Levels and steps of samples (n,) at rising times (n,); what is not finite is no sample.

    ``least_load_amps`` is the smallest load that may come or go.
    """
    known = np.isfinite(amps)
    t, x = (t_s, amps) if known.all() else (t_s[known], amps[known])
    if len(x) < 2:
        first = float(x[0]) if len(x) else 0.0
        return Levels(first, (), 0.0, 0.0, 0.0, ())
    spacings = np.diff(t)
    spacing_s = float(np.median(spacings))
    missing = np.flatnonzero(spacings > max(HELD_S, GAP_SPACINGS * spacing_s))
    gaps = tuple((float(t[n]), float(t[n + 1])) for n in missing)
    noise_amps, noise_share = _noise(x)
    least_amps = LOAD_SHARE * least_load_amps
    size = max(1, int(BLOCK_S / spacing_s + 1e-9)) if spacing_s > 0 else 1
    blocks = _filtered(x, size, spacing_s)
    edges = _peaks(blocks, size * spacing_s, least_amps / 2)
    bounds = np.concatenate([[0], edges * size, [len(x)]])
    bounds, levels = _held(x, bounds, least_amps, noise_amps, noise_share)
    reach = size + math.ceil(SEARCH_S / spacing_s) if spacing_s > 0 else size
    steps = []
    for n in range(1, len(levels)):
        before, after = levels[n - 1], levels[n]
        window = _window(bounds[n - 1 : n + 2], reach)
        noise = noise_amps + noise_share * max(before, after)
        two = None
        if abs(after - before) > TWO_LOADS * least_load_amps:
            two = _two_edges(x, window, before, after, least_amps, noise)
        edges_here = two or [(_edge(x, window, before, after), after)]
        for k, level in edges_here:
            steps.append(
                LevelStep(float(t[k - 1] + t[k]) / 2, float(t[k] - t[k - 1]) / 2, float(before), float(level))
            )
            before = level
    return Levels(float(levels[0]), tuple(steps), noise_amps, noise_share, spacing_s, gaps)


def _noise(x: Real) -> tuple[float, float]:
    """Noise of one sample: what there is without current, and as a share of the current."""
    change = np.abs(np.diff(x))
    draws = x[1:] > QUIET_AMPS
    still, busy = change[~draws], change[draws] / x[1:][draws]
    floor = float(np.median(still)) / MEDIAN_OF_DIFFERENCES if len(still) else 0.0
    share = float(np.median(busy)) / MEDIAN_OF_DIFFERENCES if len(busy) else 0.0
    return floor, share


def _filtered(x: Real, size: int, spacing_s: float) -> Real:
    """Medians of blocks, then a running median that is blind to what lasts under HELD_S."""
    whole = len(x) // size * size
    blocks: Real = x if size == 1 else np.median(x[:whole].reshape(-1, size), axis=1)
    block_s = size * spacing_s
    half = math.ceil(HELD_S / block_s - 1e-9) - 1 if block_s > 0 else 0
    half = min(half, (len(blocks) - 1) // 2)
    if half <= 0:
        return blocks
    width = 2 * half + 1
    ends = np.median(blocks[:width]), np.median(blocks[-width:])
    padded = np.concatenate([np.full(half, ends[0]), blocks, np.full(half, ends[1])])
    quiet: Real = np.partition(sliding_window_view(padded, width), half, axis=1)[:, half]
    return quiet


def _peaks(blocks: Real, block_s: float, least_amps: float) -> Index:
    """Blocks that begin a new level: where the means of both sides differ most."""
    side = max(1, round(SIDE_S / block_s)) if block_s > 0 else 1
    count = len(blocks)
    if count < 2:
        return np.empty(0, dtype=np.intp)
    total = np.concatenate([[0.0], np.cumsum(blocks)])
    at = np.arange(1, count)
    low, high = np.maximum(at - side, 0), np.minimum(at + side, count)
    change = np.abs((total[high] - total[at]) / (high - at) - (total[at] - total[low]) / (at - low))
    padded = np.concatenate([np.zeros(side), change, np.zeros(side)])
    tops = np.flatnonzero(
        (change >= least_amps) & (change >= sliding_window_view(padded, 2 * side + 1).max(axis=1))
    )
    if not len(tops):
        return np.empty(0, dtype=np.intp)
    # A flat top is one peak, in its middle.
    groups = np.split(tops, np.flatnonzero(np.diff(tops) > side) + 1)
    return np.array([int(at[group[len(group) // 2]]) for group in groups], dtype=np.intp)


def _held(
    x: Real, bounds: Index, least_amps: float, noise_amps: float, noise_share: float
) -> tuple[Index, Real]:
    """Bounds between levels that differ enough, and the levels; the smallest change goes first."""
    cuts = [int(bound) for bound in bounds]
    levels = [_level(x[a:b]) for a, b in itertools.pairwise(cuts)]
    while len(levels) > 1:
        change = np.abs(np.diff(levels))
        noise = NOISE_TIMES * (noise_amps + noise_share * np.maximum(levels[1:], levels[:-1]))
        margin = change / np.maximum(least_amps, noise)
        n = int(np.argmin(margin))
        if margin[n] > 1:
            break
        del cuts[n + 1]
        levels[n : n + 2] = [_level(x[cuts[n] : cuts[n + 1]])]
    return np.array(cuts, dtype=np.intp), np.array(levels)


def _level(x: Real) -> float:
    return float(np.median(x)) if len(x) else 0.0


def _window(bounds: Index, reach: int) -> tuple[int, int]:
    """Where the edge at the middle bound may lie: near it, and not in another level."""
    left, middle, right = (int(bound) for bound in bounds)
    low, high = max(left + 1, middle - reach), min(right - 1, middle + reach)
    return (low, high) if high > low else (middle, middle)


def _edge(x: Real, window: tuple[int, int], before: float, after: float) -> int:
    """The first sample of the new level, by least squares; no sample counts more than a step."""
    low, high = window
    if low == high:
        return low
    some = x[low - 1 : high + 1]
    most = (after - before) ** 2
    lost = np.minimum((some - before) ** 2, most) - np.minimum((some - after) ** 2, most)
    return low - 1 + int(np.argmin(np.concatenate([[0.0], np.cumsum(lost)])))


def _two_edges(
    x: Real, window: tuple[int, int], before: float, after: float, least: float, noise: float
) -> list[tuple[int, float]] | None:
    """Two loads that act within moments of each other, both the same way: the first sample of
    each level, and the level. None where one edge does as well."""
    low, high = window
    some = np.clip(x[low - 1 : high + 1], min(before, after), max(before, after))
    count = len(some)
    if count < 4:
        return None
    until = np.concatenate([[0.0], np.cumsum((some - before) ** 2)])
    since = np.concatenate([np.cumsum(((some - after) ** 2)[::-1])[::-1], [0.0]])
    total = np.concatenate([[0.0], np.cumsum(some)])
    squares = np.concatenate([[0.0], np.cumsum(some**2)])
    first, second = np.triu_indices(count + 1, k=2)
    held = second - first
    middle = (total[second] - total[first]) / held
    spread = squares[second] - squares[first] - held * middle**2
    lost = until[first] + spread + since[second]
    n = int(np.argmin(lost))
    level = float(middle[n])
    steady = spread[n] / held[n] <= (NOISE_TIMES * noise) ** 2
    apart = min(abs(level - before), abs(after - level)) > least
    gain = float((until + since).min()) - float(lost[n])
    if not (steady and apart and gain > least**2):
        return None
    return [(low - 1 + int(first[n]), level), (low - 1 + int(second[n]), after)]
