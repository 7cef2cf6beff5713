"""How well each hypothesis explains each reading and each observation.

A hypothesis shows a stretch of values (its sizes, the part's spread, the supply between its usual
ends); ``observation`` says how probable a reading is then. Supply volts are one unknown for the whole
visit: every likelihood is an array (variants, supplies) over a grid of it.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np

from plentar.core.air.airflow import air_factor
from plentar.core.air.rise import settled_air
from plentar.core.budget import check_budget
from plentar.core.cache import MEGABYTE, Cache
from plentar.core.judge.shown.cold import dead_bands
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.judge.shown.history import SwitchHistory, history_of
from plentar.core.judge.weigh.boxes import SUPPLY, Boxes, Narrowed, boxes
from plentar.core.judge.weigh.observation import Floats, dead_density, log_mixture, misread_density
from plentar.core.judge.weigh.seen import Seen, misread_of, seen_in, share_of
from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th
from plentar.core.tables.assumptions import (
    EXPLAINS_TIMES_MISREAD,
    MISREAD,
    MISREAD_BADLY,
    UNKNOWN_RETURN_ERROR_F,
    UNKNOWN_RETURN_F,
    WORST_CASE_SCALES,
)
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.points import CONTROL_SIDE, Point
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event, Reading
from plentar.core.visit.evidence import Evidence, Taken

A, V, DC, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC, Quantity.OHMS
#: Kinds of point where volts are the line's or none.
LINE_KINDS = frozenset({"circuit", "line", "element", "blower", "primary", "node-ground"})
TEMP, UF = Quantity.TEMP_F, Quantity.UF
LIKELY_PHASE = 0.2


@dataclass(frozen=True, slots=True)
class ItemLikelihood:
    """A reading or observation as evidence.

    ``log`` and ``bad_day`` are log likelihoods (variants, supplies), usually and on a day with many
    misreadings; ``explained`` (variants,) says which variants show it without a misreading;
    ``misread`` is the density of it as an outright misreading.
    """

    event: Reading | Seen
    log: Floats
    bad_day: Floats
    explained: np.ndarray[tuple[int], np.dtype[np.bool_]]
    misread: float

    @property
    def t_s(self) -> float:
        """When it was taken, s of the visit."""
        return self.event.t_s


class Air(NamedTuple):
    """Return air, the error of the difference, °F, and the density of the air by the site's height."""

    return_f: float = 0.0
    error_f: float = 0.0
    density_share: float = 1.0


class ItemKey(NamedTuple):
    """What the likelihood of a reading or observation depends on."""

    switched: tuple[Event, ...]
    t_s: float
    what: Quantity | str
    at: str
    value: float = 0.0
    driven: bool = False
    air: Air = Air()


@dataclass(slots=True)
class _Shelf:
    """Of an ensemble: what was weighed under it."""

    items: Cache[ItemKey, ItemLikelihood] = field(
        default_factory=lambda: Cache("items", 16 * MEGABYTE, _item_bytes)
    )
    narrowed: Cache[tuple[ItemKey, Narrowed], Floats] = field(
        default_factory=lambda: Cache("items", 16 * MEGABYTE, lambda found: found.nbytes)
    )

    @property
    def held_bytes(self) -> int:
        return self.items.held_bytes + self.narrowed.held_bytes

    def clear(self) -> None:
        self.items.clear()
        self.narrowed.clear()


def _item_bytes(item: ItemLikelihood) -> int:
    return item.log.nbytes + item.bad_day.nbytes + item.explained.nbytes


def each_likelihood(
    ensemble: Ensemble, evidence: Evidence, taken: Sequence[Taken]
) -> Iterator[ItemLikelihood | None]:
    """The items one by one, the newest first; None for what the model says nothing of."""
    history = history_of(evidence.unit, evidence.visit.events)
    for seen in reversed(seen_in(evidence.visit)):
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


