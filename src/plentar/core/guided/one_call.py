"""One call at a time: what each adds in the wire to R, against what its coils should add.

Ohms come before anything is driven: a coil whose turns are shorted, or a wire that touches the
frame, is not called at all. What reads more than the fuse ends the test.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace

from plentar.core.expected import Expected, Word
from plentar.core.expected.ends import below, partition
from plentar.core.guided import Guided, Step, every, lines
from plentar.core.guided.asking import Asking, TestStage, heat_calls
from plentar.core.quantity import Band, Quantity
from plentar.core.said import NOTHING, Said, figure, listed, plain, rounded, say
from plentar.core.supply.control_budget import control_budget
from plentar.core.tables import thresholds as th
from plentar.core.tables.assumptions import CONTROL_AMPS_SPREAD
from plentar.core.unit.accuracy import CONTROL_WIRE_AMPS
from plentar.core.unit.naming import said_of
from plentar.core.unit.points import resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.evidence import Evidence

A, V, DC, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC, Quantity.OHMS
LANDED = say("guided.one-call.thermostats-wires-landed-again")
STARTS = say("guided.one-call.outdoor-unit-starts-no")
REST = TestStage()
DEAD = TestStage(dead=True)


def one_call_test(evidence: Evidence, now_s: float) -> Guided:
    """Coils and wires proved dead; R with nothing called, with each call, with all of them."""
    asking, unit = Asking(evidence, now_s), evidence.unit
    cold = [
        asking.step(DEAD, f"{name}.coil", OHM, say("guided.one-call.coil", name=said_of(unit, name)))
        for name in unit.device_by_id
    ]
    cold += [
        asking.step(DEAD, f"{call}:ground", OHM, say("guided.one-call.cabinet-wires-lifted", call=call))
        for call in unit.calls
    ]
    bad = [step for step in cold if step.verdict is not None and step.verdict.good is False]
    ended = _not_driven(unit, bad)
    dc = [name for name, device in unit.device_by_id.items() if device.kind.dc_coil]
    rest = replace(
        asking.step(REST, "R", A, say("guided.one-call.wire-r-nothing-called")),
        due=_due(unit, (), 0.0),
        note=LANDED,
    )
    nothing = rest.taken.reading.value if rest.taken else 0.0
    warm = [rest, *(_call(asking, call, nothing) for call in _calls(unit))]
    whole = TestStage(frozenset(_calls(unit)))
    together = asking.step(whole, "R", A, say("guided.one-call.wire-r-all-them"))
    volts = asking.step(whole, "R", V, say("guided.one-call.r-c-all-them"))
    warm.append(replace(together, due=_due(unit, unit.calls, nothing)))
    warm = _worst(warm)
    ended = ended or _over_the_fuse(unit, warm)
    behind = [
        asking.step(whole, f"{name}.coil", DC, say("guided.one-call.dc-coil", name=said_of(unit, name)))
        for name in dc
    ]
    return Guided(every(cold, [*warm, volts], behind), _said(unit, warm, bad), ended)


def _calls(unit: Unit) -> list[str]:
    """The fan first, that heat which is called next finds the air moving."""
    return sorted(unit.calls, key=lambda call: (call != unit.fan_call, call))


def _call(asking: Asking, call: str, nothing: float) -> Step:
    """Alone; heat that nothing ties to the blower with the fan."""
    unit = asking.evidence.unit
    calls = {call}
    note = STARTS if any(load.call == call for load in unit.other_loads) else NOTHING
    if call in unit.heat_calls:
        note = say("guided.one-call.read-once-coils-amps")
        calls |= heat_calls(asking.evidence) - unit.heat_calls
    step = asking.step(TestStage(frozenset(calls)), "R", A, _wire_to_r(calls))
    return replace(step, due=_due(unit, calls, nothing), note=note)


def _wire_to_r(calls: Iterable[str]) -> Said:
    first, *more = sorted(calls, reverse=True)
    code = "guided.one-call.with" if more else "guided.one-call.alone"
    return say(code, call=first, more=listed(more))


def _adds(unit: Unit, calls: Iterable[str]) -> Band:
    """What the coils on some calls draw, A: at once, and with those that a device passes a call on to."""
    passed_on = {control.id for control in unit.controls if control.through}
    at_once = whole = 0.0
    for name, call, va in control_budget(unit).loads:
        if call in calls:
            whole += va / unit.control_power.volts
            at_once += 0.0 if name in passed_on else va / unit.control_power.volts
    return Band(at_once, whole)


def _due(unit: Unit, calls: Iterable[str], nothing: float) -> Expected:
    """So much more than with nothing called; control amps are known no better than ± 40 %."""
    adds = _adds(unit, calls)
    low = nothing + adds.low * CONTROL_AMPS_SPREAD.low
    high = nothing + adds.high * CONTROL_AMPS_SPREAD.high
    error = CONTROL_WIRE_AMPS.error(high) + (0.0 if adds.high else REST_AMPS)
    band = Band(max(0.0, low - error), high + error)
    fuse = max(unit.control_power.fuse_amps or math.inf, band.high)
    ranges = partition(
        [below(band.low), band.high, fuse],
        (Word.LOW, False, say("guided.one-call.less-than-coils-should")),
        (Word.IN_BAND, True, say("guided.one-call.what-coils-should-draw")),
        (Word.HIGH, False, say("guided.one-call.more-than-coils-should")),
        (Word.HIGH, False, say("guided.one-call.above-fuse-end-call")),
    )
    return Expected(resolve(unit, "R"), A, ranges, nominal=nothing + adds.high)


#: What a thermostat and a board may draw with nothing called, A.
REST_AMPS = 0.15


def _worst(steps: list[Step]) -> list[Step]:
    """The call that is furthest above what is due is marked."""

    def excess(step: Step) -> float:
        good = step.due.good
        if step.taken is None or not good:
            return 0.0
        return step.taken.reading.value - good[-1].band.high

    worst = max(steps, key=excess)
    return [replace(s, worst=True) if s is worst and excess(s) > 0 else s for s in steps]


def _not_driven(unit: Unit, bad: list[Step]) -> Said:
    """A shorted coil or wire is not called."""
    for step in bad:
        if step.taken is None or not _shorts(unit, step):
            continue
        ohms = figure(step.taken.reading.value, "Ω")
        if step.at.endswith(".coil"):
            name = step.at.removesuffix(".coil")
            return say("guided.one-call.coil-reads-nothing-drives", name=said_of(unit, name), ohms=ohms)
        call = step.at.partition(":")[0]
        return say("guided.one-call.wire-reads-cabinet-not", call=call, ohms=ohms)
    return NOTHING


def _shorts(unit: Unit, step: Step) -> bool:
    assert step.taken is not None
    ohms = step.taken.reading.value
    fuse = unit.control_power.fuse_amps or unit.control_power.va / unit.control_power.volts
    return (
        ohms < unit.control_power.volts / fuse
        if ":" in step.at
        else step.verdict is not None and (step.verdict.word is Word.DEAD)
    )


def _over_the_fuse(unit: Unit, steps: list[Step]) -> Said:
    fuse = unit.control_power.fuse_amps
    for step in steps:
        if fuse is None or step.taken is None or step.taken.reading.value <= fuse:
            continue
        amps, calls = step.taken.reading.value, sorted(step.taken.state.calls)
        called = " + ".join(calls) or "nothing"
        parts = [name for name, call, _ in control_budget(unit).loads if call in calls]
        at = ", ".join(parts) or say("guided.one-call.thermostat")
        return say(
            "guided.one-call.called-fuse-end-call",
            amps=figure(amps, "A"),
            called=called,
            fuse=plain(fuse),
            at=at,
        )
    return NOTHING


def _said(unit: Unit, warm: list[Step], bad: list[Step]) -> tuple[tuple[Said, Said], ...]:
    worst = next((step for step in warm if step.worst), None)
    read = [step for step in warm if step.taken is not None]
    high = [step.taken.reading.value for step in read if step.taken]
    va = max(high, default=0.0) * unit.control_power.volts
    return lines(
        (say("guided.one-call.bad"), listed((step.title for step in bad), ";") if bad else None),
        (
            say("guided.one-call.furthest-out"),
            say(
                "guided.one-call.due",
                worst=worst.title,
                taken=figure(worst.taken.reading.value, "A"),
                due=worst.due.text(),
            )
            if worst and worst.taken
            else None,
        ),
        (
            say("guided.one-call.most-once"),
            say(
                "guided.one-call.va-up-good",
                va=figure(va, "VA"),
                va_2=plain(unit.control_power.va),
                va_3=rounded(100 * va / unit.control_power.va, 0),
                transformer_share=rounded(100 * th.TRANSFORMER_SHARE, 0),
            )
            if high
            else None,
        ),
    )
