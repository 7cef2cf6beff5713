"""The supply by its volts: range, sag under load, and unequal legs."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import figure, plain, say, span
from plentar.core.tables import thresholds as th
from plentar.core.tables.supply_ranges import bearable_volts, usual_volts
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import HEAT_CALLS, Circuit
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence, Taken

LEGS = say("checks.supply.balance-legs")


@check(say("checks.supply.supply-volts"), FindingCode.SUPPLY_OUT_OF_RANGE)
def supply_out_of_range(evidence: Evidence) -> Iterator[Result]:
    """The newest volts at the lugs of each circuit that is on."""
    for circuit in evidence.unit.circuits:
        lugs = _lugs(evidence, circuit)
        if not lugs:
            yield NotJudged(
                say("checks.supply.supply-volts"), circuit.id, say("checks.supply.service-volts-lugs-not")
            )
            continue
        volts = lugs[-1].reading.value
        usual, bearable = usual_volts(circuit.rated_volts), bearable_volts(circuit.rated_volts)
        if volts in usual:
            yield Clear(circuit.id)
            continue
        level = Level.WATCH if volts in bearable else Level.REPAIR
        text = say(
            "checks.supply.has-service-volts-v",
            circuit=said_of(evidence.unit, circuit.id),
            volts=plain(volts),
            range=span(usual.low, usual.high, "V"),
        )
        numbers = {"measured_volts": volts, "low_volts": usual.low, "high_volts": usual.high}
        yield Finding(FindingCode.SUPPLY_OUT_OF_RANGE, level, circuit.id, text, numbers)


def _lugs(evidence: Evidence, circuit: Circuit) -> list[Taken]:
    """Volts at the lugs with the breaker on, oldest first."""
    return [t for t in evidence.at(circuit.id, Quantity.VOLTS) if t.state.power[circuit.id] == ON]


@check(say("checks.supply.sag-supply"), FindingCode.SUPPLY_SAG)
def supply_sag(evidence: Evidence) -> Iterator[Result]:
    """Heat off to heat on; needs a reading of each, and current."""
    for circuit in evidence.unit.circuits:
        yield _sag(evidence, circuit)


def _sag(evidence: Evidence, circuit: Circuit) -> Result:
    lugs = _lugs(evidence, circuit)
    idle = [t for t in lugs if not t.state.calls & HEAT_CALLS]
    loaded = [t for t in lugs if t.state.calls & HEAT_CALLS]
    drawing = any(
        t.reading.value > th.DEAD_AMPS
        for element in evidence.unit.elements_on(circuit.id)
        for t in evidence.at(element.id, Quantity.AMPS)
    )
    if not idle or not loaded or not drawing:
        missing = say("checks.supply.service-volts-lugs-not-2")
        return NotJudged(say("checks.supply.sag-supply"), circuit.id, missing)
    before, after = idle[-1].reading.value, min(t.reading.value for t in loaded)
    if before <= 0 or after < 0.5 * before:
        return NotJudged(
            say("checks.supply.sag-supply"), circuit.id, say("checks.supply.lost-supply-not-sag")
        )
    share = (before - after) / before
    if share <= th.SAG_WATCH:
        return Clear(circuit.id)
    level = Level.REPAIR if share > th.SAG_REPAIR else Level.WATCH
    text = say(
        "checks.supply.falls-from-v-v",
        circuit=said_of(evidence.unit, circuit.id),
        before=plain(before),
        after=plain(after),
        share=figure(100 * share),
    )
    numbers = {"idle_volts": before, "loaded_volts": after, "sag_percent": 100 * share}
    return Finding(FindingCode.SUPPLY_SAG, level, circuit.id, text, numbers)


@check(LEGS, FindingCode.LEG_UNBALANCE)
def leg_unbalance(evidence: Evidence) -> Iterator[Result]:
    for circuit in evidence.unit.circuits:
        yield _legs(evidence, circuit)


def _legs(evidence: Evidence, circuit: Circuit) -> Result:
    legs = [evidence.latest(f"{circuit.id}.{leg}:ground", Quantity.VOLTS) for leg in ("l1", "l2")]
    one, two = legs
    if one is None or two is None or one.state.power[circuit.id] != ON or two.state.power[circuit.id] != ON:
        return NotJudged(LEGS, circuit.id, say("checks.supply.legs-ground-not-read"))
    a, b = one.reading.value, two.reading.value
    mean = (a + b) / 2
    numbers = {"l1_volts": a, "l2_volts": b}
    t_s = max(one.reading.t_s, two.reading.t_s)
    if _neutral_lost(evidence, circuit, a, b):
        text = say(
            "checks.supply.legs-ground-stand-v",
            circuit=said_of(evidence.unit, circuit.id),
            a=plain(a),
            b=plain(b),
        )
        return Finding(FindingCode.LEG_UNBALANCE, Level.STOP_NOW, circuit.id, text, numbers, t_s=t_s)
    if mean <= 0 or abs(a - b) / mean <= th.LEG_UNBALANCE:
        return Clear(circuit.id)
    text = say(
        "checks.supply.legs-ground-differ-v",
        circuit=said_of(evidence.unit, circuit.id),
        a=plain(a),
        b=plain(b),
    )
    return Finding(FindingCode.LEG_UNBALANCE, Level.WATCH, circuit.id, text, numbers, t_s=t_s)


def _neutral_lost(evidence: Evidence, circuit: Circuit, a: float, b: float) -> bool:
    """Both legs are there between them, and the frame lies off their middle. Where they do not add up to
    the service an open pole is thought of first."""
    lugs = _lugs(evidence, circuit)
    service = lugs[-1].reading.value if lugs else circuit.rated_volts
    if circuit.rated_volts < th.WYE_BELOW_VOLTS:
        low, high = th.WYE_LEG_LOW_VOLTS, th.WYE_LEG_HIGH_VOLTS
        outside = not (low <= a <= high and low <= b <= high)
        return (
            outside and service in bearable_volts(circuit.rated_volts) and min(a, b) > th.OFF_LIVE_VOLTS / 2
        )
    adds_up = abs(a + b - service) <= th.LEGS_ADD_UP * service
    return adds_up and abs(a - b) >= th.LEGS_APART_VOLTS
