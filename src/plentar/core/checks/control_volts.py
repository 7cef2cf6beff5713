"""The 24 V supply by its volts, at the secondary and at R."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import Said, figure, say, span
from plentar.core.tables import thresholds as th
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence, Taken

NAME, OWNER = say("checks.control-volts.control-volts"), "transformer"
V = Quantity.VOLTS


@check(NAME, FindingCode.CONTROL_VOLTS_LOW)
def control_volts_low(evidence: Evidence) -> Iterator[Result]:
    """The newest volts with its circuit on: at the secondary; at R where these stand."""
    power = evidence.unit.control_power
    read = [
        taken for at in (OWNER, "R") for taken in evidence.at(at, V) if taken.state.power[power.circuit] == ON
    ]
    if not read:
        yield NotJudged(NAME, OWNER, say("checks.control-volts.control-volts-not-read"))
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
    text = say(
        "checks.control-volts.good",
        volts=figure(volts, "V"),
        newest=_place(newest),
        range=span(th.SECONDARY_LOW * scale, th.SECONDARY_HIGH * scale, "V"),
    )
    text += (
        say("checks.control-volts.relays-chatter-or-stay")
        if weak
        else say("checks.control-volts.sequencers-run-late-look")
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
        return NotJudged(NAME, OWNER, say("checks.control-volts.no-volts-r-read"))
    fed = [
        t
        for t in (*evidence.at(power.circuit, V), *evidence.at("transformer.primary", V))
        if t.state.power[power.circuit] == ON
    ]
    rated = evidence.unit.circuit_by_id[power.circuit].rated_volts
    if not fed:
        return NotJudged(NAME, OWNER, say("checks.control-volts.no-volts-secondary-read"))
    if fed[-1].reading.value < th.LINE_VOLTS_SHARE * rated:
        return NotJudged(NAME, OWNER, say("checks.control-volts.primary-has-no-line"))
    text = say(
        "checks.control-volts.secondary-ahead-gives-nothing",
        taken=figure(taken.reading.value, "V"),
        fed=figure(fed[-1].reading.value, "V"),
    )
    numbers = {"measured_volts": taken.reading.value}
    return Finding(FindingCode.CONTROL_VOLTS_LOW, Level.REPAIR, OWNER, text, numbers, t_s=taken.reading.t_s)


def _place(taken: Taken) -> Said:
    return (
        say("checks.control-volts.secondary") if taken.point.name == OWNER else say("checks.control-volts.r")
    )
