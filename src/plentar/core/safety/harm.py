"""What a setting would do to the unit, and to who stands before it, under given faults.

The unit is run through the setting and through its end, heat first and the fan two minutes later
where it was called with the heat. Harm is what the gate on proposals says it is.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.circuit.faults import Fault, effects_of
from plentar.core.circuit.moments import moments_until
from plentar.core.circuit.movers import Moment
from plentar.core.circuit.solved import Networks
from plentar.core.circuit.wiring import wire_up
from plentar.core.judgement import Setting
from plentar.core.safety.bars import FAN_AFTER_HEAT_S
from plentar.core.said import NOTHING, Said, say
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import floor_of
from plentar.core.visit.events import ON, Calls, Event, Power, Wires
from plentar.core.visit.events.wires import LIFTED
from plentar.core.visit.state import PanelState, all_off_s, all_on_s, as_it_was, state_at

#: Longer than this an element must not draw without the blower, s.
WITHOUT_AIR_S = 10.0
#: A compressor rests this long between two starts, s.
COMPRESSOR_REST_S = 300.0
#: What reading takes, once it may begin, s.
READING_S = 30.0
#: So many times its rated amps through a transformer without a fuse are a short.
OVERLOAD_MULTIPLE = 3.0
#: Through a relay contact flows the motor; more than this beside it is an element, A.
CONTACT_SPARE_AMPS = 3.0


@dataclass(frozen=True, slots=True)
class Course:
    """A setting as the switches that it means, from ``from_s`` on; the last call ends at
    ``fan_ends_s``. ``changes``: it moves any."""

    events: tuple[Event, ...]
    from_s: float
    until_s: float
    fan_ends_s: float
    changes: bool


def harm_of_setting(
    unit: Unit,
    events: Sequence[Event],
    now_s: float,
    setting: Setting,
    faults: Sequence[Fault],
    networks: Networks | None = None,
) -> Said:
    """What harm the setting would do with these faults, in words; empty where it does none.

    ``events`` are the visit's, ``now_s`` its time (s). Readings in the state as it stands bring
    nothing about; a wait in it counts. ``networks``: those of the unit that were solved before.
    """
    before = state_at(unit, events, now_s)
    if setting.driven and any(f.mode == "coil-shorted" for f in faults):
        return say("safety.harm.bench-supply-would-drive")
    if setting.power is not None and setting.power != ON:
        return NOTHING
    if _starts_twice(events, before, setting, now_s):
        return say("safety.harm.compressor-would-start-twice")
    plan = _plan(unit, events, before, setting, now_s)
    if not plan.changes and setting.after_s is None:
        return NOTHING
    if plan.changes and any(f.mode == "grounded" for f in faults) and _energises(before, setting):
        return say("safety.harm.frame-may-energised")
    key = (unit, tuple(f.id for f in faults), plan.events, plan.from_s, plan.until_s)
    return _KEPT.get_or_make(key, lambda: _run(unit, plan, faults, networks))


_KEPT: Cache[tuple[object, ...], Said] = Cache("harm", MEGABYTE, lambda _said: 400)


def _energises(before: PanelState, setting: Setting) -> bool:
    """A breaker closes, or another call closes a rung."""
    newly = (setting.calls or frozenset()) - before.calls
    return setting.power == ON or bool(newly & HEAT_CALLS)


def _starts_twice(events: Sequence[Event], before: PanelState, setting: Setting, now_s: float) -> bool:
    if setting.calls is None or "Y" not in setting.calls or "Y" in before.calls:
        return False
    asked = [e.t_s for e in events if isinstance(e, Calls) and "Y" in e.calls]
    ended_s = before.ended_s.get("Y", max(asked, default=-1e9))
    return now_s - ended_s < COMPRESSOR_REST_S


def _plan(unit: Unit, events: Sequence[Event], before: PanelState, setting: Setting, now_s: float) -> Course:
    """The visit's switches, those of the setting, the wait and the reading, and the end of it."""
    moved = [e.moved_to(e.t_s) for e in as_it_was(e for e in events if e.is_switch)]
    t_s = max(now_s, moved[-1].t_s if moved else 0.0)
    own: list[Event] = []
    if setting.lifted and not before.lifted:
        own.append(Wires(t_s=t_s, state=LIFTED))
    if setting.power == ON:
        own.append(Power(t_s=t_s, state=ON, circuit=setting.circuit))
    calls = before.calls if setting.calls is None else setting.calls
    if setting.guard is not None and before.calls != setting.guard.begins:
        own.append(Calls(t_s=t_s, calls=setting.guard.begins))
        t_s += all_on_s(unit)
    if setting.fresh:
        own.append(Calls(t_s=t_s, calls=frozenset()))
        t_s += all_off_s(unit)
    if setting.calls is not None:
        own.append(Calls(t_s=t_s, calls=calls))
    last_s = own[-1].t_s if own else max((e.t_s for e in moved), default=0.0)
    reading_s = READING_S if setting.guard is None else setting.guard.at_most_s
    end_s = max(t_s, last_s + (setting.after_s or 0.0)) + reading_s
    ending = [*_ending(calls if setting.guard is None else calls | setting.guard.ends, end_s)]
    until_s = (ending[-1].t_s if ending else end_s) + all_off_s(unit)
    from_s = own[0].t_s if own else now_s
    fan_ends_s = ending[-1].t_s if ending else until_s
    return Course((*moved, *own, *ending), from_s, until_s, fan_ends_s, bool(own))


