"""The next reading: which tells most of what to work on, for the least time and risk.

Every reading that the unit allows is weighed in every state that it can be brought into: how
much it is expected to narrow the decisions, in bits, over what it costs in minutes, with a
surcharge for what can hurt. Nothing is proposed that the gates forbid: ohms only after proving
dead, which costs its minutes.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, partial

import numpy as np

from plentar.core.events import Calls, Event, Observed, Power
from plentar.core.judge.atlas import Ensemble, History, Run, Shown
from plentar.core.judge.complaints import scenes_of
from plentar.core.judge.hypotheses import decision_of
from plentar.core.judge.likelihood import (
    CYCLING_SEEN,
    MISREAD,
    OHM,
    STEADY_AIR_S,
    TEMP,
    UF,
    UNKNOWN_RETURN_ERROR_F,
    UNKNOWN_RETURN_F,
    A,
    Floats,
    V,
    boxes,
    cold_arrays,
    density,
)
from plentar.core.judge.probes import Probe
from plentar.core.judge.scenes import Scene, Scenes
from plentar.core.judge.suspects import Posterior, Weighed
from plentar.core.meter import ACCURACY
from plentar.core.network import Index, Real
from plentar.core.points import Point, points, resolve
from plentar.core.quantity import Quantity
from plentar.core.state import ON, PROVED_DEAD, PanelState, all_off_s, all_on_s, state_at
from plentar.core.unit import Unit

#: A decision this sure is made.
CLEAR = 0.95
#: Hypotheses looked at, outcomes tried for each reading, proposals given.
SURVIVORS, ATOMS, PROPOSALS = 44, 14, 4
BEST_OF_A_STATE = 14
LEAST_PROBABILITY = 2e-4
#: States of one survivor that are looked at, and the least likely of them.
STATES_OF_EACH, LEAST_STATE = 3, 0.02
#: A reading that is expected to tell less than this many bits would change nothing.
LEAST_BITS = 0.02
#: … and one that makes the decision right less often than this more, not the decision.
LEAST_RIGHTER = 0.025
LEAST_STEP_BITS = 0.12
#: After so many readings patience wears thin.
PATIENT_READINGS = 4
#: Below this no decision is even leant to, and any bit helps.
LEANS = 0.5
#: What a decision that is right for certain is worth, in bits.
RIGHTER_BITS = 4.0
#: With the part decided: the fault is named from this share; else what naming it may cost.
NAMED, WORTH_NAMING_BITS, WORTH_NAMING_MINUTES = 0.85, 0.25, 3.5
#: The same reading in the same state is proposed again this often at most.
MOST_REPEATS = 2
#: What telling faults of one part apart is worth beside telling parts apart.
FAULT_SHARE = 0.1
#: Minutes of a reading, and what a minute of its hazard counts.
MINUTES = {A: 0.5, V: 1.0, Quantity.VOLTS_DC: 1.0, OHM: 2.0, TEMP: 1.5, UF: 2.5}
LESS_USUAL_MINUTES = 0.1
PAIR_OF_NODES_MINUTES, CONTROL_AMPS_MINUTES, CYCLING_MINUTES = 1.3, 1.2, 10.0
SURCHARGE = {"clamp": 1.0, "live": 1.4, "lifting": 1.6, "dead": 1.5}
PROVE_DEAD_MINUTES, MORE_CIRCUITS_MINUTES, POWER_ON_MINUTES, CALL_MINUTES = 4.0, 1.5, 1.0, 0.3
JUMPER_MINUTES, OUTDOOR_MINUTES = 2.0, 1.0
#: How many deviations either way the supply is taken to be open.
SUPPLY_SPREADS = 1.5
#: What every reading costs, however quick: walking the probes over, and keying it in.
EACH_MINUTES = 6.0
STEP_S = 20.0
LATER_S = 3600.0


@dataclass(frozen=True, slots=True)
class Outcome:
    """A stretch of readings and the decisions that it leaves, likeliest first."""

    low: float
    high: float
    probability: float
    decisions: tuple[tuple[str, float], ...]


@dataclass(frozen=True, slots=True)
class Told:
    """What a reading is expected to tell: bits on the decision and on the fault, and how much
    more often the decision would be right after it."""

    on_decision: float
    on_fault: float
    righter: float


@dataclass(frozen=True)
class Proposal:
    """One reading (or observation) worth taking.

    ``setting`` is what to do before, in the contract's terms; ``minutes`` with everything that goes before it.
    """

    quantity: Quantity | None
    at: str
    setting: dict[str, object]
    told: Told
    minutes: float
    hazard: str
    find_outcomes: Callable[[], tuple[Outcome, ...]]
    driven: bool = False
    observe: str = ""

    @cached_property
    def outcomes(self) -> tuple[Outcome, ...]:
        """What it may read and what that leaves; worked out when asked."""
        return self.find_outcomes()


@dataclass(frozen=True)
class _Field:
    """The surviving hypotheses: where they stand, how likely, and what each decides."""

    posterior: Posterior
    members: list[tuple[Weighed, int]]
    p: Real
    of_decision: Real
    of_fault: Real
    names: list[str]
    atoms: Index

    @cached_property
    def by_ensemble(self) -> list[tuple[Ensemble, Index, Index]]:
        """The members of each ensemble: where they stand here, and which variants they are."""
        found: dict[int, tuple[Ensemble, list[int], list[int]]] = {}
        for row, (weighed, v) in enumerate(self.members):
            _, rows, variants = found.setdefault(id(weighed), (weighed.ensemble, [], []))
            rows.append(row)
            variants.append(v)
        return [(e, np.array(rows), np.array(vs)) for e, rows, vs in found.values()]

    def told(self, likelihood: Floats) -> tuple[Floats, Floats, Floats]:
        """What readings tell, of likelihoods (…, atoms, members) of what each atom would read:
        bits on the decision, bits on the fault, and how much more often the decision would be
        right."""
        weights = self.p[self.atoms]
        joint = likelihood * self.share.astype(likelihood.dtype)
        total = joint.sum(axis=-1)
        by_decision = joint @ self.of_decision.astype(likelihood.dtype)
        on_decision = (weights * self._bits(joint, total, self.of_decision)).sum(axis=-1)
        on_fault = (weights * self._bits(joint, total, self.of_fault)).sum(axis=-1)
        best_now = int(np.argmax(self.share @ self.of_decision))
        gained = by_decision.max(axis=-1) - by_decision[..., best_now]
        righter = (weights * (gained / total)).sum(axis=-1)
        return on_decision, on_fault, righter

    @cached_property
    def share(self) -> Real:
        """Of each member, together 1."""
        return np.asarray(self.p / self.p.sum())

    def _bits(self, joint: Floats, total: Floats, groups: Real) -> Floats:
        """How much each atom's reading speaks for the atom's own group, in bits: (…, atoms)."""
        own_groups = groups[self.atoms]
        own = np.einsum("...am,am->...a", joint, (own_groups @ groups.T).astype(joint.dtype))
        own_p = own_groups @ (self.share @ groups)
        return np.asarray(np.log2(own / (own_p * total)))


@dataclass(frozen=True)
class _Stand:
    """A state to read in: what every survivor shows there, and what it costs to get there."""

    setting: dict[str, object]
    minutes: float
    shown: list[Shown]
    cycling: Sequence[frozenset[str]]
    heats: bool
    heats_long: bool


def next_readings(posterior: Posterior) -> tuple[Proposal, ...]:
    """Readings worth taking, the best first; none when the decision is made or can't be moved."""
    if posterior.probabilities[:-1].max() >= CLEAR:
        return ()
    if decided(posterior) and posterior.probabilities[:-1].max() >= NAMED * posterior.surest:
        return ()
    survivors = _field(posterior)
    if len(survivors.names) < 2:
        return ()
    found = [
        proposal
        for stand in _stands(posterior, survivors)
        for proposal in _in_stand(survivors, stand)
    ]
    found += _cold(survivors)
    often = _read_often(posterior)
    found = [p for p in found if not often(p)]
    if decided(posterior):
        found = [p for p in found if _tells_the_fault(p)]
    elif posterior.surest > LEANS and not any(_moves(p, _patience(posterior)) for p in found):
        return ()
    found.sort(key=_worth, reverse=True)
    chosen: list[Proposal] = []
    unit = posterior.evidence.unit
    for proposal in found:
        if not any(_alike(proposal, other, unit) for other in chosen):
            chosen.append(proposal)
        if len(chosen) == PROPOSALS:
            break
    return tuple(chosen)


