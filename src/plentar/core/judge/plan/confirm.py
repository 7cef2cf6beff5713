"""How far a decision is: open, likely by inference, or clear once a reading at the part has said so.

A decision is likely from 0.95 on. It is clear once a reading has been taken at the part or across
its ends that would have come out otherwise for its nearest rivals; of a sound unit, once every
element, the blower and the call's end have been read. While it is likely, the reading that
confirms it is what comes next.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from plentar.core.budget import OutOfTime, check_budget
from plentar.core.judge.hypotheses.hypothesis import decision_of, work_on
from plentar.core.judge.plan.at_part import is_at
from plentar.core.judge.plan.dead import cold_readings
from plentar.core.judge.plan.guard import Guard
from plentar.core.judge.plan.live import readings_at
from plentar.core.judge.plan.often import read_often
from plentar.core.judge.plan.proposal import Proposal, worth
from plentar.core.judge.plan.readable import readable_states
from plentar.core.judge.plan.rules import decided, telling_at
from plentar.core.judge.plan.survivors import Survivors, survivors_of
from plentar.core.judge.weigh.likelihood import ItemLikelihood
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judge.weigh.seen import part_of
from plentar.core.judgement import NONE, Sureness
from plentar.core.quantity import Quantity
from plentar.core.tables.planning import CONFIRMS, LEAST_RIVAL, RIVALS, SOUND_CLEAR, SOUND_RIVAL
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.points import resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import same_setting
from plentar.core.visit.events import Observed, Reading
from plentar.core.visit.evidence import Taken

A, V, DC, OHM, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC, Quantity.OHMS, Quantity.TEMP_F
BLOWER = "blower"


@dataclass(frozen=True, slots=True)
class Confirmation:
    """How sure it is what to work on, and, while it is likely, the reading that confirms it."""

    state: Sureness
    parts: tuple[str, ...] = ()
    reading: Proposal | None = None


def confirmation(posterior: Posterior) -> Confirmation:
    """How far the leading decision is. One that no legal reading could confirm is clear as it is."""
    if posterior.left_out:
        return Confirmation(Sureness.OPEN)
    if _sound_leads(posterior):
        if doubted := _doubted(posterior):
            return _in_doubt(posterior, doubted, ())
        sure = float(posterior.probabilities[0]) >= SOUND_CLEAR and _all_read(posterior)
        return Confirmation(Sureness.CLEAR if sure else Sureness.LIKELY)
    name = next(iter(posterior.decisions))
    if name == NONE or not decided(posterior):
        return Confirmation(Sureness.OPEN)
    parts = tuple(name.split("+"))
    worked_on = tuple(part.removesuffix(".supply") for part in parts)
    if (first := _read_first(posterior, parts)) is not None:
        return Confirmation(Sureness.LIKELY, worked_on, first)
    if doubted := _doubted(posterior):
        return _in_doubt(posterior, doubted, worked_on)
    missing = [part for part in parts if not _confirmed(posterior, part, parts)]
    reading = _confirming(posterior, missing, frozenset(parts)) if missing else None
    return Confirmation(Sureness.LIKELY if reading else Sureness.CLEAR, worked_on, reading)


def _sound_leads(posterior: Posterior) -> bool:
    sound = posterior.hypotheses[posterior.leader].id == NONE
    return sound and float(posterior.probabilities[1:].max()) <= SOUND_RIVAL


def _all_read(posterior: Posterior) -> bool:
    """Every element under a call, it or its feed after the call's end, and the blower, by itself or in
    the feed that the fan alone draws."""
    evidence, unit = posterior.evidence, posterior.evidence.unit
    amps = [t for t in evidence.taken if t.counts and t.reading.quantity is A]
    called = {t.point.name for t in amps if t.state.since_s.keys() & HEAT_CALLS}
    rested = [t for t in amps if t.state.ended_s and not t.state.calls & HEAT_CALLS]
    ended = {at for t in rested for at in (t.point.name, t.point.component)}
    with_fan = {t.point.component for t in rested if unit.fan_call in t.state.calls}
    blower = unit.blower is None or "blower" in called | ended or unit.blower.circuit in with_fan
    return blower and all(e.id in called and {e.id, e.circuit} & ended for e in unit.elements)


def _confirmed(posterior: Posterior, part: str, parts: tuple[str, ...]) -> bool:
    """Readings at the part speak for it against each of its nearest rivals: those that are left,
    and those that there would be without them."""
    unit, singles = posterior.evidence.unit, posterior.singles
    names = np.array([decision_of(unit, h) for h in singles.ensemble.hypotheses])
    own, rivals = np.flatnonzero(names == part), np.flatnonzero(~np.isin(names, list(parts)))
    leader = int(own[np.argmax(singles.log[own])])
    at_it = [number for number, item in enumerate(singles.items) if _is_taken_at(unit, item, part)]
    nearest = set(rivals[np.argsort(-singles.log[rivals])[:RIVALS]].tolist())
    for number in at_it:
        without = singles.log[rivals] - singles.of_item[number, rivals]
        nearest |= set(rivals[np.argsort(-without)[:RIVALS]].tolist())
    spoken = singles.of_item[at_it][:, [leader]] - singles.of_item[at_it][:, sorted(nearest)]
    return bool(at_it) and bool((spoken.max(axis=0) >= CONFIRMS).all())


def _doubted(posterior: Posterior) -> list[Taken]:
    """The readings that what leads explains as slips alone, oldest first; not those that were read again
    since in the same setting and fit then."""
    part, at = posterior.place_of(posterior.leader)
    taken = [
        (posterior.evidence.take(item.event), bool(fits))
        for item, fits in zip(part.items, part.explained(at), strict=True)
        if isinstance(item.event, Reading) and not posterior.evidence.mended_after(item.event, item.t_s)
    ]
    return [
        odd
        for n, (odd, fits) in enumerate(taken)
        if not fits
        and odd.reading.quantity is not Quantity.TEMP_F
        and not any(
            again.point == odd.point
            and again.reading.quantity is odd.reading.quantity
            and same_setting(again.state, odd.state)
            and good
            for again, good in taken[n + 1 :]
        )
    ]


def _in_doubt(posterior: Posterior, doubted: list[Taken], parts: tuple[str, ...]) -> Confirmation:
    """Nothing is clear on a reading that is held for wrong: the newest of them is read once more."""
    if len(doubted) > len({(t.point.name, t.reading.quantity) for t in doubted}):
        return Confirmation(Sureness.OPEN)  # repeated, and it still does not fit
    return Confirmation(Sureness.LIKELY, parts, _once_more(posterior, doubted[-1]))


def _once_more(posterior: Posterior, doubted: Taken) -> Proposal | None:
    """The same reading, in a state with the same calls; of ohms and µF, proved dead."""
    guard, survivors = Guard(posterior), survivors_of(posterior)
    reading = doubted.reading
    if reading.quantity.dead_only:
        cold = cold_readings(survivors, frozenset({(reading.at, reading.driven)}))
        return next((p for p in cold if p.quantity is reading.quantity and guard.allows(p)), None)
    asked = [(reading.quantity, doubted.point.name)]
    found = [
        proposal
        for state in readable_states(posterior, survivors)
        if state.calls == doubted.state.calls
        for proposal in readings_at(survivors, state, asked)
    ]
    found.sort(key=lambda proposal: proposal.minutes)
    return next((proposal for proposal in found if guard.allows(proposal)), None)


def _read_first(posterior: Posterior, parts: tuple[str, ...]) -> Proposal | None:
    """What a master reads before any of these parts is named, where it can be read and was not."""
    wanted = list(_wanted_before(posterior, parts))
    if not wanted:
        return None
    guard, survivors = Guard(posterior), survivors_of(posterior)
    readable = list(readable_states(posterior, survivors))
    for one in wanted:
        found = [p for state in readable for p in readings_at(survivors, state, [one])]
        found.sort(key=lambda proposal: proposal.minutes)
        if (first := next((p for p in found if guard.allows(p)), None)) is not None:
            return first
    return None


def _wanted_before(posterior: Posterior, parts: tuple[str, ...]) -> Iterator[tuple[Quantity, str]]:
    """Hot air and an opened limit may be no more than a blower that stands still: its amps before air or a
    limit is named; before a limit is, the air, for it may have done its job; before a relay on a DC coil
    is told from its rectifier, the DC volts at the coil; before a sequencer is called slow or stuck, R to C: on
    low volts a good one is late; before a contactor or a relay is, the volts at its coil: on low ones it chatters
    or stays out."""
    evidence, unit = posterior.evidence, posterior.evidence.unit
    limits = {limit.id for limit in unit.limits} & set(parts)
    seen = evidence.at(BLOWER, A) or any(e.part == BLOWER for e in evidence.visit.of_kind(Observed))
    if (limits or "airflow" in parts) and unit.blower is not None and not seen:
        yield A, BLOWER
    if limits and not evidence.at("supply-air", TEMP):
        yield TEMP, "supply-air"
    faults = posterior.hypotheses[posterior.leader].faults
    late = {work_on(unit, f) for f in faults if f.mode in ("slow", "stuck-open")}
    for part in parts:
        control = unit.control_by_id.get(part)
        at = f"{part}.coil"
        fed_by = control.call if control is not None and control.call else "R"
        if control is not None and part in late and not any(evidence.at(p, V) for p in (at, "R", fed_by)):
            yield V, "R" if control.kind.thermal else at
        if control is not None and control.kind.dc_coil and not (evidence.at(at, DC) or evidence.at(at, OHM)):
            yield DC, at


def _at_parts(posterior: Posterior, survivors: Survivors, parts: list[str]) -> Iterator[Proposal]:
    """Whatever can be read at some parts, in every state that can be reached, as far as time goes."""
    unit = posterior.evidence.unit
    probes = posterior.workspace.rows.table.probes
    asked = [(p.quantity, p.point.name) for p in probes if any(is_at(unit, p.point, one) for one in parts)]
    try:
        for state in readable_states(posterior, survivors):
            yield from readings_at(survivors, state, asked)
            check_budget()
        yield from cold_readings(survivors)
    except OutOfTime:
        return


def _is_taken_at(unit: Unit, item: ItemLikelihood, part: str) -> bool:
    if not isinstance(item.event, Reading):
        return part_of(item.event) == part
    return is_at(unit, resolve(unit, item.event.at), part)


def _confirming(posterior: Posterior, missing: list[str], parts: frozenset[str]) -> Proposal | None:
    """The reading at a part that tells most of it against what else it may be, for least risk; what may be wrong
    beside it is no rival."""
    survivors = survivors_of(posterior, LEAST_RIVAL, 0.0, parts)
    if len(survivors.names) < 2:
        return None
    guard, often = Guard(posterior), read_often(posterior)
    every = list(_at_parts(posterior, survivors, missing))
    found = [p for p in telling_at(survivors, every, missing) if not often(p)]
    found.sort(key=worth, reverse=True)
    return next((proposal for proposal in found if guard.allows(proposal)), None)
