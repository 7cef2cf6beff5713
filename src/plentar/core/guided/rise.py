"""The rise test: five minutes of heat, what the strips draw, the air before and behind them."""

from __future__ import annotations

from dataclasses import replace

from plentar.core.air.airflow import air_rise_f
from plentar.core.air.rise import HEAT_PUMP, Rise, measured_rise
from plentar.core.guided import Guided, Step, lines
from plentar.core.guided.asking import Asking, TestStage, heat_calls
from plentar.core.quantity import Quantity, show
from plentar.core.tables import thresholds as th
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
        steps += _temperatures(asking, _pump(evidence), "heat pump alone")
        calls |= _pump(evidence).calls
    heat = TestStage(calls, th.STEADY_AIR_S)
    steps += [asking.step(heat, e.id, A, f"Element {e.id}") for e in unit.elements]
    fed = [c.id for c in unit.circuits if any(unit.elements_on(c.id))]
    steps += [asking.step(heat, c, V, f"Lugs of {c}") for c in fed]
    if unit.blower is not None:
        steps.append(asking.step(heat, "blower", A, "Blower"))
    steps += _temperatures(asking, heat, "all heat")
    found = measured_rise(evidence)
    if isinstance(found, str):
        return Guided(tuple(steps))
    return Guided(tuple(steps), _said(evidence, found))


def _pump(evidence: Evidence) -> TestStage:
    fan = {evidence.unit.fan_call} - {None}
    return TestStage(frozenset({HEAT_PUMP, *fan}), th.STEADY_AIR_S)  # type: ignore[arg-type]


def _temperatures(asking: Asking, stage: TestStage, words: str) -> list[Step]:
    sight = "past the first bend, out of sight of the strips"
    supply = asking.step(stage, "supply-air", TEMP, f"Supply air, {words}")
    return [asking.step(stage, "return-air", TEMP, f"Return air, {words}"), replace(supply, note=sight)]


def _said(evidence: Evidence, found: Rise) -> tuple[tuple[str, str], ...]:
    blower = evidence.unit.blower
    tons = blower.tons if blower else None
    due = found.due_f
    about = None
    if found.working is not None:
        several = round(found.working)
        about = f"about {several} of {found.strips} strips" if several < found.strips else "all strips"
        if found.working > MORE * found.strips:
            about = "more than all strips make at the rated air: the air is less"
    return lines(
        ("rise", f"{show(found.rise_f, '°F')}" + (f", due {show(due, '°F')}: {about}" if due else "")),
        ("heat", f"{show(found.watts / 1000, 'kW')} by volts × amps"),
        (
            "air",
            f"{show(found.cfm, 'CFM', 4)}"
            + (f", {show(found.cfm / tons)} a ton" if tons else "")
            + ("" if found.settled else ", provisional before five minutes"),
        ),
        (
            "site",
            f"{evidence.visit.settings.altitude_ft:g} ft" if evidence.visit.settings.altitude_ft else None,
        ),
        ("limits", _limits(evidence, found)),
    )


def _limits(evidence: Evidence, found: Rise) -> str | None:
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
    does = "they stay closed, unless air misses a strip" if stays else "they will open and close"
    return f"all strips at this air leave it at {show(full_f, '°F')}, the first opens at {min(opens):g} °F: {does}"
