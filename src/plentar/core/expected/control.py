"""What is due on the 24 V side and at its coils."""

from __future__ import annotations

from dataclasses import replace

from plentar.core.expected import Asked, Expected, Word
from plentar.core.expected.by_model import expected_by_model
from plentar.core.expected.ends import below, partition
from plentar.core.quantity import Quantity, show
from plentar.core.tables import thresholds as th
from plentar.core.tables.devices import OPEN_MULTIPLE, SHORTED_SHARE
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.visit.evidence import Evidence

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS


def coil_ohms(evidence: Evidence, asked: Asked) -> Expected:
    """A coil beside its printed or typical ohms: shorted under half, open over ten times."""
    point = asked.point
    unit = evidence.unit
    device = unit.device_by_id[point.component]
    ohms, printed = device.coil_ohms, device.coil.ohms is not None
    band = ACCURACY[OHM].widen(ohms)
    return Expected(
        point,
        OHM,
        partition(
            [below(SHORTED_SHARE * ohms.low), below(band.low), band.high, OPEN_MULTIPLE * ohms.high],
            (Word.DEAD, False, "shorted turns"),
            (Word.LOW, False, "below its range"),
            (Word.IN_BAND, True, "as a good coil"),
            (Word.HIGH, False, "above its range"),
            (Word.OPEN, False, "the coil is open"),
        ),
        explain=lambda: (
            f"{'by its plate' if printed else 'typical of its type'}: {show(ohms.low)} …"
            f" {show(ohms.high, 'Ω')}; with the meter {show(band.low)} … {show(band.high, 'Ω')}",
        ),
        provisional=not printed,
    )


def dc_coil_volts(evidence: Evidence, asked: Asked) -> Expected:
    """A DC coil while its call stands: 20 to 34 V, by how its rectifier is filtered."""
    state, point, unit = asked.state, asked.point, evidence.unit
    control = unit.device_by_id[point.component]
    call = getattr(control, "call", None)
    if call not in state.calls or state.power[unit.control_power.circuit] != "on":
        return expected_by_model(evidence, asked)
    low, high = th.DC_COIL_LOW, th.DC_COIL_HIGH
    return Expected(
        point,
        Quantity.VOLTS_DC,
        partition(
            [1.0, below(low), high],
            (Word.DEAD, False, "no DC: the call, or the rectifier"),
            (Word.LOW, False, "too little to pull it in"),
            (Word.IN_BAND, True, "as a good rectifier gives"),
            (Word.HIGH, False, "more than its coil is made for"),
        ),
        nominal=0.9 * control.coil.volts,
        explain=lambda: (f"{show(low)} … {show(high, 'V')} DC is due while it is called",),
    )


def control_volts(evidence: Evidence, asked: Asked) -> Expected:
    """The secondary, or R to C: what a loaded transformer gives."""
    state, point = asked.state, asked.point
    power = evidence.unit.control_power
    if state.power[power.circuit] != "on":
        return Expected(point, V, absent=f"circuit {power.circuit} is off: no control power is due")
    scale = power.volts / 24
    low, high = th.SECONDARY_LOW * scale, th.SECONDARY_HIGH * scale
    dead, weak = th.SECONDARY_DEAD, th.SECONDARY_REPAIR * scale
    return Expected(
        point,
        V,
        partition(
            [dead, below(weak), below(low), high],
            (Word.DEAD, False, "no control power"),
            (Word.LOW, False, "too low to hold coils"),
            (Word.LOW, None, "low; sequencers run slow"),
            (Word.IN_BAND, True, "good control power"),
            (Word.HIGH, False, "high: look at the primary tap"),
        ),
        nominal=power.volts,
        explain=lambda: (f"a {show(power.volts)} V secondary is due at {show(low)} … {show(high, 'V')}",),
    )


def fuse_volts(evidence: Evidence, asked: Asked) -> Expected:
    """Volts across the control fuse: near zero whole, the secondary's blown."""
    power = evidence.unit.control_power
    if asked.state.power[power.circuit] != "on":
        return Expected(asked.point, V, absent=f"circuit {power.circuit} is off: volts tell nothing here")
    whole, blown = th.SECONDARY_DEAD, th.SECONDARY_DEAD * 10
    return Expected(
        asked.point,
        V,
        partition(
            [whole, below(blown)],
            (Word.CLOSED, True, "near zero: whole, where the secondary has its volts"),
            (Word.UNCLEAR, False, "in between: look at its clips"),
            (Word.OPEN, False, "the secondary’s volts across it: it is open"),
        ),
        nominal=0.0,
        explain=lambda: (f"up to {show(whole, 'V')} whole; a blown one has the secondary’s volts across it",),
    )


def terminal_volts(evidence: Evidence, asked: Asked) -> Expected:
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
    return Expected(
        point,
        V,
        partition(
            [3.0],
            (Word.IN_BAND, True, "nothing asks for it, and nothing is there"),
            (Word.HIGH, False, "24 V without a call: walk back"),
        ),
        nominal=0.0,
        explain=lambda: (f"{point.name} is not called for: 0 V due",),
    )