def _read_often(posterior: Posterior) -> Callable[[Proposal], bool]:
    """Whether a proposal has been read often enough in the state that it asks for."""
    unit, events = posterior.evidence.unit, posterior.evidence.visit.events
    state = state_at(unit, events, events[-1].t_s if events else 0.0)
    seen = Counter(
        (t.reading.at, t.reading.quantity, t.reading.driven, t.state.calls, t.state.lifted)
        for t in posterior.evidence.taken
        if t.counts
    )

    def often(proposal: Proposal) -> bool:
        if proposal.quantity is None:
            return any(e.part == proposal.at for e in posterior.evidence.visit.of_kind(Observed))
        setting = proposal.setting
        asked = setting.get("calls")
        calls = frozenset(map(str, asked)) if isinstance(asked, list) else state.calls
        lifted = bool(setting.get("lifted", False if "calls" in setting else state.lifted))
        key = (proposal.at, proposal.quantity, proposal.driven, calls, lifted)
        return seen[key] >= MOST_REPEATS

    return often


def _alike(one: Proposal, other: Proposal, unit: Unit) -> bool:
    """The same reading, or one of the same current in the same state: no second offer."""
    if (one.at, one.quantity) == (other.at, other.quantity):
        return True
    if not one.quantity == other.quantity == A or one.setting != other.setting:
        return False
    return bool(_carriers(one.at, unit) & _carriers(other.at, unit))