def _weighed(event: Reading | Seen, true: Floats, misread: float) -> ItemLikelihood:
    """An item by its density under each variant (variants, supplies), and as a misreading."""
    missing = np.isnan(true)
    explained = (missing | (true > EXPLAINS_TIMES_MISREAD * MISREAD * misread)).any(axis=1)
    shape = (len(true), len(SUPPLY))
    log, bad_day = (
        np.broadcast_to(log_mixture(true, misread, share), shape) for share in (MISREAD, MISREAD_BADLY)
    )
    return ItemLikelihood(event, log, bad_day, np.asarray(explained), misread)


def least_explained(misread: float) -> float:
    """The likelihood from which an item is no misreading: (1 − ε) p + ε q where p is so many times ε q."""
    return MISREAD * misread * (1 + (1 - MISREAD) * EXPLAINS_TIMES_MISREAD)


def _key(evidence: Evidence, history: SwitchHistory, taken: Taken) -> ItemKey:
    reading = taken.reading
    t_s = history.time(reading.t_s + reading.lead_s)
    before, air = history.before(t_s), _air(evidence, reading)
    return ItemKey(before, t_s, reading.quantity, reading.at, reading.value, reading.driven, air)


def narrowed_densities(
    ensemble: Ensemble, evidence: Evidence, history: SwitchHistory, taken: Taken, cells: Sequence[Narrowed]
) -> Floats | None:
    """The density of a reading, the unknown of the specimen that bears on it being in each of some
    cells: (cells, variants, supplies)."""
    shelf = ensemble.shelves.of(_Shelf)
    key = _key(evidence, history, taken)
    kept = shelf.narrowed.get((key, cells[0]))
    if kept is None:
        found = [_true_density(ensemble, key, taken, cell) for cell in cells]
        if any(one is None for one in found):
            return None
        kept = shelf.narrowed.keep((key, cells[0]), np.array(found, dtype=np.float32))
    return kept


def _reading(
    ensemble: Ensemble, evidence: Evidence, history: SwitchHistory, taken: Taken
) -> ItemLikelihood | None:
    shelf, reading = ensemble.shelves.of(_Shelf), taken.reading
    key = _key(evidence, history, taken)
    kept = shelf.items.get(key)
    if kept is None:
        true = _true_density(ensemble, key, taken)
        if true is None:
            return None
        misread = float(misread_density(taken.point, reading.quantity, weighed_value(taken)))
        kept = shelf.items.keep(key, _weighed(reading, true, misread))
    return _of(kept, reading)


def _of(kept: ItemLikelihood, event: Reading | Seen) -> ItemLikelihood:
    """The same of an event that says the same."""
    if kept.event is event:
        return kept
    return ItemLikelihood(event, kept.log, kept.bad_day, kept.explained, kept.misread)


def _true_density(
    ensemble: Ensemble, key: ItemKey, taken: Taken, narrowed: Narrowed | None = None
) -> Floats | None:
    """The density of a reading that is no misreading: (variants, supplies), or (variants, 1)."""
    reading, point = taken.reading, taken.point
    if reading.quantity.dead_only:
        return _dead(ensemble, point, reading, narrowed)
    probe = ensemble.rows.probe(reading.quantity, reading.at)
    if probe is None or probe in ensemble.rows.table.slips:
        return None
    if reading.quantity is TEMP and not settled_air(taken):
        return None
    run = ensemble.run(key.switched, key.t_s)
    blows = _over_the_fuse(ensemble.rows.wiring.unit, point, reading)
    shown = run.before_it_blew(key.t_s) if blows else run.at(key.t_s)
    found = boxes(ensemble.rows, shown.rows, probe, narrowed=narrowed, fine=_fine(reading))
    if reading.quantity is TEMP:
        air = key.air
        scale = np.full_like(found.low, air.error_f / WORST_CASE_SCALES)
        # While limits come and go, the air tells of some heat or none.
        comes_and_goes = np.array([bool(limits) for limits in run.cycling(key.t_s)])
        low = np.where(comes_and_goes[:, None, None], 0.0, found.low) / air.density_share
        high = found.high / air.density_share
        found = Boxes(low + air.return_f, high + air.return_f, scale, found.ghost)
    return np.asarray((shown.weights[..., None] * found.density(weighed_value(taken))).sum(1))