def _ending(calls: frozenset[str], end_s: float) -> Iterator[Event]:
    if calls & HEAT_CALLS:
        yield Calls(t_s=end_s, calls=calls - HEAT_CALLS)
        end_s += FAN_AFTER_HEAT_S
    if calls - HEAT_CALLS:
        yield Calls(t_s=end_s, calls=frozenset())


def _run(unit: Unit, plan: Course, faults: Sequence[Fault], networks: Networks | None) -> Said:
    wiring = wire_up(unit)
    effects = effects_of(wiring, faults)
    moments = list(moments_until(wiring, effects, plan.events, plan.until_s, networks=networks))
    blown = alone = False
    alone_since_s: float | None = None
    for moment, after in zip(moments, [*moments[1:], None], strict=True):
        if moment.t_s < plan.from_s and (after is None or after.t_s <= plan.from_s):
            blown, alone = moment.fuse_blown, _heats(unit, moment) and not moment.blower_runs
            continue
        if moment.t_s >= plan.fan_ends_s and _heats(unit, moment):
            break  # what draws after its call has ended is found before the fan is
        if moment.fuse_blown and not blown:
            return say("safety.harm.control-fuse-would-blow")
        if _overloads(unit, moment):
            return say("safety.harm.transformer-which-has-no")
        blown = moment.fuse_blown
        if _through_relay(unit, moment):
            return say("safety.harm.element-current-would-flow")
        if not _heats(unit, moment) or moment.blower_runs or alone:
            # What stood so before, no setting brings about; air only makes it better.
            alone_since_s = None
            continue
        began_s = max(moment.t_s, plan.from_s)
        alone_since_s = began_s if alone_since_s is None else alone_since_s
        ends_s = after.t_s if after is not None else plan.until_s
        if ends_s - alone_since_s > WITHOUT_AIR_S:
            return say("safety.harm.element-would-draw-without")
    return NOTHING


def ran_without_air(
    unit: Unit, events: Sequence[Event], until_s: float, faults: Sequence[Fault]
) -> float | None:
    """When, with these faults, an element last drew without the blower for longer than it may, s;
    None where the visit's own calls never brought that about by ``until_s``."""
    wiring = wire_up(unit)
    switches = [e.moved_to(e.t_s) for e in as_it_was(e for e in events if e.is_switch)]
    moments = list(moments_until(wiring, effects_of(wiring, faults), switches, until_s))
    began_s = last_s = None
    for moment, after in zip(moments, [*moments[1:], None], strict=True):
        if moment.blower_runs or not _heats(unit, moment):
            began_s = None
            continue
        began_s = moment.t_s if began_s is None else began_s
        ends_s = until_s if after is None else after.t_s
        if ends_s - began_s > WITHOUT_AIR_S:
            last_s = ends_s
    return last_s


def _heats(unit: Unit, moment: Moment) -> bool:
    return any(abs(moment.solution.amp(e.id)) >= floor_of(e) for e in unit.elements)


def _overloads(unit: Unit, moment: Moment) -> bool:
    """A transformer that nothing protects carries far more than it is made for."""
    power = unit.control_power
    most = OVERLOAD_MULTIPLE * power.va / power.volts
    return power.fuse_amps is None and abs(moment.solution.amp("transformer")) > most


def _through_relay(unit: Unit, moment: Moment) -> bool:
    relay, blower = unit.relay, unit.blower
    if relay is None or blower is None:
        return False
    most = abs(moment.solution.amp("blower")) + CONTACT_SPARE_AMPS
    branches = moment.solution.topology.branch_index
    return any(
        abs(moment.solution.amp(name)) > most
        for name in (f"{relay.id}.no", f"{relay.id}.nc")
        if name in branches
    )