def _carriers(at: str, unit: Unit) -> set[str]:
    """The rungs, or the feed, that a clamp here takes in."""
    rungs = {element.id for element in unit.elements if at in element.rung}
    return rungs or {resolve(unit, at).component}


def decided(posterior: Posterior) -> bool:
    """What to work on is clear; what else may be wrong beside it shows once that is mended."""
    return posterior.surest >= CLEAR


def _patience(posterior: Posterior) -> float:
    """The longer it has taken, the more one reading more must promise."""
    return max(1.0, len(posterior.items) / PATIENT_READINGS) ** 2


def _moves(proposal: Proposal, times: float) -> bool:
    """It may change the decision, or is a step on the way to what may."""
    told = proposal.told
    return told.righter >= times * LEAST_RIGHTER or told.on_decision >= times * LEAST_STEP_BITS


def _tells_the_fault(proposal: Proposal) -> bool:
    """With the part known: worth a moment to say what failed in it."""
    return proposal.told.on_fault >= WORTH_NAMING_BITS and proposal.minutes <= WORTH_NAMING_MINUTES


def _worth(proposal: Proposal) -> float:
    told = proposal.told
    bits = told.on_decision + FAULT_SHARE * told.on_fault + RIGHTER_BITS * told.righter
    return bits / ((proposal.minutes + EACH_MINUTES) * SURCHARGE[proposal.hazard])


