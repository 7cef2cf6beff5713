"""Which readings were taken already: in the same state, of the same current."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from typing import Any

from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.shown.scenes import scenes_of
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.quantity import Quantity
from plentar.core.tables.planning import LEAST_SUSPECT, MOST_REPEATS
from plentar.core.unit.points import CONTROL_SIDE, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Observed
from plentar.core.visit.state import PanelState, state_at

A = Quantity.AMPS
#: What is wrong ahead of the board, and gone with the thermostat wires off.
OF_THERMOSTAT = frozenset({"no-call", "always", "with-Y", "with-G", "to-ground"})
#: What is called, with the wires lifted or not, and how long it has been so, s.
Stood = tuple[frozenset[str], bool, float]


def read_often(posterior: Posterior, most: int = 1) -> Callable[[Proposal], bool]:
    """Whether a proposal has been read so often in the state that it asks for; one time more where
    what was read fits nothing else."""
    unit, events = posterior.evidence.unit, posterior.evidence.visit.events
    state = state_at(unit, events, events[-1].t_s if events else 0.0)
    late_s = scenes_of(posterior.workspace).heat_s
    stands_s, jumper_tells = _stood_s(state), _jumper_tells(posterior)

    def key(quantity: Quantity, at: str, driven: bool, setting: Stood) -> Any:
        """What makes a reading another one; cooling is nothing to what carries heat."""
        if quantity.dead_only:
            return quantity, at, driven
        calls, lifted, since_s = setting
        lifted = lifted and jumper_tells
        cooling = resolve(unit, at).kind in CONTROL_SIDE
        at = _current(at, unit) if quantity is A else at
        return quantity, at, driven, calls if cooling else calls - {"Y"}, lifted, since_s >= late_s

    part, leader = posterior.place_of(posterior.leader)
    fits = part.explained(leader)
    odd = {id(item.event) for item, fit in zip(part.items, fits, strict=True) if not fit}
    seen: Counter[Any] = Counter()
    doubted = set()
    for t in posterior.evidence.taken:
        if t.counts:
            stood = (t.state.calls, t.state.lifted, _stood_s(t.state))
            one = key(t.reading.quantity, t.reading.at, t.reading.driven, stood)
            seen[one] += 1
            if id(t.reading) in odd:
                doubted.add(one)

    def often(proposal: Proposal) -> bool:
        if proposal.quantity is None:
            return any(e.part == proposal.at for e in posterior.evidence.visit.of_kind(Observed))
        setting = proposal.setting
        calls = state.calls if setting.calls is None else setting.calls
        lifted = state.lifted if setting.calls is None else bool(setting.lifted)
        stays = calls == state.calls and lifted == state.lifted and not setting.fresh
        stood = (calls, lifted, max(setting.after_s or 0.0, stands_s if stays else 0.0))
        one = key(proposal.quantity, proposal.at, setting.driven, stood)
        return seen[one] >= (max(most, MOST_REPEATS) if one in doubted else most)

    return often


def _jumper_tells(posterior: Posterior) -> bool:
    """Whether it matters that a call comes by jumper: something of the thermostat's wires is still suspected."""
    return any(
        chance > LEAST_SUSPECT and any(fault.mode in OF_THERMOSTAT for fault in hypothesis.faults)
        # the last chance is that of what none of them covers
        for hypothesis, chance in zip(posterior.hypotheses, posterior.probabilities[:-1], strict=True)
    )


def _stood_s(state: PanelState) -> float:
    """How long the first of what is called has been so, s."""
    return state.t_s - min(state.since_s.values(), default=state.t_s)


def _current(at: str, unit: Unit) -> str:
    """The current that a clamp here shows, by one name wherever on its way it is read."""
    through = [e.id for e in unit.elements if at in e.rung]
    return through[0] if len(through) == 1 else at.removesuffix(".l1")
