"""What the judge would do next on a simulated unit, done as its card says; and the order in which most go about it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from plentar.core.judgement import Diagnosis, NextReading, Setting, Sureness
from plentar.core.quantity import Quantity
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.points import points, resolve
from plentar.core.visit.events import LIFTED, OFF, ON, PROVED_DEAD, RESTORED, Observed
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import all_off_s, all_on_s
from plentar.practice.bench import MOST_SKIP_S, Bench

A, V, OHMS = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS
Judge = Callable[[Evidence], Diagnosis]
#: Whoever has called for heat looks for so long whether the blower runs, s.
LOOKS_S = 5.0
#: No path is longer.
MOST_READINGS = 25
#: A strip that draws less draws nothing, A.
DRAWS_A = 1.0


def next_here(answer: Diagnosis) -> NextReading | None:
    """The first proposal, None where there is none."""
    return next(iter(answer.next), None)


def judges_path(bench: Bench, judge: Judge) -> tuple[Bench, Diagnosis]:
    """The first card's reading, again and again, until nothing more is asked for or it is clear; and the judge's
    answer to it."""
    answer = judge(bench.evidence)
    for _ in range(MOST_READINGS):
        card = next_here(answer)
        if card is None or answer.state is Sureness.CLEAR:
            break
        bench = done_as_said(bench, card)
        answer = judge(bench.evidence)
    return bench, answer


def done_as_said(bench: Bench, card: NextReading) -> Bench:
    """The bench after a card: its setting, its reading, and the end of a guarded step."""
    bench = set_up(bench, card.setting)
    if stands_still(bench):
        return bench.note_still()  # and no heat: what is read next is the judge's to say
    if card.setting.driven:
        bench = _driven(bench, card)
    elif card.quantity is None:
        watched = card.at in bench.unit.element_by_id or card.at in {x.id for x in bench.unit.limits}
        bench = bench.watch(card.at) if watched else bench
    else:
        if card.quantity is Quantity.TEMP_F and card.at == "supply-air":
            bench = bench.measure("return-air", card.quantity)
        if card.quantity is Quantity.UF and bench.charged:
            bench = bench.discharge()
        bench = bench.measure(card.at, card.quantity)
    return bench if card.setting.guard is None else called(bench, card.setting.guard.ends)


def set_up(bench: Bench, setting: Setting) -> Bench:
    """As a card's steps say, one after the other; what is off its terminals goes back before the power does."""
    if setting.fresh:
        bench = waited(called(bench, frozenset()), all_off_s(bench.unit))
    if setting.lifted is not None and setting.lifted != bench.state.lifted:
        live = bench.state.live
        bench = (bench.power(OFF) if live else bench).wires(LIFTED if setting.lifted else RESTORED)
        bench = bench.power(ON) if live and setting.power is None else bench
    if setting.power == PROVED_DEAD:
        bench = proved_dead(bench)
    elif setting.power is not None:
        bench = called(coils_back(bench), bench.state.calls - HEAT_CALLS)  # the heat waits for the fan
        bench = bench.power(setting.power, setting.circuit or "")
    if setting.guard is not None:
        bench = waited(called(bench, setting.guard.begins), all_on_s(bench.unit))
    if setting.calls is not None:
        heat = setting.calls & HEAT_CALLS - bench.state.calls
        if heat and setting.calls - heat:
            bench = called(bench, setting.calls - heat).wait(LOOKS_S)
            if stands_still(bench):
                return bench
        bench = called(bench, setting.calls)
    if setting.after_s and not setting.driven and not stands_still(bench):
        changed_s = max((e.t_s for e in bench.visit.events if e.is_switch), default=0.0)
        bench = waited(bench, changed_s + setting.after_s + 1.0 - bench.now_s)
    return bench


