"""What a stop is about: the circuits that feed it, the calls that load it, whether it is so now."""

from __future__ import annotations

import re

from plentar.core.judgement import Finding, FindingCode
from plentar.core.safety.table import STOPS, Bar
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.unit import FEEDER, Unit
from plentar.core.visit.events import ON
from plentar.core.visit.state import PanelState, first_call


def circuits_of(unit: Unit, component: str) -> set[str]:
    """The circuits that feed a component; every one where it is not known which."""
    if component in unit.circuit_by_id:
        return {component}
    if component == FEEDER and unit.feeder is not None:
        return set(unit.feeder.circuits)
    through = {element.circuit for element in unit.elements_through(component)}
    return through or {circuit.id for circuit in unit.circuits}


def live_under_hands(unit: Unit, state: PanelState, part: str) -> frozenset[str]:
    """The circuits by which a part may be live while a hand is at it, as recorded: its own, every one where
    it is not known which. A breaker's line side stays live whatever is off here."""
    if part == "airflow":  # a filter, a coil's face
        return frozenset()
    owner = re.sub(r"\.(wire|line|l1|l2)$", "", part)
    if part.endswith(".line"):
        return frozenset({part})
    return frozenset(c for c in circuits_of(unit, owner) if state.power[c] == ON)


def loads_of(unit: Unit, stop: Finding) -> set[str]:
    """The calls that load what the stop is about, above what it may carry where that is known."""
    allowed, part = stop.numbers.get("allowed_amps"), stop.component
    of_plate = not STOPS[stop.code].latched
    if of_plate and allowed is not None and stop.code is FindingCode.CONDUCTOR_UNDER_LOAD:
        load = sum(
            e.rating.amps(e.rated_volts)
            for circuit in circuits_of(unit, part)
            for e in unit.elements_on(circuit)
        )
        if load <= allowed:
            return set()
    whole = part in unit.circuit_by_id or not list(unit.elements_through(part))
    fed = [
        e
        for cid in circuits_of(unit, part)
        for e in unit.elements_on(cid)
        if whole or part == e.id or part in e.rung
    ]
    controls = [unit.control_of_switch[s.id] for element in fed for s in unit.rung_switches(element)]
    return {first_call(unit, control) for control in controls} - {""}


def at_risk(unit: Unit, stop: Finding, raised_in: PanelState, state: PanelState) -> bool:
    """What the stop bars is so in a state: its breaker closed, heat called with strips live, the call that
    overloads there."""
    bars = STOPS[stop.code].bars
    live = {cid for cid, power in state.power.items() if power == ON}
    heats = bool(state.calls & HEAT_CALLS)
    if Bar.HEAT in bars:
        return heats and any(e.circuit in live for e in unit.elements)
    if Bar.BREAKER in bars:
        return bool(circuits_of(unit, stop.component) & live)
    if Bar.OTHER_CALLS in bars:
        return bool(state.calls & raised_in.calls) and unit.control_power.circuit in live
    return bool(live)