def _field(posterior: Posterior) -> _Field:
    found = [one for one in posterior.variants() if one[0] > LEAST_PROBABILITY]
    found.sort(key=lambda one: -one[0])
    found = found[:SURVIVORS]
    unit = posterior.evidence.unit
    hypotheses = [weighed.ensemble.hypotheses[weighed.ensemble.owner[v]] for _, weighed, v in found]
    decisions = [decision_of(unit, hypothesis) for hypothesis in hypotheses]
    names = list(dict.fromkeys(decisions))
    ids = list(dict.fromkeys(hypothesis.id for hypothesis in hypotheses))
    of_decision = np.zeros((len(found), len(names)))
    of_fault = np.zeros((len(found), len(ids)))
    for row, (name, hypothesis) in enumerate(zip(decisions, hypotheses, strict=True)):
        of_decision[row, names.index(name)] = 1.0
        of_fault[row, ids.index(hypothesis.id)] = 1.0
    members = [(weighed, v) for _, weighed, v in found]
    weights = np.array([p for p, _, _ in found])
    atoms = np.arange(min(ATOMS, len(found)))
    return _Field(posterior, members, weights, of_decision, of_fault, names, atoms)


# -- states ---------------------------------------------------------------------------------


def _stands(posterior: Posterior, survivors: _Field) -> Iterator[_Stand]:
    """The state as it is, once its windows are over, and those that can be reached."""
    unit, events = posterior.evidence.unit, posterior.evidence.visit.events
    scenes = scenes_of(posterior.atlas)
    now_s = (events[-1].t_s if events else 0.0) + STEP_S
    state = state_at(unit, events, now_s)
    changed_s = max((e.t_s for e in events if isinstance(e, (Power, Calls))), default=None)
    since_s = now_s - changed_s if changed_s is not None else 1e9
    if state.live:
        yield _as_it_is(posterior, survivors, scenes, state, now_s, since_s)
    blown = _blown(survivors, now_s)
    for scene in scenes.scenes.values():
        reached = _reach(scenes, scene, state, since_s)
        if reached is not None:
            setting, minutes = reached
            future = _future(posterior.told, scene, now_s, scenes)
            yield _scene_stand(survivors, scenes, scene, setting, minutes, blown, future)


def _as_it_is(
    posterior: Posterior,
    survivors: _Field,
    scenes: Scenes,
    state: PanelState,
    now_s: float,
    since_s: float,
) -> _Stand:
    unit = posterior.evidence.unit
    over_s = all_on_s(unit) if state.calls else all_off_s(unit)
    wait_s = max(0.0, over_s - since_s)
    told = posterior.told
    t_s = told.time(now_s + wait_s)
    runs = [weighed.ensemble.run(told.switched, t_s) for weighed, _ in survivors.members]
    setting: dict[str, object] = {}
    if wait_s:
        setting["after_s"] = math.ceil(over_s)
    heats = bool(state.calls & {"W1", "W2"})
    members = list(zip(runs, survivors.members, strict=True))
    return _Stand(
        setting,
        wait_s / 60,
        [_shown(run, v, t_s) for run, (_, v) in members],
        [run.cycling(t_s)[v] for run, (_, v) in members] if heats else (),
        heats,
        heats and since_s + wait_s >= STEADY_AIR_S,
    )


def _shown(run: Run, v: int, t_s: float) -> Shown:
    """What one variant of a run shows."""
    whole = run.at(t_s)
    return Shown(whole.weights[v], whole.rows[v])


def _blown(survivors: _Field, now_s: float) -> list[bool]:
    """Whose fuse has blown on this visit."""
    told = survivors.posterior.told
    t_s = told.time(now_s)
    return [
        weighed.ensemble.run(told.switched, t_s).blown(t_s)[v] for weighed, v in survivors.members
    ]


