"""Each supply circuit, and the feeder ahead of them, by plate and wire: load, breaker, conductor."""

from __future__ import annotations

import math
from collections.abc import Iterator

from plentar.core.checks.registry import Result, check, plate_check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.said import NOTHING, Said, figure, plain, rounded, say
from plentar.core.supply.conductors import (
    allowed_amps,
    dropped_volts,
    largest_breaker_amps,
    next_size_amps,
    terminal_amps,
)
from plentar.core.supply.loads import Supplied, load_of, supplied
from plentar.core.supply.meanwhile import meanwhile
from plentar.core.tables import thresholds as th
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import STAGE_ON, Did, Visit
from plentar.core.visit.evidence import Evidence

LOCAL = say("checks.circuit.local-code-plate-decide")


@plate_check(say("checks.circuit.elements-one-circuit"), FindingCode.ELEMENTS_OVER_48)
def elements_over_48(unit: Unit) -> Iterator[Result]:
    """Above 48 A of elements a kit is split over circuits."""
    most = th.MOST_ELEMENT_AMPS
    for circuit in unit.circuits:
        load = load_of(unit, circuit)
        if load.elements <= most or circuit.subdivided:
            yield Clear(circuit.id)
            continue
        text = say(
            "checks.circuit.carries-elements-above-48",
            circuit=said_of(unit, circuit.id),
            elements=figure(load.elements, "A"),
        )
        numbers = {"element_amps": load.elements, "most_amps": most}
        level = Level.WATCH if circuit.subdivided is None else Level.REPAIR
        if level is Level.WATCH:
            text += say("checks.circuit.look-whether-this-kit")
        yield Finding(FindingCode.ELEMENTS_OVER_48, level, circuit.id, text, numbers)


@plate_check(say("checks.circuit.breaker-plate"), FindingCode.BREAKER_OVER_PLATE)
def breaker_over_plate(unit: Unit) -> Iterator[Result]:
    """Not larger than the plate allows."""
    for circuit in unit.circuits:
        breaker = circuit.breaker_amps
        most = circuit.plate.max_breaker_amps if circuit.plate else None
        if breaker is None or most is None:
            missing = (
                say("checks.circuit.breaker-size-not-given")
                if breaker is None
                else say("checks.circuit.plate-gives-no-maximum")
            )
            yield NotJudged(say("checks.circuit.breaker-plate"), circuit.id, missing)
        elif breaker > most:
            text = say(
                "checks.circuit.breaker-plate-allows",
                circuit=said_of(unit, circuit.id),
                breaker=plain(breaker),
                most=plain(most),
                local=LOCAL,
            )
            numbers = {"breaker_amps": breaker, "allowed_amps": most}
            yield Finding(FindingCode.BREAKER_OVER_PLATE, Level.STOP_NOW, circuit.id, text, numbers)
        else:
            yield Clear(circuit.id)


@plate_check(say("checks.circuit.breaker-wire"), FindingCode.BREAKER_OVER_CONDUCTOR)
def breaker_over_conductor(unit: Unit) -> Iterator[Result]:
    """Not larger than what may protect its conductor, and in both legs of it."""
    for one in supplied(unit):
        breaker = one.breaker_amps
        largest = largest_breaker_amps(one.conductor, breaker) if one.conductor else None
        if one.breaker_legs == 1:
            text = say("checks.circuit.breaker-opens-protects-one", one=said_of(unit, one.id), local=LOCAL)
            numbers = {"breaker_legs": 1.0}
            yield Finding(FindingCode.BREAKER_OVER_CONDUCTOR, Level.STOP_NOW, one.id, text, numbers)
        elif breaker is None or largest is None:
            yield NotJudged(say("checks.circuit.breaker-wire"), one.id, _missing(one))
        elif breaker > largest:
            text = say(
                "checks.circuit.breaker-over-conductor-may",
                one=said_of(unit, one.id),
                breaker=plain(breaker),
                largest=plain(largest),
                local=LOCAL,
            )
            numbers = {"breaker_amps": breaker, "allowed_amps": largest}
            yield Finding(FindingCode.BREAKER_OVER_CONDUCTOR, Level.STOP_NOW, one.id, text, numbers)
        else:
            yield Clear(one.id)


