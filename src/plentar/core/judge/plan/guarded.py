"""The tie of the blower, tested under guard: heat and fan are on, the fan's call ends, and the blower is read
within seconds, a hand on the disconnect. Where the tie is sound it runs on through it."""

from __future__ import annotations

import math
from collections.abc import Iterator

from plentar.core.judge.plan.live import readings_at
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.readable import in_scene
from plentar.core.judge.plan.survivors import Survivors
from plentar.core.judge.plan.unread import unread_of
from plentar.core.judge.shown.scenes import TIE, scenes_of
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judgement import GuardedStep, Setting
from plentar.core.quantity import Quantity
from plentar.core.safety.harm import WITHOUT_AIR_S
from plentar.core.tables.planning import CALL_MINUTES
from plentar.core.unit.unit import Unit

#: A relay that holds the blower for longer than this hides whether the tie does, s.
HOLDS_S = 3.0


def tie_readings(posterior: Posterior, survivors: Survivors) -> Iterator[Proposal]:
    """The one reading of it, until the tie has been read in some way."""
    evidence, scenes = posterior.evidence, scenes_of(posterior.workspace)
    scene = scenes.scenes.get(TIE)
    if scene is None or not may_be_tested(evidence.unit) or "tie" not in unread_of(evidence):
        return
    events = evidence.visit.events
    state = evidence.state_at(events[-1].t_s if events else 0.0)
    begins = scenes.guarded
    if not state.live or state.lifted:
        return
    minutes = 2 * CALL_MINUTES
    since_s = state.t_s - max(state.since_s.values(), default=math.inf) if state.calls == begins else 0.0
    minutes += max(0.0, scenes.on_s - since_s) / 60
    fan = begins - scene.calls
    setting = Setting(calls=scene.calls, guard=GuardedStep(begins, WITHOUT_AIR_S, fan))
    readable = in_scene(survivors, scenes, scene, setting, minutes, posterior)
    yield from readings_at(survivors, readable, [(Quantity.AMPS, "blower")])


def may_be_tested(unit: Unit) -> bool:
    """There is a tie, as far as is known, and nothing else holds the blower for a while."""
    if unit.blower is None or unit.blower.tied is False or unit.fan_call is None or not unit.heat_calls:
        return False
    return unit.relay is None or unit.relay.off_s.high <= HOLDS_S