def _reach(
    scenes: Scenes, scene: Scene, state: PanelState, since_s: float
) -> tuple[dict[str, object], float] | None:
    """How to get from here to a scene, and how long it takes; None where it is here or far."""
    setting: dict[str, object] = {}
    minutes = 0.0
    if not state.live:
        setting["power"] = ON
        minutes += POWER_ON_MINUTES
    here = state.calls == scene.calls and state.lifted == scene.lifted and state.live
    if scene.name == "rest":
        return None  # as it is, or what heat-ended shows
    if scene.name == "late-heat":
        if not (here and scene.calls):
            return None
        return {"after_s": math.ceil(scene.after_s)}, max(0.0, scene.after_s - since_s) / 60 + 0.01
    if here and scene.name != "heat":
        return None
    if scene.name == "heat-ended" and not state.calls & {"W1", "W2"}:
        return None
    if here:  # the same heat again, from rest: for what acts late
        fresh = (scenes.off_s + scene.after_s) / 60 + 2 * CALL_MINUTES
        return {
            "calls": sorted(scene.calls),
            "fresh": True,
            "after_s": math.ceil(scene.after_s),
        }, fresh
    setting["calls"] = sorted(scene.calls)
    after_s = scene.after_s
    if not scene.calls & {"W1", "W2"} and state.calls & {"W1", "W2"}:
        after_s = max(after_s, scenes.off_s)
    minutes += CALL_MINUTES + after_s / 60
    if scene.lifted:
        setting["lifted"] = True
        minutes += JUMPER_MINUTES
    if "Y" in scene.calls:
        minutes += OUTDOOR_MINUTES
    setting["after_s"] = math.ceil(after_s)
    return setting, minutes


def _scene_stand(
    survivors: _Field,
    scenes: Scenes,
    scene: Scene,
    setting: dict[str, object],
    minutes: float,
    blown: list[bool],
    future: tuple[tuple[Event, ...], float],
) -> _Stand:
    singles = scenes.atlas.singles
    heats = bool(scene.calls & {"W1", "W2"})
    shown: list[Shown] = []
    cycling: list[frozenset[str]] = []
    for row, (weighed, v) in enumerate(survivors.members):
        if weighed.ensemble is singles and blown[row]:
            at, run, t_s = 0, singles.alone(v).run(*future), future[1]
        else:
            at, (run, t_s) = v, scenes.of(weighed.ensemble).place(scene.name)
        shown.append(_shown(run, at, t_s))
        if heats:
            cycling.append(run.cycling(t_s)[at])
    return _Stand(setting, minutes, shown, cycling, heats, heats and scene.after_s >= STEADY_AIR_S)


def _future(
    told: History, scene: Scene, now_s: float, scenes: Scenes
) -> tuple[tuple[Event, ...], float]:
    """The visit's history gone on to a scene, and when that is looked at."""
    # Long after the last switch, whenever that is: so that the next reading finds it worked out.
    at_s = (told.switched[-1].t_s if told.switched else 0.0) + max(
        LATER_S, told.time(now_s) // LATER_S * LATER_S
    )
    more = Calls(t_s=at_s, calls=scene.calls, lifted=scene.lifted)
    return (*told.switched, more), at_s + max(scene.after_s, scenes.on_s)


# -- readings -------------------------------------------------------------------------------


@dataclass(frozen=True)
class _States:
    """What every survivor may show in a state, at some probes: boxes (states, probes), each with
    its weight and its survivor, the likeliest state of each first."""

    probes: Index
    low: Real
    high: Real
    scale: Real
    weights: Real
    owner: Index

    @cached_property
    def firsts(self) -> Index:
        """Where each survivor's states begin."""
        return np.flatnonzero(np.diff(self.owner, prepend=-1))


