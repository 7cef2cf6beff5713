"""The rise test: five minutes of heat, what the strips draw, the air before and behind them."""

from __future__ import annotations

from dataclasses import replace

from plentar.core.air.airflow import air_rise_f
from plentar.core.air.rise import HEAT_PUMP, Rise, measured_rise
from plentar.core.guided import Guided, Step, lines
from plentar.core.guided.asking import Asking, TestStage, heat_calls
from plentar.core.quantity import DEGREES, Quantity
from plentar.core.said import NOTHING, Said, figure, plain, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.naming import said_of
from plentar.core.unit.ratings import BTUH_PER_WATT
from plentar.core.visit.evidence import Evidence

#: From so much over the due rise on, it is the air that is short and not a strip that is strong.
MORE = 1.15
A, V, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.TEMP_F


def rise_test(evidence: Evidence, now_s: float) -> Guided:
    """The steps: where a heat pump runs underneath, its rise alone comes first."""
    asking, unit = Asking(evidence, now_s), evidence.unit
    calls = heat_calls(evidence)
    steps: list[Step] = []
    underneath = HEAT_PUMP in asking.state.calls
    if underneath:
        steps += _temperatures(asking, _pump(evidence), say("guided.rise.heat-pump-alone"))
        calls |= _pump(evidence).calls
    heat = TestStage(calls, th.STEADY_AIR_S)
    steps += [asking.step(heat, e.id, A, said_of(unit, e.id)) for e in unit.elements]
    fed = [c.id for c in unit.circuits if any(unit.elements_on(c.id))]
    steps += [asking.step(heat, c, V, say("point.lugs", mark=c)) for c in fed]
    if unit.blower is not None:
        steps.append(asking.step(heat, "blower", A, said_of(unit, "blower")))
    steps += _temperatures(asking, heat, say("guided.rise.all-heat"))
    found = measured_rise(evidence)
    if isinstance(found, Said):
        return Guided(tuple(steps))
    return Guided(tuple(steps), _said(evidence, found))


def _pump(evidence: Evidence) -> TestStage:
    fan = {evidence.unit.fan_call} - {None}
    return TestStage(frozenset({HEAT_PUMP, *fan}), th.STEADY_AIR_S)  # type: ignore[arg-type]


def _temperatures(asking: Asking, stage: TestStage, words: Said) -> list[Step]:
    sight = say("guided.rise.past-first-bend-out")
    supply = asking.step(stage, "supply-air", TEMP, say("guided.rise.supply-air", words=words))
    return [
        asking.step(stage, "return-air", TEMP, say("guided.rise.return-air", words=words)),
        replace(supply, note=sight),
    ]


def _said(evidence: Evidence, found: Rise) -> tuple[tuple[Said, Said], ...]:
    blower = evidence.unit.blower
    tons = blower.tons if blower else None
    due = found.due_f
    about = NOTHING
    if found.working is not None:
        several = round(found.working)
        about = (
            say("guided.rise.about-strips", several=several, strips=found.strips)
            if several < found.strips
            else say("guided.rise.all-strips")
        )
        if found.working > MORE * found.strips:
            about = say("guided.rise.more-than-all-strips")
    return lines(
        (
            say("guided.rise.rise"),
            figure(found.rise_f, DEGREES)
            + (say("guided.rise.due", due=figure(due, DEGREES), about=about) if due else NOTHING),
        ),
        (say("guided.rise.heat"), say("guided.rise.volts-amps", watts=figure(found.watts / 1000, "kW"))),
        (
            say("guided.rise.air"),
            figure(found.cfm, "CFM", 4)
            + (say("guided.rise.ton", cfm=figure(found.cfm / tons, "CFM")) if tons else NOTHING)
            + (NOTHING if found.settled else say("guided.rise.provisional-before-five-minutes")),
        ),
        (
            say("guided.rise.site"),
            say("guided.rise.ft", altitude_ft=plain(evidence.visit.settings.altitude_ft, "ft"))
            if evidence.visit.settings.altitude_ft
            else None,
        ),
        (say("guided.rise.limits"), _limits(evidence, found)),
    )


def _limits(evidence: Evidence, found: Rise) -> Said | None:
    """What the limits will do at this air with every strip on."""
    unit = evidence.unit
    back = evidence.latest("return-air", TEMP)
    opens = [limit.opens_f for limit in unit.limits if limit.opens_f]
    if back is None or not opens:
        return None
    rated = sum(e.rating.watts(unit.circuit_by_id[e.circuit].rated_volts) for e in unit.elements)
    full_f = back.reading.value + air_rise_f(
        BTUH_PER_WATT * rated, found.cfm, evidence.visit.settings.altitude_ft
    )
    stays = full_f < min(opens)
    does = say("guided.rise.they-stay-closed-unless") if stays else say("guided.rise.they-will-open-close")
    return say(
        "guided.rise.all-strips-this-air",
        full_f=figure(full_f, "°F"),
        opens=plain(min(opens), "°F"),
        does=does,
    )
