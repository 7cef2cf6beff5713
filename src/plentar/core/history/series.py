"""What one visit adds to a unit's history, and the series that its visits make together."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import accumulate

from plentar.core.air.rise import measured_rise
from plentar.core.checks.joints import feed_amps, pole_of
from plentar.core.circuit.shown_by_meter import accuracy_of
from plentar.core.expected.rules import expected_of
from plentar.core.history.drift import Seen, Shape, Trend, trend_of
from plentar.core.quantity import DEGREES, Band, Quantity
from plentar.core.said import Said, say
from plentar.core.tables import thresholds as th
from plentar.core.timing.moves import moves_of
from plentar.core.unit.parts import HEAT_CALLS, Element
from plentar.core.unit.unit import Unit
from plentar.core.visit.evidence import Evidence, Taken

A, V, OHM, UF = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.UF
DAYS_A_YEAR = 365.2425


@dataclass(frozen=True, slots=True)
class Kind:
    """What a series is of: its words, its sign, and whether it is looked at in powers of ten."""

    title: Said
    sign: str
    log: bool = False


KINDS: Mapping[str, Kind] = {
    "amps": Kind(say("history.series.amps-rated-volts"), "A"),
    "ohms": Kind(say("history.series.ohms-cold"), "Ω"),
    "ground": Kind(say("history.series.ohms-cabinet"), "Ω", log=True),
    "on": Kind(say("history.series.time"), "s"),
    "off": Kind(say("history.series.time-off"), "s"),
    "sag": Kind(say("history.series.volts-lost-under-heat"), "V"),
    "joint": Kind(say("history.series.heat-contacts"), "W"),
    "rise": Kind(say("history.series.rise-air"), DEGREES),
    "cfm": Kind(say("history.series.air-moved"), "CFM"),
    "coil": Kind(say("history.series.ohms-coil"), "Ω"),
    "uf": Kind(say("history.series.capacitor"), "µF"),
    "control": Kind(say("history.series.amps-wire-r"), "A"),
}


@dataclass(frozen=True, slots=True)
class Added:
    """A value that a visit adds to a series, with its meter's accuracy there and what was due then;
    of a series in powers of ten the logarithm."""

    kind: str
    part: str
    value: float
    accuracy: float
    due: Band


@dataclass(frozen=True, slots=True)
class VisitOf:
    """A visit for the history: its day, what it is known by, the values that it added and what was
    mended on it."""

    day: date
    key: str
    added: tuple[Added, ...]
    mended: frozenset[str]


@dataclass(frozen=True, slots=True)
class Placed:
    day: date
    key: str
    added: Added


@dataclass(frozen=True, slots=True)
class History:
    """One quantity of one part over the visits, the oldest first. ``repairs`` are the days on which the
    part was mended; the trend is that of the values since the last."""

    kind: str
    part: str
    values: tuple[Placed, ...]
    repairs: tuple[date, ...]
    trend: Trend

    @property
    def said(self) -> Kind:
        return KINDS[self.kind]

    @property
    def drifts(self) -> bool:
        return self.trend.shape in (Shape.DRIFT, Shape.JUMP)


def visit_of(day: date, key: str, evidence: Evidence) -> VisitOf:
    mended = frozenset(event.mended for event in evidence.visit.events if event.mended)
    return VisitOf(day, key, tuple(added_by(evidence)), mended)


def histories(unit: Unit, visits: Sequence[VisitOf]) -> tuple[History, ...]:
    """The series of a unit, those that drift first. Visits come oldest first."""
    placed: dict[tuple[str, str], list[Placed]] = {}
    for visit in visits:
        for added in visit.added:
            placed.setdefault((added.kind, added.part), []).append(Placed(visit.day, visit.key, added))
    found = [_history(unit, *which, values, visits) for which, values in placed.items()]
    order = list(KINDS)
    return tuple(sorted(found, key=lambda h: (not h.drifts, order.index(h.kind), h.part)))


def _history(
    unit: Unit, kind: str, part: str, values: Sequence[Placed], visits: Sequence[VisitOf]
) -> History:
    own = _mended_with(unit, kind, part)
    repairs = tuple(visit.day for visit in visits if own & visit.mended)
    since = max(repairs, default=date.min)
    new = [v for v in values if v.day >= since]
    due = new[-1].added.due if new else Band(-math.inf, math.inf)
    series = [Seen(in_years(v.day), v.added.value, v.added.accuracy) for v in new]
    return History(kind, part, tuple(values), repairs, trend_of(series, due.low, due.high))


def in_years(day: date) -> float:
    """A day as years, for a series: the first of 2026 is 2026.0."""
    return day.toordinal() / DAYS_A_YEAR + 1


def _mended_with(unit: Unit, kind: str, part: str) -> set[str]:
    """What begins the series anew when it is mended: the part, its device, or the feed of what sags."""
    own = {part}
    if control := unit.control_of_switch.get(part):
        own.add(control.id)
    if kind in ("rise", "cfm"):
        own |= {"airflow", "blower", "capacitor", *(e.id for e in unit.elements)}
    if kind == "sag":
        own |= {f"{part}.line", f"{part}.l1", f"{part}.l2"}
    if kind == "joint":
        own |= {up for node in part.split(":") for up in accumulate(node.split("."), "{}.{}".format)}
    if kind == "uf":
        own |= {"blower"}
    return own


def added_by(evidence: Evidence) -> Iterator[Added]:
    """What a visit adds: the newest reading of each that counts, in the state that tells."""
    unit = evidence.unit
    for element in unit.elements:
        yield from _amps(evidence, element)
        yield from _plain(evidence, "ohms", element.id, element.id, OHM)
        yield from _ground(evidence, element.id)
    for device in unit.device_by_id:
        yield from _plain(evidence, "coil", device, f"{device}.coil", OHM)
    yield from _plain(evidence, "uf", "capacitor", "capacitor", UF)
    yield from _times(evidence)
    for circuit in unit.circuits:
        yield from _sag(evidence, circuit.id)
    for switch in unit.switch_by_id:
        yield from _joint(evidence, switch)
    yield from _pole(evidence)
    yield from _air(evidence)
    yield from _control(evidence)


def _plain(evidence: Evidence, kind: str, part: str, at: str, quantity: Quantity) -> Iterator[Added]:
    taken = evidence.latest(at, quantity)
    if taken is not None and math.isfinite(taken.reading.value):
        yield _as_read(evidence, kind, part, taken)


def _as_read(evidence: Evidence, kind: str, part: str, taken: Taken) -> Added:
    value = taken.reading.value
    accuracy = accuracy_of(taken.point, taken.reading.quantity).error(value)
    return Added(kind, part, value, accuracy, _due(evidence, taken))


def _due(evidence: Evidence, taken: Taken) -> Band:
    good = expected_of(evidence, taken).good
    if not good:
        return Band(-math.inf, math.inf)
    return Band(min(r.band.low for r in good), max(r.band.high for r in good))


def _heated(taken: Taken) -> bool:
    return bool(taken.state.calls & HEAT_CALLS)


def _amps(evidence: Evidence, element: Element) -> Iterator[Added]:
    """Corrected to rated volts, by the volts of the visit; without those it says too little. A strip
    that did not draw at all says nothing of its wire."""
    circuit = evidence.unit.circuit_by_id[element.circuit]
    read = [t for t in evidence.at(element.id, A) if _heated(t)]
    if not read:
        return
    supply = evidence.supply(circuit, read[-1].reading.t_s)
    amps = read[-1].reading.value
    nominal = element.rating.amps(element.rated_volts)
    if supply.source is None or amps < th.LOST_VOLTS_SHARE * nominal:
        return
    times = element.rated_volts / supply.nominal
    off = accuracy_of(read[-1].point, A).error(amps) / amps
    off += accuracy_of(supply.source.point, V).error(supply.nominal) / supply.nominal
    volts = element.rated_volts
    due = element.rating.expected_amps(Band(volts, volts), evidence.visit.settings.band)
    yield Added("amps", element.id, amps * times, amps * times * off, due)


def _ground(evidence: Evidence, element: str) -> Iterator[Added]:
    taken = evidence.latest(f"{element}.in:ground", OHM)
    if taken is None or not 0 < taken.reading.value < math.inf:
        return
    value = taken.reading.value
    error = accuracy_of(taken.point, OHM).error(value) / value
    due = _due(evidence, taken)
    low = math.log10(due.low) if due.low > 0 else -math.inf
    yield Added("ground", element, math.log10(value), math.log10(1 + error), Band(low, math.inf))


def _times(evidence: Evidence) -> Iterator[Added]:
    """The first good time of each switch each way; a watch is as good as its thumb."""
    known: set[tuple[str, str]] = set()
    for move in moves_of(evidence.unit, evidence.visit):
        key = (move.action, move.part)
        if move.took_s is None or move.provisional or key in known or move.longest_s == 0:
            continue
        known.add(key)
        least_s = move.due_s.low - move.clock_s.low
        yield Added(*key, move.took_s, th.WATCH_ERROR_S, Band(least_s, move.longest_s))


def _sag(evidence: Evidence, circuit: str) -> Iterator[Added]:
    """What the lugs lose from nothing called to heat."""
    read = evidence.at(circuit, V)
    idle = [t for t in read if not t.state.calls]
    heat = [t for t in read if _heated(t)]
    if idle and heat:
        without, under = idle[-1].reading.value, heat[-1].reading.value
        lost = without - under
        meter = accuracy_of(heat[-1].point, V)
        error = meter.error(without) + meter.error(under)
        most = th.SAG_REPAIR * evidence.unit.circuit_by_id[circuit].rated_volts
        yield Added("sag", circuit, lost, error, Band(-math.inf, most))


def _joint(evidence: Evidence, switch: str) -> Iterator[Added]:
    """Volts across a contact that carries its element, times the amps."""
    unit = evidence.unit
    across = [t for t in evidence.at(switch, V) if _heated(t)]
    element = next(iter(unit.elements_through(switch)), None)
    if not across or element is None:
        return
    amps = [t for t in evidence.at(element.id, A) if _heated(t)]
    if not amps or amps[-1].reading.value < 1.0:
        return
    volts, drawn = across[-1].reading.value, amps[-1].reading.value
    if volts > th.LOST_VOLTS_SHARE * element.rated_volts:
        return
    error = _low_error(across[-1]) * drawn
    yield Added("joint", switch, volts * drawn, error, Band(-math.inf, th.JOINT_GOOD_WATTS))


def _low_error(taken: Taken) -> float:
    """What a meter is off by across something closed: on its range for small volts, where it has one."""
    volts = taken.reading.value
    on_range = volts <= th.LOW_RANGE_TO
    return th.LOW_RANGE_ERROR if on_range else accuracy_of(taken.point, V).error(volts)


def _pole(evidence: Evidence) -> Iterator[Added]:
    """Volts across a breaker's pole and its lug under heat, times the amps of the feed."""
    newest = {t.point.name: t for t in evidence.taken if t.counts and _heated(t) and t.reading.quantity is V}
    for taken in newest.values():
        circuit = pole_of(evidence, taken)
        if circuit is None:
            continue
        fed, volts = feed_amps(evidence, circuit, taken), taken.reading.value
        if not fed or not fed.amps or volts > th.LOST_VOLTS_SHARE * circuit.rated_volts:
            continue
        amps = fed.amps
        error = _low_error(taken) * amps
        most = th.JOINT_GOOD_WATTS
        yield Added("joint", taken.point.name, volts * amps, error, Band(-math.inf, most))


def _air(evidence: Evidence) -> Iterator[Added]:
    rise = measured_rise(evidence)
    if isinstance(rise, Said):
        return
    error = th.TEMP_PAIR_F
    yield Added("rise", "supply-air", rise.rise_f, error, Band(-math.inf, math.inf))
    low = evidence.unit.blower.min_cfm if evidence.unit.blower else None
    yield Added(
        "cfm", "supply-air", rise.cfm, rise.cfm * error / rise.rise_f, Band(low or -math.inf, math.inf)
    )


def _control(evidence: Evidence) -> Iterator[Added]:
    """With every call for heat: what all of them draw."""
    heat = evidence.unit.heat_calls
    read = [t for t in evidence.at("R", A) if heat and heat <= t.state.calls]
    if read:
        yield _as_read(evidence, "control", "R", read[-1])
