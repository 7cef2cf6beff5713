"""How well each hypothesis explains each reading and each observation.

A hypothesis shows a stretch of values (its sizes, the part's spread, the supply between its
usual ends); the meter blurs the ends. Supply volts are one unknown for the whole visit: every
likelihood is an array (variants, supplies) over a grid of it. A small share of any reading is
an outright misreading, so that one slip never kills the truth; on some days a larger one, so that
where one slip shows more are thought of.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from plentar.core.airflow import air_factor
from plentar.core.budget import check_budget
from plentar.core.events import Event, Observed, Reading
from plentar.core.evidence import Evidence, Taken
from plentar.core.judge.shown.atlas import Ensemble
from plentar.core.judge.shown.cold import cold_band
from plentar.core.judge.shown.history import History, history_of
from plentar.core.judge.shown.runs import Run
from plentar.core.judge.weigh.boxes import SUPPLY, Boxes, Narrowed, boxes, density
from plentar.core.meter import ACCURACY
from plentar.core.network import Real
from plentar.core.points import Point
from plentar.core.quantity import OPEN_FROM_OHMS, Band, Quantity
from plentar.core.rise import settled_air
from plentar.core.shown_by_meter import accuracy_of, anywhere_density
from plentar.core.tables import thresholds as th
from plentar.core.tables.assumptions import (
    CYCLING_SEEN,
    EITHER,
    EXPLAINS_TIMES_MISREAD,
    MISREAD,
    MISREAD_BADLY,
    OBSERVED_ERROR_S,
    OBSERVED_RANGE_S,
    UNKNOWN_RETURN_ERROR_F,
    UNKNOWN_RETURN_F,
    WORST_CASE_SCALES,
    ZERO_OF_MISREADS,
)

A, V, DC, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC, Quantity.OHMS
TEMP, UF = Quantity.TEMP_F, Quantity.UF
TONE = Quantity.TONE
#: A meter's continuity range sounds below some 30 to 50 Ω.
SOUNDS_OHMS = Band(30.0, 50.0)
LIKELY_PHASE = 0.2
#: Ohms of a band that is wider than this are of any order within it.
DECADES = 3.0


@dataclass(frozen=True, slots=True)
class ItemLikelihood:
    """A reading or observation as evidence: log likelihoods (variants, supplies), usually and on a
    bad day, and which variants explain it without a misreading."""

    event: Reading | Observed
    t_s: float
    log: Real
    bad_day: Real
    explained: np.ndarray[tuple[int], np.dtype[np.bool_]]
    misread_log: float


def each_likelihood(
    ensemble: Ensemble, evidence: Evidence, taken: Sequence[Taken]
) -> Iterator[ItemLikelihood | None]:
    """The same one by one, the newest first; None for what the model says nothing of."""
    history = history_of(evidence.unit, evidence.visit.events)
    for seen in reversed(list(evidence.visit.of_kind(Observed))):
        check_budget()
        yield _observation(ensemble, history, seen)
    for one in reversed(taken):
        check_budget()
        yield _reading(ensemble, evidence, history, one)


def in_order(found: Iterable[ItemLikelihood | None]) -> list[ItemLikelihood]:
    """What ``each_likelihood`` has found, in order of time."""
    items = [item for item in found if item is not None]
    items.reverse()
    items.sort(key=lambda item: item.t_s)
    return items


def misread_density(point: Point, quantity: Quantity, value: float) -> float:
    """Of an outright misreading: anything on the scale, and zero more than else."""
    if quantity is TONE:
        return 0.5
    if quantity is OHM:
        return 0.3 if value >= OPEN_FROM_OHMS else 0.7 / (max(value, 0.3) * np.log(1e8))
    scale = accuracy_of(point, quantity).fixed
    zero = ZERO_OF_MISREADS / scale if value < scale else 0.0
    return anywhere_density(point, quantity) + zero


#: Return air, the error of the difference, °F, and the density of the air by the site's height.
Air = tuple[float, float, float]
_Key = tuple[tuple[Event, ...], float, Quantity, str, float, bool, Air]


def _key(evidence: Evidence, history: History, taken: Taken) -> _Key:
    """What a reading's likelihood depends on."""
    reading = taken.reading
    t_s = history.time(reading.t_s + reading.lead_s)
    air = _air(evidence, reading)
    before = history.before(t_s)
    return (before, t_s, reading.quantity, reading.at, reading.value, reading.driven, air)