@plate_check(say("checks.circuit.breaker-load"), FindingCode.BREAKER_UNDER_LOAD, FindingCode.OVER_80_PERCENT)
def breaker_under_load(unit: Unit) -> Iterator[Result]:
    """Not smaller than the minimum; and, by the rule of thumb, loaded to 80 % at most."""
    for one in supplied(unit):
        load, breaker = one.load, one.breaker_amps
        if breaker is None:
            yield NotJudged(
                say("checks.circuit.breaker-load"), one.id, say("checks.circuit.breaker-size-not-given")
            )
            continue
        if breaker < load.minimum and (next_size_amps(load.minimum) or math.inf) > breaker:
            text = say(
                "checks.circuit.breaker-minimum",
                one=said_of(unit, one.id),
                breaker=plain(breaker),
                minimum=figure(load.minimum, "A"),
            )
            text += _until_then(unit, one)
            numbers = {"breaker_amps": breaker, "minimum_amps": load.minimum}
            yield Finding(FindingCode.BREAKER_UNDER_LOAD, Level.REPAIR, one.id, text, numbers)
        else:
            yield Clear(one.id)
        share = load.total / breaker
        if share > th.BREAKER_SHARE:
            text = say(
                "checks.circuit.breaker-80-rule-thumb",
                one=said_of(unit, one.id),
                total=figure(load.total, "A"),
                share=rounded(100 * share, 0),
                breaker=plain(breaker),
            )
            numbers = {"load_amps": load.total, "breaker_amps": breaker, "share": share}
            yield Finding(FindingCode.OVER_80_PERCENT, Level.WATCH, one.id, text, numbers)


@check(say("checks.circuit.wire-load"), FindingCode.CONDUCTOR_UNDER_LOAD)
def conductor_under_load(evidence: Evidence) -> Iterator[Result]:
    """A conductor that carries its load, and the minimum. A stage left off is no load; connected
    again, it is the load of a conductor that nothing said then has answered for."""
    left_off = evidence.state_at(math.inf).stages_off
    for one in supplied(evidence.unit, left_off):
        wire, load = one.conductor, one.load
        allowed = allowed_amps(wire, one.breaker_amps) if wire else None
        if wire is None or allowed is None:
            yield NotJudged(say("checks.circuit.wire-load"), one.id, _missing(one))
            continue
        ends = terminal_amps(wire, one.breaker_amps)
        if allowed >= load.total and ends >= load.minimum:
            yield Clear(one.id)
            continue
        level = Level.STOP_NOW if load.total > allowed else Level.REPAIR
        text = say(
            "checks.circuit.awg-may-carry-laid",
            one=said_of(evidence.unit, one.id),
            awg=wire.awg,
            material=say(f"material.{wire.material}"),
            allowed=figure(allowed, "A"),
            ends=figure(ends, "A"),
            total=figure(load.total, "A"),
            minimum=figure(load.minimum, "A"),
            until_then=_until_then(evidence.unit, one),
            local=LOCAL,
        )
        numbers = {"allowed_amps": allowed, "load_amps": load.total, "minimum_amps": load.minimum}
        yield Finding(
            FindingCode.CONDUCTOR_UNDER_LOAD, level, one.id, text, numbers, t_s=_connected_s(evidence, one)
        )


def _until_then(unit: Unit, one: Supplied) -> Said:
    """Which stage to leave off until it is put right, and what is drawn then."""
    less = meanwhile(unit, one.circuits)
    return say("checks.circuit.until-then", less=less.words) if less else NOTHING


@plate_check(say("checks.circuit.volts-dropped-wire"), FindingCode.VOLTAGE_DROP)
def voltage_drop(unit: Unit) -> Iterator[Result]:
    for one in supplied(unit):
        wire = one.conductor
        if wire is None or wire.length_ft <= 0:
            missing = (
                say("checks.circuit.length-not-given") if wire else say("checks.circuit.wire-size-not-given")
            )
            yield NotJudged(say("checks.circuit.volts-dropped-wire"), one.id, missing)
            continue
        drop = dropped_volts(wire, one.load.total)
        if drop <= th.VOLTAGE_DROP * one.rated_volts:
            yield Clear(one.id)
            continue
        text = say(
            "checks.circuit.ft-wire-drop-over",
            one=said_of(unit, one.id),
            length_ft=plain(wire.length_ft, "ft"),
            drop=figure(drop, "V"),
            drop_2=rounded(100 * drop / one.rated_volts, 1),
        )
        numbers = {"drop_volts": drop, "share": drop / one.rated_volts}
        yield Finding(FindingCode.VOLTAGE_DROP, Level.WATCH, one.id, text, numbers)


def _connected_s(evidence: Evidence, one: Supplied) -> float:
    """When a stage of a circuit was connected again last; 0 where none was left off."""
    own = {e.id for c in one.circuits for e in evidence.unit.elements_on(c)}
    again = (e for e in evidence.visit.of_kind(Did) if e.verb == STAGE_ON and e.part in own)
    return max((event.t_s for event in again), default=0.0)


OF_PLATES = (elements_over_48, breaker_over_plate, breaker_over_conductor, breaker_under_load, voltage_drop)


def circuit_findings(unit: Unit) -> tuple[Finding, ...]:
    results = [result for rule in OF_PLATES for result in rule(unit)]
    results += conductor_under_load(Evidence(unit, Visit()))
    return tuple(result for result in results if isinstance(result, Finding))


def _missing(one: Supplied) -> Said:
    if one.conductor is None:
        return say("checks.circuit.wire-size-not-given")
    if allowed_amps(one.conductor, one.breaker_amps) is None:
        return say("checks.circuit.tables-do-not-reach")
    return say("checks.circuit.breaker-size-not-given")
