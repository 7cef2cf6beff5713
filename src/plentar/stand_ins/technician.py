"""A technician who does as the judge says on a simulated unit: the episodes of the benchmark."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from random import Random
from typing import Generic, Protocol, Self, TypeVar

from plentar.core.judge.plan.around import look_around
from plentar.core.judge.plan.planner import next_readings
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.whole import Plan, whole_plan
from plentar.core.judge.weigh.posterior import Posterior, posterior
from plentar.core.judgement import Setting
from plentar.core.quantity import Quantity
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import ON, PROVED_DEAD, Calls, Event, Observed, Power, Reading, Replaced, Visit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import all_off_s, all_on_s, state_at

MOST_READINGS, MOST_AROUND = 25, 60
READING_S, POWER_S, PROVE_S, MENDING_S = 20.0, 30.0, 180.0, 900.0


class Simulated(Protocol):
    """A unit that exists only as numbers."""

    unit: Unit

    def read(
        self, quantity: Quantity, at: str, events: Sequence[Event], t_s: float, *, driven: bool = False
    ) -> float:
        """What the meter shows; infinity for an overload."""

    def cycles(self, element_id: str, events: Sequence[Event], t_s: float) -> bool:
        """Whether the current of an element comes and goes with the call steady."""

    def mended(self, parts: Collection[str]) -> Self:
        """The same unit with some of its parts put right."""


U = TypeVar("U", bound=Simulated)


class Episode(Generic[U]):
    def __init__(self, simulated: U, complaint: str | None, wrong: float = 0.0, seed: int = 0) -> None:
        self.simulated, self.unit = simulated, simulated.unit
        self.complaint = complaint
        self.events: list[Event] = []
        self.t_s = 0.0
        self.readings = 0
        self.ohms_live = 0
        #: How long a coil is fed before a driven reading, s, where its card says so.
        self.fed_s: float | None = None
        #: The card before which the technician stands.
        self.plan = Plan()
        self._wrong, self._random = wrong, Random(seed)

    @property
    def visit(self) -> Visit:
        return Visit(complaint=self.complaint, events=tuple(self.events))

    def judged(self) -> Posterior:
        return posterior(Evidence(self.unit, self.visit))

    def follow(self) -> Posterior:
        """Take the judge's first proposal each time, until there is none."""
        while True:
            said = self.judged()
            self.plan = whole_plan(said)
            if not self.plan.proposals or self.readings >= MOST_READINGS:
                return said
            self.take(self.plan.proposals[0])

    def check_around(self) -> Posterior:
        """With something found: what the judge says to look at beside it, until nothing is left."""
        while True:
            said = self.judged()
            proposals = next_readings(said) or look_around(said).readings
            if not proposals or self.readings >= MOST_AROUND:
                return said
            self.take(proposals[0])

    def mend(self, parts: Collection[str]) -> None:
        """Put parts right, proved dead, and switch on again."""
        if not state_at(self.unit, self.events, self.t_s).proved_dead:
            self.set_up(Setting(power=PROVED_DEAD))
        for part in sorted(parts):
            component = part.removesuffix(".supply")
            self.t_s += MENDING_S
            self.events.append(Replaced(t_s=self.t_s, component=component))
        self.simulated = self.simulated.mended(parts)
        self.set_up(Setting(power=ON, calls=frozenset(), lifted=False))
        self.t_s += all_off_s(self.unit)

    def take(self, proposal: Proposal) -> None:
        self.set_up(proposal.setting)
        self.readings += 1
        if proposal.observe:
            self.watch(proposal.at)
            return
        assert proposal.quantity is not None
        self.fed_s = proposal.setting.after_s if proposal.setting.driven else None
        self.read(proposal.quantity, proposal.at, driven=proposal.setting.driven)
        if proposal.setting.guard is not None:
            self._calls(proposal.setting.guard.ends, None)

    def watch(self, part: str) -> None:
        """Ten minutes before a limit or an element with the call steady."""
        cycles = self.simulated.cycles(part, self.events, self.t_s + 600)
        self.t_s += 600
        action = "cycling" if cycles else "steady"
        self.events.append(Observed(t_s=self.t_s, action=action, part=part))

    def read(self, quantity: Quantity, at: str, *, driven: bool = False) -> None:
        """One reading, now; at times a grossly wrong one."""
        state = state_at(self.unit, self.events, self.t_s)
        if quantity is Quantity.OHMS and not state.proved_dead:
            self.ohms_live += 1
        if quantity is Quantity.TEMP_F and at == "supply-air":
            self.read_once(Quantity.TEMP_F, "return-air")
        self.read_once(quantity, at, driven=driven)

    def read_once(self, quantity: Quantity, at: str, *, driven: bool = False) -> None:
        value = self.simulated.read(quantity, at, self.events, self.t_s, driven=driven)
        if self._random.random() < self._wrong:
            value = self._random.choice([0.0, 3 * value, value + 50, value / 4])
            value = min(value, 1e9)
        fed_s = self.fed_s if driven else None
        self.events.append(
            Reading(t_s=self.t_s, quantity=quantity, at=at, value=value, driven=driven, driven_s=fed_s)
        )
        self.t_s += READING_S

    def set_up(self, setting: Setting) -> None:
        if setting.fresh:
            self._calls(frozenset(), None)
            self.t_s += all_off_s(self.unit)
        if setting.power is not None:
            self.t_s += PROVE_S if setting.power == PROVED_DEAD else POWER_S
            self.events.append(Power(t_s=self.t_s, state=setting.power, circuit=setting.circuit))
        if setting.guard is not None:
            self._calls(setting.guard.begins, None)
            begun_s = max((e.t_s for e in self.events if e.is_switch), default=0.0)
            self.t_s = max(self.t_s, begun_s + all_on_s(self.unit))
        if setting.calls is not None:
            self._calls(setting.calls, setting.lifted)
        if setting.after_s is not None:
            changes = [e.t_s for e in self.events if e.is_switch]
            self.t_s = max(self.t_s, (changes[-1] if changes else 0.0) + setting.after_s)

    def _calls(self, calls: frozenset[str], lifted: bool | None) -> None:
        last = [e for e in self.events if isinstance(e, Calls)]
        if last and (last[-1].calls, last[-1].lifted) == (calls, lifted):
            return
        self.t_s += 1
        self.events.append(Calls(t_s=self.t_s, calls=calls, lifted=lifted))
        self.t_s += 1
