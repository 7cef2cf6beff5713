"""Parts made for other volts than they get: elements by their plate, the transformer by its tap."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Band, Quantity
from plentar.core.said import figure, plain, say
from plentar.core.tables import thresholds as th
from plentar.core.tables.supply_ranges import BELOW_230_V
from plentar.core.unit.naming import said_of
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence, Taken

V = Quantity.VOLTS
PLATE_230_V = Band(225.0, 235.0)


@check(say("checks.plate-volts.volts-plate"), FindingCode.OVER_VOLTS)
def over_volts(evidence: Evidence) -> Iterator[Result]:
    """An element whose circuit gives it far more than its plate says."""
    name = say("checks.plate-volts.volts-plate")
    for element in evidence.unit.elements:
        circuit = evidence.unit.circuit_by_id[element.circuit]
        supply = evidence.supply(circuit, float("inf"))
        if supply.source is None:
            yield NotJudged(name, element.id, say("checks.plate-volts.service-volts-lugs-not"))
            continue
        volts = supply.nominal
        share = (volts / element.rated_volts) ** 2
        usual = element.rated_volts in PLATE_230_V
        most = th.OVER_POWER_230 if usual else th.OVER_POWER
        if share <= most:
            yield Clear(element.id)
            continue
        text = say(
            "checks.plate-volts.made-v-gets-v",
            element=said_of(evidence.unit, element.id),
            rated_volts=plain(element.rated_volts),
            volts=plain(volts),
            share=figure(100 * share, "%"),
        )
        numbers = {"measured_volts": volts, "rated_volts": element.rated_volts}
        t_s = supply.source.reading.t_s
        yield Finding(FindingCode.OVER_VOLTS, Level.REPAIR, element.id, text, numbers, t_s=t_s)


@check(say("checks.plate-volts.tap-transformer"), FindingCode.PRIMARY_TAP)
def primary_tap(evidence: Evidence) -> Iterator[Result]:
    """A 208 V service on the 240 V tap: low control volts from a good transformer."""
    name, power = say("checks.plate-volts.tap-transformer"), evidence.unit.control_power
    circuit = evidence.unit.circuit_by_id[power.circuit]
    if circuit.rated_volts >= BELOW_230_V:
        if power.primary_volts is not None and power.primary_volts < BELOW_230_V:
            text = say(
                "checks.plate-volts.primary-v-tap-v",
                primary_volts=plain(power.primary_volts),
                rated_volts=plain(circuit.rated_volts),
            )
            yield Finding(FindingCode.PRIMARY_TAP, Level.REPAIR, "transformer", text)
        else:
            yield Clear("transformer")
        return
    taken = _control_volts(evidence)
    if power.primary_volts is not None:
        if power.primary_volts < BELOW_230_V:
            yield Clear("transformer")
            return
    elif taken is None:
        yield NotJudged(name, "transformer", say("checks.plate-volts.neither-tap-nor-r"))
        return
    due = power.volts * circuit.rated_volts / th.USUAL_TAP_VOLTS
    if power.primary_volts is None and taken is not None:
        share = taken.reading.value / due
        if share not in Band(1 - th.TAP_SHARE, 1 + th.TAP_SHARE):
            yield Clear("transformer")
            return
    read = (
        say("checks.plate-volts.r-c-reads-v", taken=plain(taken.reading.value)) if taken is not None else ""
    )
    text = say(
        "checks.plate-volts.what-good-transformer-gives",
        read=read,
        due=figure(due, "V"),
        rated_volts=plain(circuit.rated_volts),
    )
    numbers = {"due_volts": due}
    if taken is not None:
        numbers["measured_volts"] = taken.reading.value
    t_s = taken.reading.t_s if taken is not None else 0.0
    yield Finding(FindingCode.PRIMARY_TAP, Level.REPAIR, "transformer", text, numbers, t_s=t_s)


def _control_volts(evidence: Evidence) -> Taken | None:
    """The newest volts of the secondary, or of R to C, with its circuit on."""
    power = evidence.unit.control_power
    found = [
        taken
        for at in ("R", "transformer")
        if (taken := evidence.latest(at, V)) is not None and taken.state.power[power.circuit] == ON
    ]
    return max(found, key=lambda t: t.reading.t_s, default=None)