def stands_still(bench: Bench) -> bool:
    """With the fan called, and longer than it takes to come on, the blower is seen to stand still, and nobody has
    noted that since anything was switched."""
    state, fan = bench.state, bench.unit.fan_call
    if fan is None or bench.unit.blower is None or not state.live or "still" not in bench.seen:
        return False
    since_s = state.since_s.get(fan)
    if since_s is None or bench.now_s - since_s < LOOKS_S:
        return False
    events = bench.visit.events
    switched_s = max(event.t_s for event in events if event.is_switch)
    noted = [e for e in events if isinstance(e, Observed) and e.part == "blower" and e.action == "off"]
    return all(event.t_s < switched_s for event in noted)


def _driven(bench: Bench, card: NextReading) -> Bench:
    assert card.quantity is not None
    coil = f"{bench.driver_of(resolve(bench.unit, card.at))}.coil"
    bench = proved_dead(called(bench, frozenset()))
    if coil not in bench.state.coils_off:
        bench = bench.wires(LIFTED, coil)
    return bench.drive(card.at, card.quantity)


def called(bench: Bench, calls: frozenset[str]) -> Bench:
    """What is called is this: the fan first, the heat first to end."""
    for call in sorted(bench.state.calls - calls, reverse=True):
        bench = bench.call(call)
    for call in sorted(calls - bench.state.calls):
        bench = bench.call(call)
    return bench


def proved_dead(bench: Bench) -> Bench:
    if bench.state.proved_dead:
        return bench
    return (bench.power(OFF) if bench.state.live else bench).power(PROVED_DEAD)


def coils_back(bench: Bench) -> Bench:
    for coil in sorted(bench.state.coils_off):
        bench = bench.wires(RESTORED, coil)
    return bench


def waited(bench: Bench, seconds: float) -> Bench:
    while seconds > 0:
        step = min(seconds, MOST_SKIP_S)
        bench, seconds = bench.wait(step), seconds - step
    return bench


# The customary order of work: supply, control power, the call, amps, along a dead rung, and ohms proved dead.


def customary_path(bench: Bench) -> Iterator[Bench]:
    """The bench after each reading in the customary order, up to so many. Nothing in it asks the judge."""
    for number, after in enumerate(_customary(bench)):
        if number >= MOST_READINGS:
            return
        yield after


def _customary(bench: Bench) -> Iterator[Bench]:
    unit, names = bench.unit, {point.name for point in points(bench.unit)}
    for at in (*(circuit.id for circuit in unit.circuits), "R"):
        yield (bench := bench.measure(at, V))
    fan = frozenset({"G"} & set(unit.calls))
    bench = called(bench, fan)
    if unit.blower is not None:
        yield (bench := waited(bench, 10).measure("blower", A))
    bench = waited(called(bench, fan | (HEAT_CALLS & set(unit.calls))), all_on_s(unit))
    dead = []
    for element in unit.elements:
        yield (bench := bench.measure(element.id, A))
        if float(bench.acts[-1]["value"]) < DRAWS_A:
            dead.append(element)
    for element in dead:
        controls = [unit.control_of_switch[switch.id] for switch in unit.rung_switches(element)]
        for at in (*dict.fromkeys(f"{control.id}.coil" for control in controls), *element.rung):
            quantity = next(q for q in resolve(unit, at).quantities if q in (V, Quantity.VOLTS_DC))
            yield (bench := bench.measure(at, quantity))
    for at in [a for a in ("supply-air",) if a in names and not dead]:
        bench = bench.measure("return-air", Quantity.TEMP_F)
        yield (bench := bench.measure(at, Quantity.TEMP_F))
    bench = waited(called(bench, fan), all_off_s(unit))
    for element in unit.elements:
        yield (bench := bench.measure(element.id, A))
    bench = proved_dead(called(bench, frozenset()))
    for element in dead or unit.elements:
        for at in element.rung:
            if OHMS in resolve(unit, at).quantities:
                yield (bench := bench.measure(at, OHMS))
        yield (bench := bench.measure(f"{element.id}.in:ground", OHMS))
    for device in unit.device_by_id:
        yield (bench := bench.measure(f"{device}.coil", OHMS))