def _in_stand(survivors: _Field, stand: _Stand) -> Iterator[Proposal]:
    """Live readings of one state, and whether anything cycles in it."""
    states = _states(survivors, stand)
    low, high, scale = states.low, states.high, states.scale
    # Only what the model knows, and where some survivors can't be mistaken for others.
    known = ~np.isnan(low).any(axis=0)
    with np.errstate(invalid="ignore"):
        worth = np.flatnonzero(known & ((low - scale).max(axis=0) > (high + scale).min(axis=0)))
    if len(worth):
        table = survivors.posterior.atlas.rows.table
        misread = MISREAD * table.misread[states.probes[worth]].astype(np.float32)
        # Single precision is plenty for what may be read next, and twice as quick.
        lo, hi, sc = (one[:, worth].T.astype(np.float32, order="C") for one in (low, high, scale))
        x = ((lo + hi) / 2)[:, states.firsts[survivors.atoms]]  # likeliest state of each atom
        dens = density(x[:, :, None], lo[:, None], hi[:, None], sc[:, None])
        of_members = np.zeros((len(states.owner), len(survivors.members)), dtype=np.float32)
        of_members[np.arange(len(states.owner)), states.owner] = (1 - MISREAD) * states.weights
        like = np.asarray(dens @ of_members + misread[:, None, None])  # probes, atoms, members
        told = survivors.told(like)
        # The best of a state are enough: by what they tell, a minute of theirs taken as alike.
        best = np.argsort(-(told[0] + FAULT_SHARE * told[1] + RIGHTER_BITS * told[2]))
        for k in (n for n in best[:BEST_OF_A_STATE] if told[1][n] >= LEAST_BITS):
            tells = Told(*(float(t[k]) for t in told))
            probe = table.probes[states.probes[worth[k]]]
            yield _proposal(survivors, stand, probe, tells, states, int(worth[k]))
    yield from _cycling(survivors, stand)


def _states(survivors: _Field, stand: _Stand) -> _States:
    """The likelier states of every survivor at the probes that are worth a look."""
    counts = [
        max(1, sum(weight > LEAST_STATE for weight in shown.weights[:STATES_OF_EACH].tolist()))
        for shown in stand.shown
    ]
    of = np.repeat(np.arange(len(counts)), counts)
    share = np.concatenate([s.weights[:n] for s, n in zip(stand.shown, counts, strict=True)])
    share /= np.bincount(of, share)[of]
    corners = max(shown.rows.shape[1] for shown in stand.shown)
    numbers = np.empty((len(of), corners), dtype=np.intp)
    at = 0
    for shown, count in zip(stand.shown, counts, strict=True):
        some = shown.rows[:count]
        numbers[at : at + count, : some.shape[1]] = some
        numbers[at : at + count, some.shape[1] :] = some[:, :1]
        at += count
    probes, lugs = _probes(survivors, stand.heats_long)
    supply = np.array([weighed.supply[v] for weighed, v in survivors.members])[of][:, None, :]
    # The first volts at a circuit's lugs tell of the supply, and with it of all that is read
    # later: they are weighed as if the supply were known.
    doubt = SUPPLY_SPREADS * supply[..., 1] * ~lugs
    low, high, scale = boxes(
        survivors.posterior.atlas.rows, numbers, probes,
        (supply[..., 0] - doubt, supply[..., 0] + doubt),
    )  # fmt: skip
    return _States(probes, low, high, scale, share, of)


def _probes(survivors: _Field, heats_long: bool) -> tuple[Index, np.ndarray]:
    """The probes to look at, and which of them are volts at lugs nobody has read yet.

    The current of a rung is sought at its element and its switches; limits and links show no
    other. Air tells only once it is steady.
    """
    evidence = survivors.posterior.evidence
    table = survivors.posterior.atlas.rows.table.probes
    chosen = [
        n for n, probe in enumerate(table)
        if not (probe.quantity is A and probe.point.kind in ("limit", "link"))
        and (heats_long or probe.quantity is not TEMP)
    ]  # fmt: skip
    lugs = [
        table[n].quantity is V and table[n].point.kind == "circuit"
        and evidence.latest(table[n].point.name, V) is None
        for n in chosen
    ]  # fmt: skip
    return np.array(chosen, dtype=np.intp), np.array(lugs)


