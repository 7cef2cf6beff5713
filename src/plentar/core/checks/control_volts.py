"""The 24 V supply by its volts, at the secondary and at R."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity, show
from plentar.core.tables import thresholds as th
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence, Taken

NAME, OWNER = "control volts", "transformer"
V = Quantity.VOLTS


@check(NAME, FindingCode.CONTROL_VOLTS_LOW)
def control_volts_low(evidence: Evidence) -> Iterator[Result]:
    """The newest volts with its circuit on: at the secondary; at R where these stand."""
    power = evidence.unit.control_power
    read = [
        taken for at in (OWNER, "R") for taken in evidence.at(at, V) if taken.state.power[power.circuit] == ON
    ]
    if not read:
        yield NotJudged(NAME, OWNER, "control volts not read")
        return
    newest = max(read, key=lambda taken: taken.reading.t_s)
    volts, scale = newest.reading.value, power.volts / 24
    if volts < th.SECONDARY_DEAD:
        yield _dead(evidence, newest)
        return
    if volts >= th.SECONDARY_LOW * scale:
        yield Clear(OWNER)
        return
    weak = volts < th.SECONDARY_REPAIR * scale
    text = (
        f"{show(volts, 'V')} at {_place(newest)}, {show(th.SECONDARY_LOW * scale)} …"
        f" {show(th.SECONDARY_HIGH * scale, 'V')} is good: "
    )
    text += (
        "relays chatter or stay out; look at the primary’s volts and tap, and at what loads it"
        if weak
        else "sequencers run late; look at the primary’s volts and tap"
    )
    numbers = {"measured_volts": volts, "low_volts": th.SECONDARY_LOW * scale}
    yield Finding(
        FindingCode.CONTROL_VOLTS_LOW,
        Level.REPAIR if weak else Level.WATCH,
        OWNER,
        text,
        numbers,
        t_s=newest.reading.t_s,
    )


def _dead(evidence: Evidence, taken: Taken) -> Result:
    """No volts: the transformer's own fault only where it is fed."""
    power = evidence.unit.control_power
    if taken.point.name == "R":
        return NotJudged(NAME, OWNER, "no volts at R: read the secondary ahead of the fuse")
    fed = [
        t
        for t in (*evidence.at(power.circuit, V), *evidence.at("transformer.primary", V))
        if t.state.power[power.circuit] == ON
    ]
    rated = evidence.unit.circuit_by_id[power.circuit].rated_volts
    if not fed:
        return NotJudged(NAME, OWNER, "no volts at the secondary: read its primary")
    if fed[-1].reading.value < th.LINE_VOLTS_SHARE * rated:
        return NotJudged(NAME, OWNER, "its primary has no line volts: nothing is due of it")
    text = (
        f"{show(taken.reading.value, 'V')} at the secondary with"
        f" {show(fed[-1].reading.value, 'V')} ahead of it: it gives nothing"
    )
    numbers = {"measured_volts": taken.reading.value}
    return Finding(FindingCode.CONTROL_VOLTS_LOW, Level.REPAIR, OWNER, text, numbers, t_s=taken.reading.t_s)


def _place(taken: Taken) -> str:
    return "the secondary" if taken.point.name == OWNER else "R"
