"""What is due on the 24 V side and at its coils."""

from __future__ import annotations

from dataclasses import replace

from plentar.core.expected import Asked, Expected, Word
from plentar.core.expected.by_model import expected_by_model
from plentar.core.expected.ends import below, partition
from plentar.core.quantity import Quantity
from plentar.core.said import figure, say, span
from plentar.core.tables import thresholds as th
from plentar.core.tables.devices import OPEN_MULTIPLE, SHORTED_SHARE
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.naming import said_of
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
            (Word.DEAD, False, say("expected.control.shorted-turns")),
            (Word.LOW, False, say("expected.control.below-range")),
            (Word.IN_BAND, True, say("expected.control.good-coil")),
            (Word.HIGH, False, say("expected.control.above-range")),
            (Word.OPEN, False, say("expected.control.coil-open")),
        ),
        explain=lambda: (
            say(
                "expected.control.meter",
                how=say("expected.control.plate") if printed else say("expected.control.typical-type"),
                range=span(ohms.low, ohms.high, "Ω"),
                range_2=span(band.low, band.high, "Ω"),
            ),
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
            (Word.DEAD, False, say("expected.control.no-dc-call-or")),
            (Word.LOW, False, say("expected.control.too-little-pull")),
            (Word.IN_BAND, True, say("expected.control.good-rectifier-gives")),
            (Word.HIGH, False, say("expected.control.more-than-coil-made")),
        ),
        nominal=0.9 * control.coil.volts,
        explain=lambda: (say("expected.control.dc-due-while-called", range=span(low, high, "V")),),
    )


def control_volts(evidence: Evidence, asked: Asked) -> Expected:
    """The secondary, or R to C: what a loaded transformer gives."""
    state, point = asked.state, asked.point
    power = evidence.unit.control_power
    if state.power[power.circuit] != "on":
        return Expected(
            point,
            V,
            absent=say(
                "expected.control.circuit-off-no-control", circuit=said_of(evidence.unit, power.circuit)
            ),
        )
    scale = power.volts / 24
    low, high = th.SECONDARY_LOW * scale, th.SECONDARY_HIGH * scale
    dead, weak = th.SECONDARY_DEAD, th.SECONDARY_REPAIR * scale
    return Expected(
        point,
        V,
        partition(
            [dead, below(weak), below(low), high],
            (Word.DEAD, False, say("expected.control.no-control-power")),
            (Word.LOW, False, say("expected.control.too-low-hold-coils")),
            (Word.LOW, None, say("expected.control.low-sequencers-run-slow")),
            (Word.IN_BAND, True, say("expected.control.good-control-power")),
            (Word.HIGH, False, say("expected.control.high-look-primary-tap")),
        ),
        nominal=power.volts,
        explain=lambda: (
            say("expected.control.v-secondary-due", volts=figure(power.volts), range=span(low, high, "V")),
        ),
    )


def fuse_volts(evidence: Evidence, asked: Asked) -> Expected:
    """Volts across the control fuse: near zero whole, the secondary's blown."""
    power = evidence.unit.control_power
    if asked.state.power[power.circuit] != "on":
        return Expected(
            asked.point,
            V,
            absent=say(
                "expected.control.circuit-off-volts-tell", circuit=said_of(evidence.unit, power.circuit)
            ),
        )
    whole, blown = th.SECONDARY_DEAD, th.SECONDARY_DEAD * 10
    return Expected(
        asked.point,
        V,
        partition(
            [whole, below(blown)],
            (Word.CLOSED, True, say("expected.control.near-zero-whole-where")),
            (Word.UNCLEAR, False, say("expected.control.between-look-clips")),
            (Word.OPEN, False, say("expected.control.secondarys-volts-across-open")),
        ),
        nominal=0.0,
        explain=lambda: (say("expected.control.up-whole-blown-one", whole=figure(whole, "V")),),
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
        nothing = say("expected.control.24-v-does-not", point=point.title)
        return replace(
            due, ranges=tuple(replace(r, meaning=nothing) if r.word is Word.DEAD else r for r in due.ranges)
        )
    return Expected(
        point,
        V,
        partition(
            [3.0],
            (Word.IN_BAND, True, say("expected.control.nothing-asks-nothing-there")),
            (Word.HIGH, False, say("expected.control.24-v-without-call")),
        ),
        nominal=0.0,
        explain=lambda: (say("expected.control.not-called-0-v", point=point.title),),
    )