def narrowed_densities(
    ensemble: Ensemble,
    evidence: Evidence,
    history: History,
    taken: Taken,
    cells: Sequence[Narrowed],
) -> Real | None:
    """The density of a reading, the unknown of the specimen that bears on it being in each of some
    cells: (cells, variants, supplies)."""
    key = _key(evidence, history, taken)
    kept: Real | None = ensemble.kept.get((key, cells[0]))
    if kept is None:
        found = [_true_density(ensemble, key[0], key[1], taken, key[-1], cell) for cell in cells]
        if any(one is None for one in found):
            return None
        kept = ensemble.keep((key, cells[0]), np.array(found, dtype=np.float32))
    return kept


def _reading(
    ensemble: Ensemble, evidence: Evidence, history: History, taken: Taken
) -> ItemLikelihood | None:
    reading, point = taken.reading, taken.point
    key = _key(evidence, history, taken)
    kept = ensemble.kept.get(key)
    if kept is None:
        switched, t_s, air = key[0], key[1], key[-1]
        true = _true_density(ensemble, switched, t_s, taken, air)
        kept = ensemble.keep(key, true if true is None else _blend(true, point, reading))
    if kept is None:
        return None
    log, bad_day, explained, misread = kept
    return ItemLikelihood(reading, reading.t_s, log, bad_day, explained, misread)


def _blend(true: Real, point: Point, reading: Reading) -> tuple[Real, Real, np.ndarray, float]:
    misread = MISREAD * misread_density(point, reading.quantity, reading.value)
    missing = np.isnan(true)
    likelihood = np.where(missing, misread / MISREAD, (1 - MISREAD) * true + misread)
    explained = np.asarray((missing | (true > EXPLAINS_TIMES_MISREAD * misread)).any(axis=1))
    log, misread_log = np.asarray(np.log(likelihood)), float(np.log(misread))
    return log, _bad_day(log, misread_log), explained, misread_log


def _bad_day(log: Real, misread_log: float) -> Real:
    """The same log likelihoods on a day with many misreadings."""
    misread = np.exp(misread_log)
    true = (np.exp(log) - misread) / (1 - MISREAD)
    return np.asarray(np.log((1 - MISREAD_BADLY) * true + MISREAD_BADLY / MISREAD * misread))


def _true_density(
    ensemble: Ensemble,
    switched: tuple[Event, ...],
    t_s: float,
    taken: Taken,
    air: Air,
    narrowed: Narrowed | None = None,
) -> Real | None:
    reading, point = taken.reading, taken.point
    if reading.quantity.dead_only:
        return _cold_density(ensemble, point, reading, narrowed)
    probe = ensemble.rows.probe(reading.quantity, reading.at)
    if probe is None or probe in ensemble.rows.table.slips:
        return None
    if reading.quantity is TEMP and not settled_air(taken):
        return None
    run = ensemble.run(switched, t_s)
    shown = run.at(t_s)
    found = boxes(ensemble.rows, shown.rows, probe, narrowed=narrowed, fine=_fine(reading))
    if reading.quantity is TEMP:
        return_f, error_f, density_share = air
        scale = np.full_like(found.low, error_f / WORST_CASE_SCALES)
        # While limits come and go, the air tells of some heat or none.
        comes_and_goes = np.array([bool(limits) for limits in run.cycling(t_s)])
        low = np.where(comes_and_goes[:, None, None], 0.0, found.low) / density_share
        found = Boxes(low + return_f, found.high / density_share + return_f, scale, found.ghost)
    return np.asarray((shown.weights[..., None] * found.density(reading.value)).sum(1))


def _fine(reading: Reading) -> bool:
    """It was taken on a millivolt range: its value is given to two decimals or more."""
    return reading.value != round(reading.value, 1)


