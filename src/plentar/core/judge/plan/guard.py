"""What is safe to propose: by the stops that stand open, and by what it would do."""

from __future__ import annotations

from functools import cached_property

from plentar.core.budget import check_budget
from plentar.core.circuit.faults import Fault, fault_of
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judgement import Finding, unanswered
from plentar.core.safety.acts import FirstAct, first_acts
from plentar.core.safety.bars import Bars
from plentar.core.safety.harm import harm_of_setting
from plentar.core.safety.latch import barring_proposals, open_of, standing
from plentar.core.safety.suspected import suspected_stops
from plentar.core.said import NOTHING, Said, say
from plentar.core.tables.planning import LEAST_SUSPECT
from plentar.core.visit.events import ON

FUSE_BLOWS = "control-fuse-blows"


class Guard:
    """Asks of each proposal, best first, until enough are found: what was asked once is kept."""

    def __init__(self, posterior: Posterior) -> None:
        self._evidence = posterior.evidence
        self._leader = posterior.hypotheses[posterior.leader].faults
        self._leads = float(posterior.probabilities[posterior.leader])
        self._networks = posterior.workspace.rows.networks
        events = posterior.evidence.visit.events
        self._now_s = events[-1].t_s if events else 0.0
        chances = posterior.probabilities[:-1]  # without what none of them covers
        self._suspects = [
            hypothesis.faults
            for hypothesis, chance in zip(posterior.hypotheses, chances, strict=True)
            if chance > LEAST_SUSPECT
        ]
        if posterior.evidence.visit.complaint == FUSE_BLOWS:
            # Whatever leads, what blows the fuse may be behind the call that nobody has made yet.
            loads = posterior.evidence.unit.other_loads
            self._suspects += [(fault_of(load.id, "load", "coil-shorted"),) for load in loads]
        self._said: dict[object, Said] = {}
        self._under: dict[object, tuple[Fault, ...]] = {}

    @cached_property
    def _suspected(self) -> tuple[Finding, ...]:
        """The stop that stands on what leads alone, until it is answered."""
        found = suspected_stops(self._evidence, self._leader, NOTHING, self._leads)
        return unanswered(self._evidence.visit, found)

    @cached_property
    def bars(self) -> Bars:
        """What the open stops of the visit bar."""
        read = barring_proposals(standing(self._evidence))
        return Bars(self._evidence.unit, (*read, *self._suspected))

    @cached_property
    def _first_acts(self) -> list[FirstAct]:
        """What open stops ask for before anything else."""
        evidence = self._evidence
        stops = (*open_of(standing(evidence)), *self._suspected)
        return first_acts(evidence, evidence.state_at(self._now_s), stops)

    def allows(self, proposal: Proposal) -> bool:
        """Nothing bars it, and it would do no harm under any suspect that still counts."""
        return not self.refusal(proposal)

    def refusal(self, proposal: Proposal) -> Said:
        """Why it is not proposed; empty where it may be."""
        setting = proposal.setting
        if setting not in self._said:
            self._said[setting] = self._refusal(proposal)
        return self._said[setting] or self.bars.reading_refusal(proposal.quantity)

    def _refusal(self, proposal: Proposal) -> Said:
        setting, evidence = proposal.setting, self._evidence
        unit, events = evidence.unit, evidence.visit.events
        if any(not act.done_by(setting) for act in self._first_acts):
            return say("judge.plan.guard.stop-stands-first-made")
        state = evidence.state_at(self._now_s)
        power = {c.id for c in unit.circuits} if setting.power == ON else set()
        barred = self.bars.refusal(state, power, setting.calls)
        if barred:
            return barred
        for faults in self._suspects:
            check_budget()
            told = harm_of_setting(unit, events, self._now_s, setting, faults, self._networks)
            if told:
                self._under[setting] = faults
                return told
        return NOTHING

    def why(self, proposal: Proposal) -> tuple[Said, tuple[Fault, ...]]:
        """Why it is not proposed, and under which suspect; empty where it may be."""
        return self.refusal(proposal), self._under.get(proposal.setting, ())

    def doubts_air(self, proposal: Proposal) -> bool:
        unit = self._evidence.unit
        own = {"blower", unit.fan_call, unit.relay.id if unit.relay else ""}
        return any(f.component in own for f in self._under.get(proposal.setting, ()))

    def clears(self, proposal: Proposal) -> frozenset[tuple[str, bool]]:
        """Where ohms, proved dead, tell the suspect under which the proposal would do harm, and
        whether its coil is driven for that: a weld shows where the set should be open."""
        unit = self._evidence.unit
        found = set()
        for fault in self._under.get(proposal.setting, ()):
            part, mode = fault.component, fault.mode
            if mode == "coil-shorted":
                load = next((load for load in unit.other_loads if load.id == part), None)
                found.add((f"{load.call}:ground" if load else f"{part}.coil", False))
            elif mode.startswith("nc-") or mode in ("no-welded", "no-stuck-open"):
                found.add((f"{part}.{mode[:2]}", mode in ("nc-welded", "no-stuck-open")))
            elif mode in ("to-ground", "grounded"):
                at = f"{part}.in" if part in unit.element_by_id else part
                found.add((f"{at}:ground", False))
        return frozenset(found)