def _over_the_fuse(unit: Unit, point: Point, reading: Reading) -> bool:
    """More amps on the 24 V side than its fuse lets flow for long."""
    fuse_amps = unit.control_power.fuse_amps
    control = reading.quantity is A and point.kind in CONTROL_SIDE and point.kind != "primary"
    return control and fuse_amps is not None and reading.value > fuse_amps


def weighed_value(taken: Taken) -> float:
    """A reading as it is weighed. Between points of the line side that nothing closed joins a real meter
    shows anything up to some volts: it is as good as zero. Across what may be closed it may be a joint."""
    return as_weighed(taken.point, taken.reading)


def as_weighed(point: Point, reading: Reading) -> float:
    """The same of a reading at its point."""
    as_zero = reading.quantity is V and point.kind in LINE_KINDS and reading.value <= th.OFF_WATCH_VOLTS
    return 0.0 if as_zero else reading.value


def _fine(reading: Reading) -> bool:
    """It was taken on a millivolt range: its value is given to two decimals or more."""
    return reading.value != round(reading.value, 1)


def _air(evidence: Evidence, reading: Reading) -> Air:
    if reading.quantity is not TEMP:
        return Air()
    found = evidence.latest("return-air", TEMP)
    probe_f = ACCURACY[TEMP].fixed
    share = air_factor(evidence.visit.settings.altitude_ft)
    if found is None:
        return Air(UNKNOWN_RETURN_F, UNKNOWN_RETURN_ERROR_F + probe_f, share)
    return Air(found.reading.value, 2 * probe_f, share)


def _dead(ensemble: Ensemble, point: Point, reading: Reading, narrowed: Narrowed | None) -> Floats:
    """Of a reading proved dead: (variants, 1); of a strip, were its power so much of its rating."""
    bands = dead_bands(ensemble, point, reading.quantity, reading.driven)
    low, high = bands.low, bands.high
    if narrowed is not None:
        low = low * th.PLATE_POWER_HIGH / narrowed.high
        high = high * th.PLATE_POWER_LOW / narrowed.low
    return dead_density(reading.quantity, reading.value, low, high)[:, None]


def shown_band(
    ensemble: Ensemble, history: SwitchHistory, variant: int, taken: Taken
) -> tuple[float, float] | None:
    """The readings that one variant shows where a reading was taken, least and most."""
    reading, point = taken.reading, taken.point
    if reading.quantity.dead_only:
        bands = dead_bands(ensemble, point, reading.quantity, reading.driven)
        low, high = float(bands.low[variant]), float(bands.high[variant])
        return None if np.isnan(low) else (low, high)
    probe = ensemble.rows.probe(reading.quantity, reading.at)
    if probe is None or reading.quantity is TEMP:
        return None
    t_s = history.time(reading.t_s + reading.lead_s)
    shown = ensemble.run(history.before(t_s), t_s).at(t_s)
    values = ensemble.rows.values[shown.rows[variant], probe]
    weights = shown.weights[variant]
    likeliest = values[weights >= min(LIKELY_PHASE, float(weights.max()))]
    return float(likeliest.min()), float(likeliest.max())


def _observation(ensemble: Ensemble, history: SwitchHistory, seen: Seen) -> ItemLikelihood:
    shelf = ensemble.shelves.of(_Shelf)
    t_s = history.time(seen.t_s + seen.lead_s)
    key = ItemKey(history.before(t_s), t_s, repr(replace(seen, t_s=0.0, key="")), type(seen).__name__)
    kept = shelf.items.get(key)
    if kept is None:
        run = ensemble.run(key.switched, t_s + 1)
        true = np.array([[share_of(run, ensemble, v, seen, t_s)] for v in range(len(run.phases))])
        kept = shelf.items.keep(key, _weighed(seen, true, misread_of(seen)))
    return _of(kept, seen)