def _air(evidence: Evidence, reading: Reading) -> Air:
    if reading.quantity is not TEMP:
        return (0.0, 0.0, 1.0)
    found = evidence.latest("return-air", TEMP)
    probe_f = ACCURACY[TEMP].fixed
    share = air_factor(evidence.visit.settings.altitude_ft)
    if found is None:
        return (UNKNOWN_RETURN_F, UNKNOWN_RETURN_ERROR_F + probe_f, share)
    return (found.reading.value, 2 * probe_f, share)


def _strip_density(ensemble: Ensemble, point: Point, reading: Reading, narrowed: Narrowed) -> Real:
    """An element's cold ohms, were its power so much of its rating."""
    low, high, open_ = cold_arrays(ensemble, point, OHM, False)
    least = low * th.PLATE_POWER_HIGH.value / narrowed.high
    most = high * th.PLATE_POWER_LOW.value / narrowed.low
    accuracy = ACCURACY[OHM]
    scale = ((least + most) / 2 * accuracy.share + accuracy.fixed) / WORST_CASE_SCALES
    with np.errstate(invalid="ignore"):
        closed = density(min(reading.value, 1e9), least, most, scale)
    found = np.where(open_, float(reading.value >= OPEN_FROM_OHMS), closed)
    return np.broadcast_to(found[:, None], (len(found), len(SUPPLY)))


def _cold_density(
    ensemble: Ensemble, point: Point, reading: Reading, narrowed: Narrowed | None
) -> Real:
    if narrowed is not None:
        return _strip_density(ensemble, point, reading, narrowed)
    found = np.full((len(ensemble.variants), 1), np.nan)
    for v, bands in enumerate(cold_bands(ensemble, point, reading.quantity, reading.driven)):
        if bands is not None:
            found[v] = cold_density(bands, reading.quantity, reading.value)
    return np.broadcast_to(found, (len(found), len(SUPPLY)))


def cold_bands(
    ensemble: Ensemble, point: Point, quantity: Quantity, driven: bool
) -> list[Band | None]:
    """What each variant shows on a part proved dead."""
    key = (point.name, quantity, driven)
    kept: list[Band | None] | None = ensemble.kept.get(key)
    if kept is not None:
        return kept
    found: list[Band | None] = []
    for variant in ensemble.variants:
        bands = [
            cold_band(ensemble.rows.wiring, ensemble.rows.harm(c), point, quantity, driven)
            for c in variant.corners
        ]
        sure = [band for band in bands if band is not None]
        lows, highs = [band.low for band in sure], [band.high for band in sure]
        found.append(Band(min(lows), max(highs)) if len(sure) == len(bands) else None)
    ensemble.keep(key, found)
    return found


def cold_arrays(
    ensemble: Ensemble, point: Point, quantity: Quantity, driven: bool
) -> tuple[Real, Real, np.ndarray]:
    """The same as arrays over the variants: least, most, which read open; NaN where unknown."""
    key = ("arrays", point.name, quantity, driven)
    kept: tuple[Real, Real, np.ndarray] | None = ensemble.kept.get(key)
    if kept is None:
        bands = cold_bands(ensemble, point, quantity, driven)
        low = np.array([np.nan if band is None else band.low for band in bands])
        high = np.array([np.nan if band is None else band.high for band in bands])
        kept = ensemble.keep(key, (low, high, np.isinf(high)))
    return kept


def cold_density(band: Band, quantity: Quantity, value: float) -> float:
    """Of a reading of ohms, µF or tone; an open part is one outcome, however many megohms."""
    if quantity is TONE:
        surely = band.high <= SOUNDS_OHMS.low, band.low >= SOUNDS_OHMS.high
        return 0.5 if not any(surely) else float(surely[0] == bool(value))
    if np.isinf(band.high):
        return 1.0 if value >= min(OPEN_FROM_OHMS, band.low) else 0.0
    if np.isinf(value):
        return 0.0
    accuracy = ACCURACY[quantity]
    if quantity is OHM and band.high > DECADES * band.low > accuracy.fixed:
        # A fault's size may be of any order: even over the logarithm, and so is the meter's error.
        error = (accuracy.share + accuracy.fixed / max(value, band.low)) / WORST_CASE_SCALES
        ends = np.array(np.log(band.low)), np.array(np.log(band.high))
        of_log = density(float(np.log(max(value, 1e-3))), *ends, np.array(error))
        return float(of_log) / max(value, 1e-3)
    scale = (abs(band.low + band.high) / 2 * accuracy.share + accuracy.fixed) / WORST_CASE_SCALES
    return float(density(value, np.array(band.low), np.array(band.high), np.array(scale)))


