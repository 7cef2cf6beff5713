"""The round that is made where nothing speaks against the unit: on a check-up, and after a repair.

Weighed by what each reading tells, a sound unit would be read without end, a little here and a
little there. Its round is the trade's: every element, R and the lugs under heat, the tie by the fan's call
ended first, the feeds with the blower once the call has ended, the capacitor, every element and the outdoor
unit's wire to the frame, proved dead. It is made while all that was read fits the sound unit.
"""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.judge.plan.dead import cold_readings
from plentar.core.judge.plan.guarded import tie_readings
from plentar.core.judge.plan.live import readings_at
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.readable import readable_states
from plentar.core.judge.plan.survivors import Survivors
from plentar.core.judge.shown.complaints import CHECK_UP
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judgement import NONE
from plentar.core.quantity import Quantity
from plentar.core.tables.planning import ROUND_RIVAL
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.visit.evidence import Taken

A, V, OHM, UF = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.UF


def makes_round(posterior: Posterior) -> bool:
    """Nothing is complained of, or what was is mended, and all that was read fits a sound unit."""
    evidence = posterior.evidence
    mended = any(event.mended for event in evidence.visit.events)
    if evidence.visit.complaint != CHECK_UP and not mended:
        return False
    part, at = posterior.place_of(0)
    if posterior.hypotheses[0].id != NONE or not part.explained(at).all():
        return False
    sound = posterior.probabilities[0]
    return bool(posterior.probabilities[1:-1].max() <= ROUND_RIVAL * sound)


def sound_leads(posterior: Posterior) -> bool:
    """Nothing weighs as much as that the unit is sound."""
    return posterior.hypotheses[posterior.leader].id == NONE


def round_readings(posterior: Posterior, survivors: Survivors) -> Iterator[Proposal]:
    """What of the round has not been read yet, or not since the last repair, in its order."""
    read = _read(posterior)
    unit = posterior.evidence.unit
    fed = [c.id for c in unit.circuits if any(unit.elements_on(c.id))]
    lugs = dict.fromkeys([unit.control_power.circuit, *fed])
    heat = [(A, element.id) for element in unit.elements]
    if _heats_now(posterior) or not all((True, *one) in read for one in heat):
        heat += [(V, "R"), *((V, c) for c in lugs)]  # nobody calls again for these alone
    if unit.blower and unit.blower.circuit not in fed:
        heat.append((A, "blower"))  # no feed that is read shows it
    heat = [one for one in heat if (True, *one) not in read]
    rested = {e.id for e in unit.elements if (False, A, e.id) in read}
    ended = [
        (A, name)
        for name in fed
        if (False, A, name) not in read and not rested.issuperset(e.id for e in unit.elements_on(name))
    ]
    if not heat and _heats_now(posterior):
        yield from tie_readings(posterior, survivors)
    if heat or ended:
        wanted = [
            s
            for s in readable_states(posterior, survivors)
            if bool(s.calls & HEAT_CALLS) == bool(heat) and "Y" not in s.calls
        ]
        soonest = sorted(wanted, key=lambda readable: readable.minutes)[:1]
        for readable in soonest:
            yield from readings_at(survivors, readable, heat or ended)
    dead = {("capacitor", False)} if unit.blower and unit.blower.capacitor_uf else set()
    dead |= {(f"{element.id}.in:ground", False) for element in unit.elements}
    dead |= {(f"{load.call}:ground", False) for load in unit.other_loads if load.call in unit.calls}
    dead -= {(at, False) for heats, _, at in read if heats is None}
    if dead:
        cold = cold_readings(survivors, frozenset(dead))
        yield from sorted(cold, key=lambda proposal: (proposal.at == "capacitor", proposal.at))


def _read(posterior: Posterior) -> set[tuple[bool | None, Quantity, str]]:
    """What was read since the last repair: under heat, without it, or proved dead."""
    evidence = posterior.evidence
    since_s = max((e.t_s for e in evidence.visit.events if e.mended), default=-1.0)
    found: set[tuple[bool | None, Quantity, str]] = set()
    for taken in evidence.taken:
        reading = taken.reading
        if not taken.counts or reading.t_s <= since_s:
            continue
        if reading.quantity.dead_only:
            found.add((None, reading.quantity, reading.at))
        else:
            found |= {(_heats(taken), reading.quantity, at) for at in (reading.at, taken.point.component)}
    return found


def _heats_now(posterior: Posterior) -> bool:
    events = posterior.evidence.visit.events
    return bool(posterior.evidence.state_at(events[-1].t_s if events else 0.0).calls & HEAT_CALLS)


def _heats(taken: Taken) -> bool:
    return bool(taken.state.calls & HEAT_CALLS)
