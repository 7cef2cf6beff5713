"""How far a decision is: open, likely by inference, or clear once a reading at the part has said so.

A decision is likely from 0.95 on. It is clear once a reading has been taken at the part or across
its ends that would have come out otherwise for its nearest rivals; of a sound unit, once every
element, the blower and the call's end have been read. While it is likely, the reading that
confirms it is what comes next.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from plentar.core.events import Reading
from plentar.core.judge.hypotheses.hypothesis import NONE, decision_of
from plentar.core.judge.plan.guard import Guard
from plentar.core.judge.plan.planner import decided, every_reading, read_often
from plentar.core.judge.plan.proposal import Proposal, worth
from plentar.core.judge.plan.survivors import survivors_of
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judgement import Sureness
from plentar.core.points import Point, resolve
from plentar.core.quantity import Quantity
from plentar.core.tables.planning import (
    CONFIRMS,
    LEAST_CONFIRMING_BITS,
    LEAST_RIVAL,
    RIVALS,
    SOUND_RIVAL,
)
from plentar.core.unit import Unit

A = Quantity.AMPS


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
        return Confirmation(Sureness.CLEAR if _all_read(posterior) else Sureness.LIKELY)
    name = next(iter(posterior.decisions))
    if name == NONE or not decided(posterior):
        return Confirmation(Sureness.OPEN)
    parts = tuple(name.split("+"))
    worked_on = tuple(part.removesuffix(".supply") for part in parts)
    missing = [part for part in parts if not _confirmed(posterior, part, parts)]
    if not missing:
        return Confirmation(Sureness.CLEAR, worked_on)
    reading = _confirming(posterior, missing)
    return Confirmation(Sureness.LIKELY if reading else Sureness.CLEAR, worked_on, reading)


def _sound_leads(posterior: Posterior) -> bool:
    sound = posterior.hypotheses[posterior.leader].id == NONE
    return sound and float(posterior.probabilities[1:].max()) <= SOUND_RIVAL


def _all_read(posterior: Posterior) -> bool:
    """Every element under a call and after its end, and the blower."""
    evidence, unit = posterior.evidence, posterior.evidence.unit
    amps = [t for t in evidence.taken if t.counts and t.reading.quantity is A]
    called = {t.point.name for t in amps if t.state.since_s}
    ended = {t.point.name for t in amps if t.state.ended_s and not t.state.since_s}
    every = {element.id for element in unit.elements}
    blower = {"blower"} if unit.blower else set()
    return every <= called & ended and blower <= called | ended


def _confirmed(posterior: Posterior, part: str, parts: tuple[str, ...]) -> bool:
    """Some reading at the part speaks for it against its nearest rivals, had it been left out."""
    unit, singles = posterior.evidence.unit, posterior.singles
    names = np.array([decision_of(unit, h) for h in singles.ensemble.hypotheses])
    own, rivals = np.flatnonzero(names == part), np.flatnonzero(~np.isin(names, list(parts)))
    leader = int(own[np.argmax(singles.log[own])])
    for number, item in enumerate(singles.items):
        if not isinstance(item.event, Reading):
            at_it = item.event.part == part
        else:
            at_it = is_at(unit, resolve(unit, item.event.at), part)
        if not at_it:
            continue
        without = singles.log[rivals] - singles.of_item[number, rivals]
        nearest = rivals[np.argsort(-without)[:RIVALS]]
        spoken = singles.of_item[number, leader] - singles.of_item[number, nearest]
        if (spoken >= CONFIRMS).all():
            return True
    return False


def _confirming(posterior: Posterior, missing: list[str]) -> Proposal | None:
    """The reading at a part that tells most of it against what else it may be, for least risk."""
    unit = posterior.evidence.unit
    survivors = survivors_of(posterior, LEAST_RIVAL, 0.0)
    if len(survivors.names) < 2:
        return None
    share = survivors.share @ survivors.of_decision
    doubt = -float(sum(p * math.log2(p) for p in share if p > 0))
    guard, often = Guard(posterior), read_often(posterior)
    found = [
        proposal
        for proposal in every_reading(posterior, survivors)
        if proposal.gain.on_decision >= LEAST_CONFIRMING_BITS * doubt
        and any(is_at(unit, resolve(unit, proposal.at), part) for part in missing)
        and not often(proposal)
    ]
    found.sort(key=worth, reverse=True)
    return next((proposal for proposal in found if guard.allows(proposal)), None)


def is_at(unit: Unit, point: Point, part: str) -> bool:
    """A reading here is taken at a part, or across its ends."""
    return part in set(_parts_at(unit, point))


def _parts_at(unit: Unit, point: Point) -> Iterator[str]:
    """What is to be worked on where a meter touches a point."""
    names = [point.component]
    if ":" in point.name:
        names = [end.rsplit(".", 1)[0] for end in point.name.split(":")]
    for name in names:
        yield from _works(unit, name)
    if point.kind == "air":
        yield "airflow"
    if point.kind in ("blower", "capacitor"):
        yield from ("blower", "capacitor")
    if point.name in ("R", "transformer"):
        yield from ("transformer", "control-fuse")


def _works(unit: Unit, name: str) -> Iterator[str]:
    yield name
    if name in unit.control_of_switch:
        yield unit.control_of_switch[name].id
    circuit = name.removesuffix(".line")
    if circuit in unit.circuit_by_id:
        yield from (circuit, f"{circuit}.supply")
    yield from (f"{element.id}.wire" for element in unit.elements_through(name))