def shown_band(
    ensemble: Ensemble, history: History, variant: int, taken: Taken
) -> tuple[float, float] | None:
    """The readings that one variant shows where a reading was taken, least and most."""
    reading, point = taken.reading, taken.point
    if reading.quantity.dead_only:
        band = cold_bands(ensemble, point, reading.quantity, reading.driven)[variant]
        return None if band is None else (band.low, band.high)
    probe = ensemble.rows.probe(reading.quantity, reading.at)
    if probe is None or reading.quantity is TEMP:
        return None
    t_s = history.time(reading.t_s + reading.lead_s)
    shown = ensemble.run(history.before(t_s), t_s).at(t_s)
    values = ensemble.rows.values[shown.rows[variant], probe]
    weights = shown.weights[variant]
    likeliest = values[weights >= min(LIKELY_PHASE, float(weights.max()))]
    return float(likeliest.min()), float(likeliest.max())


def _observation(ensemble: Ensemble, history: History, seen: Observed) -> ItemLikelihood | None:
    t_s = history.time(seen.t_s + seen.lead_s)
    switched = history.before(t_s)
    key = (switched, t_s, seen.action, seen.part)
    kept = ensemble.kept.get(key)
    if kept is None:
        run = ensemble.run(switched, t_s + 1)
        judge = _holds if seen.action in ("cycling", "steady") else _acted
        true = np.array([judge(run, ensemble, v, seen, t_s) for v in range(len(run.phases))])
        whole = 1.0 if seen.action in ("cycling", "steady") else 1 / OBSERVED_RANGE_S
        misread = MISREAD * whole
        log = np.log((1 - MISREAD) * true + misread)
        explained = true > EXPLAINS_TIMES_MISREAD * misread
        log = np.broadcast_to(log[:, None], (len(log), len(SUPPLY)))
        misread_log = float(np.log(misread))
        kept = ensemble.keep(key, (log, _bad_day(log, misread_log), explained, misread_log))
    log, bad_day, explained, misread = kept
    return ItemLikelihood(seen, seen.t_s, log, bad_day, explained, misread)


def _holds(run: Run, ensemble: Ensemble, v: int, seen: Observed, t_s: float) -> float:
    """Whether a limit, or an element's rung, cycles."""
    unit = ensemble.rows.wiring.unit
    element = unit.element_by_id.get(seen.part)
    watched = set(element.rung) if element else {seen.part}
    now = [phase for phase in run.phases[v] if phase.t_s <= t_s][-1]
    limits = {limit.id for limit in unit.limits}
    for other in unit.elements_through(seen.part) if seen.part in limits else ():
        own = limits.intersection(other.rung)
        if len(own) > 1 and own <= now.cycling:
            return EITHER  # the first that opens saves the others
    cycles = bool(now.cycling & watched)
    return CYCLING_SEEN if cycles == (seen.action == "cycling") else 1 - CYCLING_SEEN


def _acted(run: Run, ensemble: Ensemble, v: int, seen: Observed, t_s: float) -> float:
    """Density of a part acting at a time: even over its window, blurred by the watch."""
    turns_on = seen.action == "on"
    total = 0.0
    phases = run.phases[v]
    harm = ensemble.rows.harm(ensemble.variants[v].clock)
    stuck = seen.part in harm.effects.always_open | harm.effects.always_closed
    for before, after in pairwise(phases):
        if seen.part == "blower":
            moved = before.blower_runs != after.blower_runs and after.blower_runs == turns_on
        else:
            was, is_ = seen.part in before.closed, seen.part in after.closed
            moved = was != is_ and is_ == turns_on and not stuck
        if moved:
            low, high = np.array(after.early_s), np.array(after.late_s)
            total += float(density(t_s, low, high, np.array(OBSERVED_ERROR_S)))
    return min(total, 1.0)
