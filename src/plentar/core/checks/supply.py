"""The supply by its volts: range, sag under load, and unequal legs."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.events import ON
from plentar.core.evidence import Evidence, Taken
from plentar.core.judgement import Finding, FindingCode, Level
from plentar.core.numerals import show
from plentar.core.parts import HEAT_CALLS, Circuit
from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th
from plentar.core.tables.supply_ranges import bearable_volts, usual_volts


def supply_findings(evidence: Evidence) -> Iterator[Finding]:
    """Circuits out of range, sagging, or with unequal legs."""
    for circuit in evidence.unit.circuits:
        lugs = [
            t for t in evidence.at(circuit.id, Quantity.VOLTS) if t.state.power[circuit.id] == ON
        ]
        if lugs:
            yield from _range(circuit, lugs[-1].reading.value)
        yield from _sag(evidence, circuit, lugs)
        yield from _legs(evidence, circuit)


def _range(circuit: Circuit, volts: float) -> Iterator[Finding]:
    usual, bearable = usual_volts(circuit.rated_volts), bearable_volts(circuit.rated_volts)
    if volts in usual:
        return
    level = Level.WATCH if volts in bearable else Level.REPAIR
    text = (
        f"{circuit.id} shows {volts:g} V at the lugs;"
        f" {show(usual.low)} … {show(usual.high, 'V')} is usual"
    )
    numbers = {"measured_volts": volts, "low_volts": usual.low, "high_volts": usual.high}
    yield Finding(FindingCode.SUPPLY_OUT_OF_RANGE, level, circuit.id, text, numbers)


def _sag(evidence: Evidence, circuit: Circuit, lugs: list[Taken]) -> Iterator[Finding]:
    """Heat off to heat on; needs a reading of each, else nothing is claimed."""
    idle = [t for t in lugs if not t.state.calls & HEAT_CALLS]
    loaded = [t for t in lugs if t.state.calls & HEAT_CALLS]
    drawing = any(
        t.reading.value > th.DEAD_AMPS.value
        for element in evidence.unit.elements_on(circuit.id)
        for t in evidence.at(element.id, Quantity.AMPS)
    )
    if not idle or not loaded or not drawing:
        return
    before, after = idle[-1].reading.value, min(t.reading.value for t in loaded)
    if before <= 0 or after < 0.5 * before:  # a lost supply is not a sag
        return
    share = (before - after) / before
    if share <= th.SAG_WATCH.value:
        return
    level = Level.REPAIR if share > th.SAG_REPAIR.value else Level.WATCH
    text = (
        f"{circuit.id} falls from {before:g} V to {after:g} V with heat on:"
        f" {show(100 * share)} %, where 3 % is a lot; look at lugs, breaker and wire"
    )
    numbers = {"idle_volts": before, "loaded_volts": after, "sag_percent": 100 * share}
    yield Finding(FindingCode.SUPPLY_SAG, level, circuit.id, text, numbers)


def _legs(evidence: Evidence, circuit: Circuit) -> Iterator[Finding]:
    legs = [evidence.latest(f"{circuit.id}.{leg}:ground", Quantity.VOLTS) for leg in ("l1", "l2")]
    one, two = legs
    if one is None or two is None:
        return
    a, b = one.reading.value, two.reading.value
    mean = (a + b) / 2
    if mean <= 0 or abs(a - b) / mean <= th.LEG_UNBALANCE.value:
        return
    text = (
        f"{circuit.id} legs to ground differ: {a:g} V and {b:g} V;"
        " look upstream for an open or loose neutral or leg"
    )
    numbers = {"l1_volts": a, "l2_volts": b}
    yield Finding(FindingCode.LEG_UNBALANCE, Level.WATCH, circuit.id, text, numbers)
