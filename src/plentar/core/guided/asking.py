"""How a step of a guided test is asked for: the setting from where the unit stands, what is due in
it, and whether it was read in it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

from plentar.core.expected import Asked
from plentar.core.expected.rules import expected_at
from plentar.core.guided import Step
from plentar.core.judgement import GuardedStep, Setting
from plentar.core.quantity import Quantity
from plentar.core.said import NOTHING, Said, listed, rounded, say
from plentar.core.unit.points import resolve
from plentar.core.visit.events import ON, PROVED_DEAD
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import PanelState

#: What a watch may be short of a wait, s.
SLACK_S = 2.0


@dataclass(frozen=True)
class TestStage:
    """The setting of some steps: calls, or proved dead; and how long it must have stood, s.

    ``with_or_without``: calls that change nothing of what is read, beside the others; the wait counts
    from the others then. ``guard``: it is gone to under guard, and the wait counts from the heat.
    """

    calls: frozenset[str] = frozenset()
    after_s: float = 0.0
    dead: bool = False
    driven: bool = False
    with_or_without: frozenset[str] = frozenset()
    guard: GuardedStep | None = None

    @property
    def words(self) -> Said:
        """Such as “W1, with or without G”."""
        if self.dead:
            return (
                say("guided.asking.proved-dead-coil-driven")
                if self.driven
                else say("guided.asking.proved-dead")
            )
        calls = listed(sorted(self.calls - self.with_or_without), "+")
        if self.with_or_without:
            free = listed(sorted(self.with_or_without), "+")
            code = (
                "stage.with-or-without"
                if self.calls - self.with_or_without
                else "stage.nothing-with-or-without"
            )
            return say(code, calls=calls, free=free)
        return say("stage.alone", calls=calls) if self.calls else say("state.nothing-called")


@dataclass(frozen=True)
class Asking:
    """Steps asked of one visit at its present time, s."""

    evidence: Evidence
    now_s: float
    #: What was read by then is another part's.
    since_s: float = -1.0

    @cached_property
    def state(self) -> PanelState:
        return self.evidence.state_at(self.now_s)

    def step(self, stage: TestStage, at: str, quantity: Quantity, title: Said) -> Step:
        """A step, done or not."""
        due = expected_at(
            self.evidence,
            Asked(resolve(self.evidence.unit, at), quantity, self._in(stage), driven=stage.driven),
        )
        return Step(title, at, quantity, self.setting(stage), due, self.read(stage, at, quantity))

    def read(self, stage: TestStage, at: str, quantity: Quantity) -> Taken | None:
        """The newest reading of it in its setting."""
        found = [t for t in self._since(at, quantity) if not self._short_of(stage, t)]
        return found[-1] if found else None

    def not_counted(self, stage: TestStage, at: str, quantity: Quantity) -> Said:
        """Why the newest reading there is not the one that is asked for; empty where it is, or there is none."""
        every = [t for t in self.evidence.taken if t.reading.at == at and t.reading.quantity is quantity]
        newest = next((t for t in reversed(every) if t.reading.t_s > self.since_s), None)
        return (newest.refused or self._short_of(stage, newest)) if newest else NOTHING

    def _since(self, at: str, quantity: Quantity) -> list[Taken]:
        return [t for t in self.evidence.at(at, quantity) if t.reading.t_s > self.since_s]

    def setting(self, stage: TestStage) -> Setting:
        """What has to be changed to get there; what stands already is not asked for."""
        now = self.state
        if stage.dead:
            power = None if now.proved_dead else PROVED_DEAD
            return Setting(power=power, driven=stage.driven, calls=frozenset() if stage.driven else None)
        on = all(power == ON for power in now.power.values())
        same = on and now.calls == stage.calls
        moved_s = [*now.since_s.values(), *now.ended_s.values()]
        stood_s = now.t_s - max(moved_s, default=-1e9)
        if stage.guard is not None:
            return Setting(power=None if on else ON, calls=stage.calls, guard=stage.guard)
        # With the power off nothing is called as with it on.
        rests = not (stage.calls | now.calls) - stage.with_or_without
        waits = stage.after_s and not ((same or rests) and stood_s >= stage.after_s)
        return Setting(
            power=None if on else ON,
            calls=None if same else stage.calls,
            after_s=stage.after_s if waits else None,
        )

    def _in(self, stage: TestStage) -> PanelState:
        """The state that a stage asks for, once it has stood long enough."""
        unit, now = self.evidence.unit, self.state
        if stage.dead:
            return replace(now, power={c.id: PROVED_DEAD for c in unit.circuits}, since_s={})
        began_s = now.t_s - max(stage.after_s, 1.0)
        ended = {call: began_s for call in unit.calls if call not in stage.calls}
        return replace(
            now,
            power={c.id: ON for c in unit.circuits},
            calls=stage.calls,
            since_s=dict.fromkeys(stage.calls, began_s),
            ended_s=ended,
        )

    def _short_of(self, stage: TestStage, taken: Taken) -> Said:
        """What a reading lacks to be of a stage; empty where it is."""
        state = taken.state
        if stage.dead:
            there = state.proved_dead and taken.reading.driven == stage.driven
            return NOTHING if there else say("guided.asking.counts", stage=stage.words)
        if state.power[self.evidence.unit.control_power.circuit] != ON:
            return say("guided.asking.power-was-off")
        called, free = frozenset(state.since_s), stage.with_or_without
        if called - free != stage.calls - free:
            return say(
                "guided.asking.read-counts",
                calls=listed(sorted(called), "+") if called else say("state.nothing-called"),
                stage=stage.words,
            )
        if stage.calls - free and (free or stage.guard is not None):
            moved_s = [s for call, s in state.since_s.items() if call not in free]
        else:
            moved = {**state.since_s, **state.ended_s}
            moved_s = [s for call, s in moved.items() if call not in free]
        short_s = stage.after_s - SLACK_S - state.t_s - taken.reading.lead_s + max(moved_s, default=-1e9)
        return say("guided.asking.too-early-s", short_s=rounded(short_s, 0)) if short_s > 0 else NOTHING


def heat_calls(evidence: Evidence) -> frozenset[str]:
    """Every call for heat, with the fan where nothing sure ties the blower to it."""
    unit = evidence.unit
    calls = frozenset(unit.heat_calls)
    tied = unit.blower is None or bool(unit.blower.tied)
    return calls if tied or unit.fan_call is None else calls | {unit.fan_call}
