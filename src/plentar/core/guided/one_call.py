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
from plentar.core.quantity import Band, Quantity, show
from plentar.core.supply.control_budget import control_budget
from plentar.core.tables import thresholds as th
from plentar.core.tables.assumptions import CONTROL_AMPS_SPREAD
from plentar.core.unit.accuracy import CONTROL_WIRE_AMPS
from plentar.core.unit.points import resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.evidence import Evidence

A, V, DC, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC, Quantity.OHMS
LANDED = "the thermostat’s wires are landed again"
STARTS = "the outdoor unit starts: no second start within five minutes"
REST = TestStage()
DEAD = TestStage(dead=True)


def one_call_test(evidence: Evidence, now_s: float) -> Guided:
    """Coils and wires proved dead; R with nothing called, with each call, with all of them."""
    asking, unit = Asking(evidence, now_s), evidence.unit
    cold = [asking.step(DEAD, f"{name}.coil", OHM, f"Coil of {name}") for name in unit.device_by_id]
    cold += [
        asking.step(DEAD, f"{call}:ground", OHM, f"{call} to the cabinet, wires lifted")
        for call in unit.calls
    ]
    bad = [step for step in cold if step.verdict is not None and step.verdict.good is False]
    ended = _not_driven(unit, bad)
    dc = [name for name, device in unit.device_by_id.items() if device.kind.dc_coil]
    rest = replace(
        asking.step(REST, "R", A, "Wire to R, nothing called"), due=_due(unit, (), 0.0), note=LANDED
    )
    nothing = rest.taken.reading.value if rest.taken else 0.0
    warm = [rest, *(_call(asking, call, nothing) for call in _calls(unit))]
    whole = TestStage(frozenset(_calls(unit)))
    together = asking.step(whole, "R", A, "Wire to R, all of them")
    volts = asking.step(whole, "R", V, "R to C, all of them")
    warm.append(replace(together, due=_due(unit, unit.calls, nothing)))
    warm = _worst(warm)
    ended = ended or _over_the_fuse(unit, warm)
    behind = [asking.step(whole, f"{name}.coil", DC, f"DC at the coil of {name}") for name in dc]
    return Guided(every(cold, [*warm, volts], behind), _said(unit, warm, bad), ended)


def _calls(unit: Unit) -> list[str]:
    """The fan first, that heat which is called next finds the air moving."""
    return sorted(unit.calls, key=lambda call: (call != unit.fan_call, call))


def _call(asking: Asking, call: str, nothing: float) -> Step:
    """Alone; heat that nothing ties to the blower with the fan."""
    unit = asking.evidence.unit
    calls, words = {call}, f"{call} alone"
    note = STARTS if any(load.call == call for load in unit.other_loads) else ""
    if call in unit.heat_calls:
        note = "read it at once: the coil’s amps, before the heat is on"
        calls |= heat_calls(asking.evidence) - unit.heat_calls
        words = " with ".join(sorted(calls, reverse=True)) if len(calls) > 1 else words
    step = asking.step(TestStage(frozenset(calls)), "R", A, f"Wire to R, {words}")
    return replace(step, due=_due(unit, calls, nothing), note=note)


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
        (Word.LOW, False, "less than its coils should draw: open coil, or no call reaches it"),
        (Word.IN_BAND, True, "what its coils should draw"),
        (Word.HIGH, False, "more than its coils should draw: ohms of each, and of the wire"),
        (Word.HIGH, False, "above the fuse: end the call, look for the short on it"),
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


def _not_driven(unit: Unit, bad: list[Step]) -> str:
    """A shorted coil or wire is not called."""
    for step in bad:
        if step.taken is None or not _shorts(unit, step):
            continue
        ohms = show(step.taken.reading.value, "Ω")
        if step.at.endswith(".coil"):
            name = step.at.removesuffix(".coil")
            return f"the coil of {name} reads {ohms}: nothing drives it, replace {name} first"
        call = step.at.partition(":")[0]
        return f"the wire of {call} reads {ohms} to the cabinet: it is not called, find where it is bare"
    return ""


def _shorts(unit: Unit, step: Step) -> bool:
    assert step.taken is not None
    ohms = step.taken.reading.value
    fuse = unit.control_power.fuse_amps or unit.control_power.va / unit.control_power.volts
    return (
        ohms < unit.control_power.volts / fuse
        if ":" in step.at
        else step.verdict is not None and (step.verdict.word is Word.DEAD)
    )


def _over_the_fuse(unit: Unit, steps: list[Step]) -> str:
    fuse = unit.control_power.fuse_amps
    for step in steps:
        if fuse is None or step.taken is None or step.taken.reading.value <= fuse:
            continue
        amps, calls = step.taken.reading.value, sorted(step.taken.state.calls)
        called = " + ".join(calls) or "nothing"
        parts = [name for name, call, _ in control_budget(unit).loads if call in calls]
        at = ", ".join(parts) or "the thermostat"
        return (
            f"{show(amps, 'A')} with {called} called, the fuse is {fuse:g} A. End the call; power"
            f" off, then ohms: {at}, and the wire to the cabinet. For more tries a resettable"
            f" {fuse:g} A breaker in the fuse’s place saves fuses: note it as a jumper, and take it out"
        )
    return ""


def _said(unit: Unit, warm: list[Step], bad: list[Step]) -> tuple[tuple[str, str], ...]:
    worst = next((step for step in warm if step.worst), None)
    read = [step for step in warm if step.taken is not None]
    high = [step.taken.reading.value for step in read if step.taken]
    va = max(high, default=0.0) * unit.control_power.volts
    return lines(
        ("bad", ", ".join(step.title for step in bad) or None),
        (
            "furthest out",
            f"{worst.title}: {show(worst.taken.reading.value, 'A')}, due {worst.due.text()}"
            if worst and worst.taken
            else None,
        ),
        (
            "most at once",
            f"{show(va, 'VA')} of {unit.control_power.va:g} VA;"
            f" {100 * va / unit.control_power.va:.0f} %, up to"
            f" {100 * th.TRANSFORMER_SHARE:.0f} % is good"
            if high
            else None,
        ),
    )
