"""What is seen, heard and felt as evidence: a part acts, a limit cycles, a fuse is blown, a start on the relay
bench, a motor by hand and ear. Each is the share of such units in which it would be said."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise

import numpy as np

from plentar.core.circuit.faults import Effects
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.judge.shown.runs import VariantRun
from plentar.core.judge.weigh.observation import density
from plentar.core.quantity import Band
from plentar.core.said import Said, plain, say
from plentar.core.tables.assumptions import (
    ACTS_WHEN_STARTED,
    CYCLING_SEEN,
    EITHER,
    FELT,
    OBSERVED_ERROR_S,
    OBSERVED_RANGE_S,
    TRIED_RANGE_S,
)
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Felt, Observed, Tried, Visit
from plentar.core.visit.events.observed import FUSE

Seen = Observed | Tried | Felt
SEEN: tuple[type[Seen], ...] = (Observed, Tried, Felt)


def seen_in(visit: Visit) -> list[Seen]:
    """All of it in a visit, in order of time."""
    return [event for event in visit.events if isinstance(event, SEEN)]


def part_of(seen: Seen) -> str:
    return seen.device if isinstance(seen, Tried) else seen.part


def in_words(unit: Unit, seen: Seen) -> Said:
    part = said_of(unit, part_of(seen))
    match seen:
        case Observed():
            return say("because.seen", part=part, action=say(f"action.{seen.action}"))
        case Tried():
            if seen.after_s is None or not seen.acted:
                return say("because.started" if seen.acted else "because.not-started", part=part)
            return say("because.started-after", part=part, seconds=plain(seen.after_s))
        case Felt():
            return say("because.felt", part=part, what=say(f"felt.{seen.what}"))


def misread_of(seen: Seen) -> float:
    """The density of it as something else that was taken for it: of a time per second, else 1."""
    if isinstance(seen, Observed) and seen.action in ("on", "off"):
        return 1 / OBSERVED_RANGE_S
    return 1 / TRIED_RANGE_S if isinstance(seen, Tried) and seen.after_s is not None else 1.0


def share_of(run: VariantRun, ensemble: Ensemble, v: int, seen: Seen, t_s: float) -> float:
    """How many units with this variant would show it then; of a time, per second."""
    match seen:
        case Tried():
            return _started(ensemble, v, seen)
        case Felt():
            return _felt(ensemble, v, seen)
        case Observed() if seen.part == FUSE:
            return _fuse(run, ensemble, v, seen, t_s)
        case Observed() if seen.action in ("on", "off"):
            return _acted(run, ensemble, v, seen, t_s)
        case Observed():
            return _holds(run, ensemble, v, seen, t_s)


def _started(ensemble: Ensemble, v: int, seen: Tried) -> float:
    """A device whose coil is fed acts within its window, a slow one after it, one without a coil never.

    Of contacts that are stuck nobody knows whether the hand saw the armature or the contact.
    """
    effects, unit = ensemble.rows.effects(ensemble.variants[v].clock), ensemble.rows.wiring.unit
    windows, contacts = _contacts(ensemble, seen.device)
    longest_s = max((window.high for window in windows), default=0.0)
    stuck = contacts & (effects.network.always_open | effects.network.always_closed)
    acts = EITHER if stuck else ACTS_WHEN_STARTED
    if seen.device in effects.no_action and seen.device in unit.device_by_id:
        acts = 1 - ACTS_WHEN_STARTED
    if not seen.acted or seen.after_s is None:
        return acts if seen.acted else 1 - acts
    late = effects.slow.get(seen.device)
    low, high = (longest_s * late.low, longest_s * late.high) if late else (0.0, longest_s)
    ends, error_s = (np.array(low), np.array(high)), np.array(OBSERVED_ERROR_S)
    return acts * float(density(seen.after_s, *ends, error_s))


def _contacts(ensemble: Ensemble, device: str) -> tuple[list[Band], set[str]]:
    unit = ensemble.rows.wiring.unit
    control = unit.control_by_id.get(device)
    if control is not None:
        return [s.on_s for s in control.switches], {s.id for s in control.switches}
    relay = unit.relay
    return ([relay.on_s] if relay else []), {f"{device}.no", f"{device}.nc"}


def _felt(ensemble: Ensemble, v: int, seen: Felt) -> float:
    """By how the motor fails; what says nothing of it is as likely under each."""
    modes = {f.mode for f in ensemble.variants[v].clock if f.component == "blower"}
    shares: Mapping[str, float] = FELT.get(seen.what, {})
    return shares.get(next(iter(modes), ""), shares.get("", EITHER))


def _fuse(run: VariantRun, ensemble: Ensemble, v: int, seen: Observed, t_s: float) -> float:
    """Whether the control fuse is open by then, by itself or by what melted it."""
    effects: Effects = ensemble.rows.effects(ensemble.variants[v].clock)
    begun = [phase for phase in run.phases[v] if phase.early_s <= t_s]
    blown = FUSE in effects.network.always_open or (bool(begun) and begun[-1].fuse_blown)
    return CYCLING_SEEN if blown == (seen.action == "blown") else 1 - CYCLING_SEEN


def _holds(run: VariantRun, ensemble: Ensemble, v: int, seen: Observed, t_s: float) -> float:
    """Whether a limit, or an element's rung, cycles."""
    unit = ensemble.rows.wiring.unit
    element = unit.element_by_id.get(seen.part)
    watched = set(element.rung) if element else {seen.part}
    now = [phase for phase in run.phases[v] if phase.t_s <= t_s][-1]
    limits = {limit.id for limit in unit.limits}
    for other in unit.elements_through(seen.part) if seen.part in limits else ():
        own = limits.intersection(other.rung)
        if len(own) > 1 and own <= now.cycling:
            return EITHER  # the first that opens saves the others
    cycles = bool(now.cycling & watched)
    return CYCLING_SEEN if cycles == (seen.action == "cycling") else 1 - CYCLING_SEEN


def _acted(run: VariantRun, ensemble: Ensemble, v: int, seen: Observed, t_s: float) -> float:
    """Density of a part acting at a time: even over its window, blurred by the watch. A blower that was never seen
    to move may be said to be off all the same: at any time while it stands still."""
    turns_on = seen.action == "on"
    total = 0.0
    phases = run.phases[v]
    effects = ensemble.rows.effects(ensemble.variants[v].clock)
    stuck = seen.part in effects.network.always_open | effects.network.always_closed
    for before, after in pairwise(phases):
        if seen.part == "blower":
            moved = before.blower_runs != after.blower_runs and after.blower_runs == turns_on
        else:
            was, is_ = seen.part in before.closed, seen.part in after.closed
            moved = was != is_ and is_ == turns_on and not stuck
        if moved:
            low, high = np.array(after.early_s), np.array(after.late_s)
            total += float(density(t_s, low, high, np.array(OBSERVED_ERROR_S)))
    now = [phase for phase in phases if phase.t_s <= t_s][-1]
    if not total and seen.part == "blower" and not turns_on and not now.blower_runs:
        return 1 / OBSERVED_RANGE_S
    return min(total, 1.0)
