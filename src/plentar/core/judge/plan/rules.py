"""Which readings come into question: the planner's rules, in their order.

Each takes the situation and gives readings, or none where it has no say; the first that has any decides.
What is tried is sorted by worth and asked for its harm behind them (``planner``).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plentar.core.budget import OutOfTime, check_budget
from plentar.core.judge.plan.at_part import is_at
from plentar.core.judge.plan.dead import cold_readings
from plentar.core.judge.plan.guarded import tie_readings
from plentar.core.judge.plan.live import live_readings
from plentar.core.judge.plan.often import read_often
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.readable import readable_states
from plentar.core.judge.plan.round import round_readings
from plentar.core.judge.plan.survivors import Survivors
from plentar.core.judge.weigh.likelihood import TEMP
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judgement import NONE, Hazard
from plentar.core.quantity import Quantity
from plentar.core.safety.latch import standing
from plentar.core.tables.planning import (
    CLEAR,
    HINGES,
    LEANS,
    LEAST_CONFIRMING_BITS,
    LEAST_DECISIVE,
    LEAST_STEP_BITS,
    MOST_REPEATS,
    PATIENT_READINGS,
    SETTLING_SHARE,
    TWO_TAKE_LONGER,
    UNDECIDED_READINGS,
)
from plentar.core.unit.points import resolve
from plentar.core.visit.events import Reading


@dataclass(frozen=True)
class Situation:
    """What the rules look at: the posterior, who survives, and what could be read."""

    posterior: Posterior
    survivors: Survivors

    @cached_property
    def every(self) -> list[Proposal]:
        """Every reading in every state that can be reached."""
        return every_reading(self.posterior, self.survivors)

    @cached_property
    def often(self) -> Callable[[Proposal], bool]:
        """Whether a proposal was read already in the state that it asks for."""
        return read_often(self.posterior)

    @cached_property
    def twice(self) -> Callable[[Proposal], bool]:
        """Whether it was read twice."""
        return read_often(self.posterior, MOST_REPEATS)

    @cached_property
    def fresh(self) -> list[Proposal]:
        """What was not read yet."""
        return [p for p in self.every if not self.often(p)]

    @cached_property
    def moving(self) -> list[Proposal]:
        """What was not read yet and promises enough for the patience that is left."""
        patience = _patience(self.posterior)
        return [p for p in self.fresh if _moves(p, patience)]

    @property
    def telling(self) -> list[Proposal]:
        """What promises enough; where nothing does for the patience that is left, what would have at first."""
        return self.moving or [p for p in self.fresh if _moves(p, 1.0)]

    @cached_property
    def is_stuck(self) -> bool:
        """Some part is leant to, or it has taken long, and nothing promises enough any more."""
        posterior = self.posterior
        tired = posterior.surest > LEANS or len(posterior.items) >= UNDECIDED_READINGS
        return tired and not self.moving


Rule = Callable[[Situation], Sequence[Proposal]]


def the_round(situation: Situation) -> Sequence[Proposal]:
    """A unit against which nothing speaks is read in the trade's order: weighed by what each reading
    tells it would be read without end."""
    return list(round_readings(situation.posterior, situation.survivors))


def what_tells(situation: Situation) -> Sequence[Proposal]:
    """Whatever tells anything, for as long as something may still move the decision."""
    return () if situation.is_stuck else situation.fresh


def what_settles(situation: Situation) -> Sequence[Proposal]:
    """However long it has taken: what tells a good share of the doubt; and each rung is watched once,
    for that asks of other suspects than the one before."""
    if not situation.is_stuck:
        return ()
    doubt = doubt_of(situation.survivors)
    settling = [p for p in situation.fresh if p.gain.on_decision >= SETTLING_SHARE * doubt]
    return [*settling, *(p for p in situation.fresh if p.observe and _moves(p, 1.0))]


def what_confirms(situation: Situation) -> Sequence[Proposal]:
    """A part that is leant to and no more: nobody is sent to replace it unread at the part itself."""
    name = next(iter(situation.posterior.decisions))
    if not situation.is_stuck or name == NONE or situation.posterior.surest <= LEANS:
        return ()
    return list(telling_at(situation.survivors, situation.fresh, name.split("+")))


def what_ohms_tell(situation: Situation) -> Sequence[Proposal]:
    """Where nothing else may be read, for a stop bars the power: what still moves by ohms, however long it has
    taken."""
    if not standing(situation.posterior.evidence):
        return ()
    return [p for p in situation.fresh if p.hazard is Hazard.DEAD and _moves(p, 1.0)]


#: In this order; the first of which any reading may be proposed decides.
RULES: tuple[Rule, ...] = (what_tells, what_settles, what_confirms, what_ohms_tell)


def second_look(situation: Situation) -> Iterable[Proposal]:
    """Where nothing else may be proposed: the readings without one of which another would lead."""
    hinges = _hinges(situation.posterior)
    return [p for p in situation.every if (p.at, p.quantity) in hinges and not situation.twice(p)]


def _hinges(posterior: Posterior) -> set[tuple[str, Quantity]]:
    """The readings that say so much for the leader that without one of them another would lead: each is
    worth a second look. Air that comes and goes with a limit is no such."""
    singles = posterior.singles
    leader = int(np.argmax(singles.log))
    found = set()
    for item, of_item in zip(singles.items, singles.of_item, strict=True):
        other = int(np.argmax(singles.log - of_item))
        says = of_item[leader] - of_item[other]
        if isinstance(item.event, Reading) and says >= HINGES and item.event.quantity is not TEMP:
            found.add((item.event.at, item.event.quantity))
    return found


def telling_at(survivors: Survivors, every: Sequence[Proposal], parts: Sequence[str]) -> Iterator[Proposal]:
    """The readings at one of some parts that tell a good share of the doubt left."""
    unit = survivors.posterior.evidence.unit
    least_bits = LEAST_CONFIRMING_BITS * doubt_of(survivors)
    for proposal in every:
        if proposal.gain.on_decision >= least_bits and any(
            is_at(unit, resolve(unit, proposal.at), part) for part in parts
        ):
            yield proposal


def doubt_of(survivors: Survivors) -> float:
    """What is open of the decision, bits."""
    share = survivors.share @ survivors.of_decision
    return -float(sum(p * math.log2(p) for p in share if p > 0))


def every_reading(posterior: Posterior, survivors: Survivors) -> list[Proposal]:
    """What could be read in every state that can be reached; what was found, once time is up."""
    found: list[Proposal] = []
    try:
        for readable in readable_states(posterior, survivors):
            found += live_readings(survivors, readable)
            check_budget()
        found += cold_readings(survivors)
        found += tie_readings(posterior, survivors)
    except OutOfTime:
        pass
    return found


def decided(posterior: Posterior) -> bool:
    """What to work on is clear; what else may be wrong beside it shows once that is mended."""
    return posterior.surest >= CLEAR


def _patience(posterior: Posterior) -> float:
    """The longer it has taken, the more one reading more must promise; two faults take longer."""
    faults = len(posterior.hypotheses[posterior.leader].faults)
    patient = float(PATIENT_READINGS * (TWO_TAKE_LONGER if faults > 1 else 1))
    return max(1.0, len(posterior.items) / patient) ** 2


def _moves(proposal: Proposal, times: float) -> bool:
    """It may change the decision, or is a step on the way to what may."""
    gain = proposal.gain
    return gain.decisive >= times * LEAST_DECISIVE or gain.on_decision >= times * LEAST_STEP_BITS
