"""What is due on the 24 V side and at its coils."""

from __future__ import annotations

import math
from dataclasses import replace

from plentar.core.expected import Asked, Due, Range, Word
from plentar.core.expected.by_model import due_by_model
from plentar.core.expected.ends import above, below
from plentar.core.quantity import Band, Quantity, show
from plentar.core.tables import thresholds as th
from plentar.core.tables.devices import OPEN_MULTIPLE, SHORTED_SHARE
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.visit.evidence import Evidence

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS


def coil_ohms(evidence: Evidence, asked: Asked) -> Due:
    """A coil beside its printed or typical ohms: shorted under half, open over ten times."""
    point = asked.point
    unit = evidence.unit
    device = unit.device_by_id[point.component]
    ohms, printed = device.coil_ohms, device.coil.ohms is not None
    band = ACCURACY[OHM].widen(ohms)
    shorted = below(SHORTED_SHARE * ohms.low)
    gone = OPEN_MULTIPLE * ohms.high
    return Due(
        point,
        OHM,
        (
            Range(Band(0, shorted), Word.DEAD, False, "shorted turns"),
            Range(Band(above(shorted), below(band.low)), Word.LOW, False, "below its range"),
            Range(band, Word.IN_BAND, True, "as a good coil"),
            Range(Band(above(band.high), gone), Word.HIGH, False, "above its range"),
            Range(Band(above(gone), math.inf), Word.OPEN, False, "the coil is open"),
        ),
        explain=lambda: (
            f"{'by its plate' if printed else 'typical of its type'}: {show(ohms.low)} …"
            f" {show(ohms.high, 'Ω')}; with the meter {show(band.low)} … {show(band.high, 'Ω')}",
        ),
        provisional=not printed,
    )


def dc_coil_volts(evidence: Evidence, asked: Asked) -> Due:
    """A DC coil while its call stands: 20 to 34 V, by how its rectifier is filtered."""
    state, point, unit = asked.state, asked.point, evidence.unit
    control = unit.device_by_id[point.component]
    call = getattr(control, "call", None)
    if call not in state.calls or state.power[unit.control_power.circuit] != "on":
        return due_by_model(evidence, asked)
    low, high = th.DC_COIL_LOW, th.DC_COIL_HIGH
    return Due(
        point,
        Quantity.VOLTS_DC,
        (
            Range(Band(0, 1), Word.DEAD, False, "no DC: the call, or the rectifier"),
            Range(Band(above(1), below(low)), Word.LOW, False, "too little to pull it in"),
            Range(Band(low, high), Word.IN_BAND, True, "as a good rectifier gives"),
            Range(Band(above(high), math.inf), Word.HIGH, False, "more than its coil is made for"),
        ),
        nominal=0.9 * control.coil.volts,
        explain=lambda: (f"{show(low)} … {show(high, 'V')} DC is due while it is called",),
    )


def control_volts(evidence: Evidence, asked: Asked) -> Due:
    """The secondary, or R to C: what a loaded transformer gives."""
    state, point = asked.state, asked.point
    power = evidence.unit.control_power
    if state.power[power.circuit] != "on":
        return Due(point, V, absent=f"circuit {power.circuit} is off: no control power is due")
    scale = power.volts / 24
    low, high = th.SECONDARY_LOW * scale, th.SECONDARY_HIGH * scale
    dead, weak = th.SECONDARY_DEAD, th.SECONDARY_REPAIR * scale
    return Due(
        point,
        V,
        (
            Range(Band(0, dead), Word.DEAD, False, "no control power"),
            Range(Band(above(dead), below(weak)), Word.LOW, False, "too low to hold coils"),
            Range(Band(weak, below(low)), Word.LOW, None, "low; sequencers run slow"),
            Range(Band(low, high), Word.IN_BAND, True, "good control power"),
            Range(Band(above(high), math.inf), Word.HIGH, False, "high: look at the primary tap"),
        ),
        nominal=power.volts,
        explain=lambda: (f"a {show(power.volts)} V secondary is due at {show(low)} … {show(high, 'V')}",),
    )


def terminal_volts(evidence: Evidence, asked: Asked) -> Due:
    """A terminal to C: the secondary’s volts where it is called, none where it is not."""
    state, point = asked.state, asked.point
    called = set(state.calls)
    blower = evidence.unit.blower
    if blower is not None and blower.interlock.kind == "g-with-w" and called & HEAT_CALLS:
        called.add("G")  # the board raises it
    if point.name == "R":
        return control_volts(evidence, asked)
    if point.name in called:
        due = control_volts(evidence, asked)
        nothing = f"24 V does not reach {point.name}: thermostat, its wire or jumper, or R itself"
        return replace(
            due, ranges=tuple(replace(r, meaning=nothing) if r.word is Word.DEAD else r for r in due.ranges)
        )
    return Due(
        point,
        V,
        (
            Range(Band(0, 3), Word.IN_BAND, True, "nothing asks for it, and nothing is there"),
            Range(Band(above(3), math.inf), Word.HIGH, False, "24 V without a call: walk back"),
        ),
        nominal=0.0,
        explain=lambda: (f"{point.name} is not called for: 0 V due",),
    )