def _proposal(
    survivors: _Field,
    stand: _Stand,
    probe: Probe,
    told: Told,
    states: _States,
    column: int,
) -> Proposal:
    quantity, point = probe.quantity, probe.point
    minutes = MINUTES[quantity]
    if quantity is A and point.kind not in ("element", "circuit", "blower"):
        minutes += LESS_USUAL_MINUTES
    if ":" in point.name:
        minutes = PAIR_OF_NODES_MINUTES
    elif quantity is A and point.kind in ("coil", "terminal", "secondary", "primary"):
        minutes = CONTROL_AMPS_MINUTES
    return Proposal(
        quantity,
        point.name,
        stand.setting,
        told,
        stand.minutes + minutes,
        "clamp" if quantity in (A, TEMP) else "live",
        lambda: _live_outcomes(survivors, quantity, states, column),
    )


def _live_outcomes(
    survivors: _Field, quantity: Quantity, states: _States, column: int
) -> tuple[Outcome, ...]:
    """What one live reading may show; air is told as the thermometer shows it."""
    low, high = states.low[:, column], states.high[:, column]
    scale = states.scale[:, column]
    if quantity is TEMP:
        low, high = low + UNKNOWN_RETURN_F, high + UNKNOWN_RETURN_F
        scale = scale + UNKNOWN_RETURN_ERROR_F / 4
    return _outcomes(survivors, low, high, scale, states.weights, states.owner)


def _outcomes(
    survivors: _Field, low: Real, high: Real, scale: Real, weights: Real, owner: Index
) -> tuple[Outcome, ...]:
    """Readings that can't be told apart are one outcome; all arrays (states,)."""
    ends = [
        (low[n] - 2 * scale[n], high[n] + 2 * scale[n], int(m), float(weights[n]))
        for n, m in enumerate(owner)
        if weights[n] * survivors.p[m] > LEAST_PROBABILITY
    ]
    ends.sort(key=lambda end: end[0])
    groups: list[tuple[float, float, list[tuple[int, float]]]] = []
    for lo, hi, m, w in ends:
        if groups and lo <= groups[-1][1]:
            first, last, members = groups[-1]
            groups[-1] = (first, max(last, hi), [*members, (m, w)])
        else:
            groups.append((lo, hi, [(m, w)]))
    return tuple(
        _outcome(survivors, max(0.0, lo), max(0.0, hi), members) for lo, hi, members in groups
    )


def _outcome(
    survivors: _Field, low: float, high: float, members: list[tuple[int, float]]
) -> Outcome:
    p = np.zeros(len(survivors.p))
    for m, w in members:
        p[m] += survivors.p[m] * w
    decided = p @ survivors.of_decision
    total = float(decided.sum())
    order = np.argsort(-decided)[:3]
    named = tuple(
        (survivors.names[n], float(decided[n] / total)) for n in order if decided[n] > 0.02 * total
    )
    return Outcome(low, high, total / float(survivors.p.sum()), named)


def _either(
    survivors: _Field, ones: list[tuple[int, float]], zeros: list[tuple[int, float]]
) -> tuple[Outcome, ...]:
    return _outcome(survivors, 1, 1, ones), _outcome(survivors, 0, 0, zeros)


def _cycling(survivors: _Field, stand: _Stand) -> Iterator[Proposal]:
    """Watching one rung for ten minutes."""
    if not stand.heats:
        return
    if not any(stand.cycling):
        return
    for element in survivors.posterior.evidence.unit.elements:
        cycles = np.array([not some.isdisjoint(element.rung) for some in stand.cycling])
        share = float(survivors.p[cycles].sum() / survivors.p.sum())
        if not 0.01 < share < 0.99:
            continue
        like = np.where((cycles[:, None] == cycles[None, :]), CYCLING_SEEN, 1 - CYCLING_SEEN)
        like = like[survivors.atoms]
        told = Told(*map(float, survivors.told(like)))
        ones = [(int(m), 1.0) for m in np.flatnonzero(cycles)]
        zeros = [(int(m), 1.0) for m in np.flatnonzero(~cycles)]
        yield Proposal(
            None,
            element.id,
            stand.setting,
            told,
            stand.minutes + CYCLING_MINUTES,
            "clamp",
            partial(_either, survivors, ones, zeros),
            observe="cycling",
        )


