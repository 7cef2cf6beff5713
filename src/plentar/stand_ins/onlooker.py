"""Somebody who sees into a simulated unit and says when a step does harm.

Written from the gate on proposals alone, and from what flows in the unit as it truly is: nothing here
knows how proposals are found or held back.
"""

from __future__ import annotations

from collections.abc import Sequence

from plentar.core.circuit.faults import Fault
from plentar.core.circuit.model import model_at
from plentar.core.circuit.predict import Prediction
from plentar.core.quantity import Quantity
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import ON, Calls, Event
from plentar.core.visit.state import changes, state_at

A = Quantity.AMPS
EVERY_S = 2.0
HEAT_AMPS, ALONE_S, MOTOR_SPARE_AMPS, REST_S = 2.0, 10.0, 3.0, 300.0


def harm_in(unit: Unit, faults: Sequence[Fault], events: Sequence[Event], from_s: float, to_s: float) -> str:
    """What harm was done between two times of a visit, in words; empty if none.

    What stood before ``from_s`` is nobody's step: heat that ran alone already is not counted, nor
    current that flowed through the relay.
    """
    twice = _starts_twice(unit, events, from_s)
    if twice:
        return twice
    before = model_at(unit, events, max(0.0, from_s - 0.5), faults)
    stood_alone, stood_blown = _heats(unit, before) and not _turns(unit, before), _blown(before)
    stood_relay = _through_relay(unit, before)
    alone_s, t_s = 0.0, from_s
    while t_s <= to_s:
        now = model_at(unit, events, t_s, faults)
        if _blown(now) and not stood_blown:
            return f"the control fuse blew at {t_s:.0f} s"
        if _shorted(unit, now) and not _shorted(unit, before):
            return f"a short on a transformer without a fuse at {t_s:.0f} s"
        if _through_relay(unit, now) and not stood_relay:
            return f"element current through the blower relay at {t_s:.0f} s"
        if _heats(unit, now) and not _turns(unit, now) and not stood_alone:
            alone_s += EVERY_S
            if alone_s > ALONE_S + EVERY_S:
                return f"heat without the blower at {t_s:.0f} s"
        else:
            alone_s = 0.0
        t_s += EVERY_S
    closes = state_at(unit, events, to_s).live and not state_at(unit, events, from_s - 0.5).live
    if closes and any(fault.mode == "grounded" for fault in faults):
        return "a frame was energised"
    return ""


def _shorted(unit: Unit, now: Prediction) -> bool:
    """Nothing protects the transformer, and it carries three times what it is made for."""
    power = unit.control_power
    return power.fuse_amps is None and _amps(now, "transformer") * power.volts > 3 * power.va


def _amps(now: Prediction, at: str) -> float:
    read = now.read(A, at)
    return 0.0 if read is None else float(read.value)


def _heats(unit: Unit, now: Prediction) -> bool:
    return any(_amps(now, element.id) > HEAT_AMPS for element in unit.elements)


def _turns(unit: Unit, now: Prediction) -> bool:
    return unit.blower is None or now.moment.blower_runs


def _blown(now: Prediction) -> bool:
    return bool(now.moment.fuse_blown)


def _through_relay(unit: Unit, now: Prediction) -> bool:
    if unit.relay is None:
        return False
    motor = _amps(now, "blower")
    return any(
        _amps(now, f"{unit.relay.id}.{contact}") > motor + MOTOR_SPARE_AMPS for contact in ("no", "nc")
    )


def _starts_twice(unit: Unit, events: Sequence[Event], from_s: float) -> str:
    ended_s = None
    asked = False
    for state in changes(unit, [e for e in events if isinstance(e, Calls) or e.is_switch]):
        cools = "Y" in state.calls and state.power[unit.control_power.circuit] == ON
        starts = cools and not asked and state.t_s >= from_s
        if starts and ended_s is not None and state.t_s - ended_s < REST_S:
            return f"the compressor started twice by {state.t_s:.0f} s"
        if asked and not cools:
            ended_s = state.t_s
        asked = cools
    return ""
