"""The states to read in: the unit as it is, and those that it can be brought into."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from plentar.core.circuit.network import Index, Real
from plentar.core.circuit.wiring import Mask
from plentar.core.judge.plan.survivors import Survivors
from plentar.core.judge.shown.runs import VariantRun
from plentar.core.judge.shown.scenes import Scene, Scenes, scenes_of
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judgement import NONE, Setting
from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th
from plentar.core.tables.planning import CALL_MINUTES, JUMPER_MINUTES, OUTDOOR_MINUTES, POWER_ON_MINUTES
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.visit.draws import dead_blower_amps
from plentar.core.visit.events import ON, Event, Observed
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState, all_off_s, all_on_s, state_at

STEP_S = 20.0
#: Scenes to propose once the blower was seen to run on heat, and until then.
BLOWER_KNOWN = frozenset({"heat", "late-heat", "heat-ended", "jumper", "fan", "cooling"})
WITH_AIR = frozenset({"heat-air", "late-heat-air", "heat-ended-air", "jumper-air", "fan", "cooling"})
#: The compressor is called for what only cooling shows.
COOLING_FOR = frozenset(
    {"heat-in-cooling", "control-fuse-blows", "blower-will-not-run", "no-power", "check-up", None}
)
#: SurvivorStates of one survivor that are looked at.
STATES_OF_EACH = 3


def needs_air(evidence: Evidence) -> bool:
    """Nobody has seen yet that the blower runs on heat alone: heat is called with the fan."""
    unit = evidence.unit
    if unit.blower is None or unit.fan_call is None:
        return False
    floor = dead_blower_amps(unit)

    def alone(calls: frozenset[str]) -> bool:
        return bool(calls & HEAT_CALLS) and unit.fan_call not in calls

    if any(t.reading.value >= floor and alone(t.state.calls) for t in evidence.at("blower", Quantity.AMPS)):
        return False
    events = evidence.visit.events
    return not any(
        seen.part == "blower" and seen.action == ON and alone(state_at(unit, events, seen.t_s).calls)
        for seen in evidence.visit.of_kind(Observed)
    )


@dataclass(frozen=True)
class ReadableState:
    """A state to read in: what every survivor shows there, and what it costs to get there.

    ``weights`` (members, states) are those of each one's likelier states, the likeliest first,
    ``rows`` (members, states, corners) their networks; ``cycling`` the limits that may cycle.
    """

    setting: Setting
    calls: frozenset[str]
    minutes: float
    weights: Real
    rows: Index
    cycling: Sequence[frozenset[str]]
    heats: bool
    heats_long: bool


def readable_states(posterior: Posterior, survivors: Survivors) -> Iterator[ReadableState]:
    """The state as it is, once its windows are over, and those that can be reached."""
    unit, events = posterior.evidence.unit, posterior.evidence.visit.events
    scenes = scenes_of(posterior.workspace)
    now_s = _soon_s(events)
    state = state_at(unit, events, now_s)
    changed_s = max((e.t_s for e in events if e.is_switch), default=None)
    since_s = now_s - changed_s if changed_s is not None else 1e9
    off_s = all_off_s(unit) + _in_doubt_s(posterior, state)
    if state.live:
        yield _as_it_is(posterior, survivors, state, now_s, since_s, off_s)
    blown = _blown(survivors, now_s)
    usual = WITH_AIR if needs_air(posterior.evidence) else BLOWER_KNOWN
    complaint = posterior.evidence.visit.complaint
    for scene in scenes.scenes.values():
        if scene.name not in usual or (scene.name == "cooling" and complaint not in COOLING_FOR):
            continue
        reached = _reach(scenes, scene, state, since_s, off_s)
        if reached is not None:
            setting, minutes = reached
            yield _in_scene(survivors, scenes, scene, setting, minutes, blown)


def _as_it_is(
    posterior: Posterior, survivors: Survivors, state: PanelState, now_s: float, since_s: float, off_s: float
) -> ReadableState:
    """``off_s`` is how long to wait after the end of heat."""
    unit = posterior.evidence.unit
    heat_ended = bool(state.ended_s.keys() & HEAT_CALLS) and not state.calls & HEAT_CALLS
    over_s = off_s if heat_ended else all_on_s(unit) if state.calls else all_off_s(unit)
    events = posterior.evidence.visit.events
    # Whoever has just switched reads at once, unless the card says to wait; after a reading the next takes time.
    step_s = STEP_S if events and events[-1].is_switch else 0.0
    wait_s = max(0.0, over_s - max(0.0, since_s - step_s))
    history = posterior.history
    t_s = history.time(now_s + wait_s)
    places = [
        Place(members, ensemble.run(history.switched, t_s), t_s, variants)
        for ensemble, members, variants in survivors.by_ensemble
    ]
    setting = Setting(after_s=math.ceil(over_s) if wait_s else None)
    heats = bool(state.calls & HEAT_CALLS)
    steady = heats and since_s + wait_s >= th.STEADY_AIR_S
    return _readable(survivors, setting, state.calls, wait_s / 60, places, heats, steady)


@dataclass(frozen=True, slots=True)
class Place:
    """Where some members of the survivors readable: in a run, at a time, as which variants."""

    members: Index
    run: VariantRun
    t_s: float
    variants: Index


def _readable(
    survivors: Survivors,
    setting: Setting,
    calls: frozenset[str],
    minutes: float,
    places: Sequence[Place],
    heats: bool,
    steady: bool,
) -> ReadableState:
    count = len(survivors.members)
    shown = [place.run.at(place.t_s) for place in places]
    corners = max(one.rows.shape[2] for one in shown)
    weights = np.zeros((count, STATES_OF_EACH))
    rows = np.zeros((count, STATES_OF_EACH, corners), dtype=np.intp)
    cycling = [frozenset[str]()] * count
    for place, one in zip(places, shown, strict=True):
        of = place.variants
        some = one.rows[of, :STATES_OF_EACH]
        states, own = some.shape[1:]
        weights[place.members, :states] = one.weights[of, :STATES_OF_EACH]
        rows[place.members, :states, :own] = some
        rows[place.members, :states, own:] = some[..., :1]
        limits = place.run.cycling(place.t_s) if heats else []
        if any(limits):
            for member, variant in zip(place.members.tolist(), of.tolist(), strict=True):
                cycling[member] = limits[variant]
    return ReadableState(setting, calls, minutes, weights, rows, cycling, heats, steady)


def _blown(survivors: Survivors, now_s: float) -> Mask:
    """Whose fuse has blown on this visit: (members,)."""
    history = survivors.posterior.history
    t_s = history.time(now_s)
    found = np.zeros(len(survivors.members), dtype=bool)
    for ensemble, members, variants in survivors.by_ensemble:
        found[members] = np.array(ensemble.run(history.switched, t_s).blown(t_s))[variants]
    return found


def _in_doubt_s(posterior: Posterior, state: PanelState) -> float:
    """How much longer than its windows to wait after the end of heat, s.

    A current that is typed in the minute after them may have been seen before: it is no evidence
    (``Evidence.take``). Where a weld is suspected, or was seen in that minute, it is waited out. Of a sound unit
    0 A is expected, which counts at once.
    """
    since_s = max((s for call, s in state.ended_s.items() if call in HEAT_CALLS), default=math.inf)
    refused = any(
        not taken.counts and taken.reading.quantity is Quantity.AMPS and taken.reading.t_s >= since_s
        for taken in posterior.evidence.taken
    )
    sound = posterior.hypotheses[posterior.leader].id == NONE
    return 0.0 if sound and not refused else float(th.TYPED_WITHIN_S)


def _reach(
    scenes: Scenes, scene: Scene, state: PanelState, since_s: float, off_s: float
) -> tuple[Setting, float] | None:
    """How to get from here to a scene, and how long it takes; None where it is here or far. ``off_s`` is how
    long to wait after the end of heat."""
    power = None if state.live else ON
    minutes = 0.0 if state.live else POWER_ON_MINUTES
    here = state.calls == scene.calls and state.lifted == scene.lifted and state.live
    if state.lifted and not scene.lifted:
        return None  # the wires go back by an act of their own
    if scene.name.startswith("late-heat"):
        if not (here and scene.calls):
            return None
        left_s = max(0.0, scene.after_s - since_s)
        return Setting(after_s=math.ceil(scene.after_s)), left_s / 60 + 0.01
    if here and scene.name not in ("heat", "heat-air"):
        return None
    heated = bool(state.calls & HEAT_CALLS)
    ends = scene.name.startswith("heat-ended")
    if ends != heated and not scene.calls & HEAT_CALLS and scene.name != "cooling":
        return None  # after heat its end is proposed, before it the fan alone
    if here:  # the same heat again, from rest: for what acts late
        minutes = (scenes.off_s + scene.after_s) / 60 + 2 * CALL_MINUTES
        return Setting(calls=scene.calls, fresh=True, after_s=math.ceil(scene.after_s)), minutes
    after_s = scene.after_s
    if heated and not scene.calls & HEAT_CALLS:
        after_s = max(after_s, off_s)
    minutes += CALL_MINUTES + after_s / 60
    minutes += JUMPER_MINUTES if scene.lifted else 0.0
    minutes += OUTDOOR_MINUTES if "Y" in scene.calls else 0.0
    lifted = True if scene.lifted else None
    return Setting(power, None, scene.calls, lifted, math.ceil(after_s)), minutes


def in_scene(
    survivors: Survivors, scenes: Scenes, scene: Scene, setting: Setting, minutes: float, posterior: Posterior
) -> ReadableState:
    """A scene as every survivor shows it, reached by a setting; its fuse may have blown on this visit."""
    events = posterior.evidence.visit.events
    return _in_scene(survivors, scenes, scene, setting, minutes, _blown(survivors, _soon_s(events)))


def _soon_s(events: Sequence[Event]) -> float:
    return (events[-1].t_s if events else 0.0) + STEP_S


def _in_scene(
    survivors: Survivors, scenes: Scenes, scene: Scene, setting: Setting, minutes: float, blown: Mask
) -> ReadableState:
    places = []
    first = np.zeros(1, dtype=np.intp)
    for ensemble, members, variants in survivors.by_ensemble:
        gone = blown[members]
        if not gone.all():
            run, t_s = scenes.of(ensemble).place(scene.name)
            places.append(Place(members[~gone], run, t_s, variants[~gone]))
        for member, variant in zip(members[gone], variants[gone].tolist(), strict=True):
            run, t_s = scenes.of(ensemble.blown(variant)).place(scene.name)
            places.append(Place(member[None], run, t_s, first))
    heats = bool(scene.calls & HEAT_CALLS)
    steady = heats and scene.after_s >= th.STEADY_AIR_S
    return _readable(survivors, setting, scene.calls, minutes, places, heats, steady)