# -- proved dead ----------------------------------------------------------------------------


def _cold(survivors: _Field) -> Iterator[Proposal]:
    """Ohms and microfarads, each with the proving that goes before."""
    unit, events = survivors.posterior.evidence.unit, survivors.posterior.evidence.visit.events
    state = state_at(unit, events, events[-1].t_s if events else 0.0)
    setting: dict[str, object] = {}
    before = 0.0
    if not state.proved_dead:
        setting = {"power": PROVED_DEAD}
        before = PROVE_DEAD_MINUTES + MORE_CIRCUITS_MINUTES * (len(unit.circuits) - 1)
    asked: list[tuple[Point, Quantity, bool, Real, Real, np.ndarray, Real]] = []
    likes: list[Real] = []
    for point, quantity, driven in cold_points(unit):
        bands = _bands(survivors, point, quantity, driven)
        if bands is None:
            continue
        low, high, open_ = bands
        if open_.all() or (not open_.any() and float(low.max()) <= float(high.min())):
            continue
        accuracy = ACCURACY[quantity]
        scale = ((low + high) / 2 * accuracy.share + accuracy.fixed) / 3.6
        x = ((low + high) / 2)[survivors.atoms]
        dens = density(x[:, None], low[None], high[None], scale[None])
        same = open_[survivors.atoms][:, None] == open_[None, :]
        like = np.where(open_[None, :] & same, 1.0, np.where(same, dens, 0.0))
        likes.append((1 - MISREAD) * like + MISREAD * 0.01)
        asked.append((point, quantity, driven, low, high, open_, scale))
    if not asked:
        return
    every = zip(*survivors.told(np.array(likes)), strict=True)
    for (point, quantity, driven, low, high, open_, scale), tells in zip(asked, every, strict=True):
        told = Told(*map(float, tells))
        if told.on_fault < LEAST_BITS:
            continue
        shown_low = np.where(open_, 1e6, low)
        shown_high = np.where(open_, 1e9, high)
        yield Proposal(
            quantity,
            point.name,
            {**setting, **({"driven": True} if driven else {})},
            told,
            before + MINUTES[quantity] + (1.0 if driven else 0.0),
            "dead",
            partial(
                _outcomes, survivors, shown_low, shown_high, np.where(open_, 0.0, scale),
                np.ones(len(low)), np.arange(len(low)),
            ),
            driven,
        )  # fmt: skip


def cold_points(unit: Unit) -> Iterator[tuple[Point, Quantity, bool]]:
    """What may be read proved dead, the last being whether the coil is driven for it."""
    for point in points(unit):
        if OHM in point.quantities:
            yield point, OHM, False
            if point.kind in ("switch", "contact"):
                yield point, OHM, True
        if UF in point.quantities:
            yield point, UF, False
    for name in (*(f"{e.id}.in:ground" for e in unit.elements), "R:ground"):
        yield resolve(unit, name), OHM, False
    used = {c.call for c in unit.controls if c.call} | {load.call for load in unit.other_loads}
    relay = unit.blower.relay if unit.blower else None
    for call in sorted(used | ({relay.call} if relay else set())):
        yield resolve(unit, f"{call}:ground"), OHM, False


def _bands(
    survivors: _Field, point: Point, quantity: Quantity, driven: bool
) -> tuple[Real, Real, np.ndarray] | None:
    """Least and most of every survivor, and which of them read open; None where unknown."""
    low = np.empty(len(survivors.members))
    high, open_ = np.empty_like(low), np.empty(len(low), dtype=bool)
    for ensemble, rows, variants in survivors.by_ensemble:
        lows, highs, opens = cold_arrays(ensemble, point, quantity, driven)
        low[rows], high[rows], open_[rows] = lows[variants], highs[variants], opens[variants]
    if np.isnan(low).any():
        return None
    return np.where(open_, 0.0, low), np.where(open_, 0.0, high), open_
