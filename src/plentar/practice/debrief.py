"""What is told at the end of a practice: what was in the unit, what each reading told, from which reading on it could
have been decided, and what was done in vain or did harm."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from plentar.core.door import faults_in_words
from plentar.core.judgement import Diagnosis, Sureness
from plentar.core.said import Said
from plentar.core.visit.events import Visit
from plentar.core.visit.evidence import Evidence
from plentar.practice.bench import Bench

#: Of so many readings it is said what they told.
MOST_TOLD = 25


@dataclass(frozen=True, slots=True)
class Hidden:
    """A fault that was in it: its id, a sentence, the part that is worked on for it."""

    fault: str
    words: Said
    part: str


@dataclass(frozen=True, slots=True)
class Told:
    """What the readings told, one after the other, bits; and after how many it could be decided, None where it
    could not."""

    bits: tuple[float, ...]
    decidable_after: int | None


def hidden_in(bench: Bench) -> tuple[Hidden, ...]:
    """What was in the unit at the beginning."""
    words = dict(faults_in_words(bench.unit))
    whole = bench.scene.unit
    return tuple(Hidden(f, words[f], whole.work_on(f)) for f in bench.scene.faults)


def named_right(bench: Bench, named: Sequence[str]) -> bool:
    """The parts that were named are those at fault, each by its device or itself, and no other."""
    wanted = _parts(bench)
    stray = [part for part in named if not any(part in parts for parts in wanted)]
    return not stray and all(parts & set(named) for parts in wanted)


def in_vain(bench: Bench) -> tuple[str, ...]:
    """Parts that were replaced and had nothing."""
    wanted = _parts(bench)
    return tuple(part for part in bench.replaced if not any(part in parts for parts in wanted))


def _parts(bench: Bench) -> list[frozenset[str]]:
    """For each fault what it may be called by: the part that is worked on, and its own."""
    whole = bench.scene.unit
    return [frozenset({whole.work_on(f), f.partition(":")[0]}) for f in bench.scene.faults]


def before_each_reading(bench: Bench) -> list[Evidence]:
    """The evidence before the first reading, and after each, up to the first repair and of so many at most: what is
    asked of the judge."""
    events = bench.visit.events
    until = next((n for n, act in enumerate(bench.acts) if "replaced" in act), len(events))
    ends = [0, *(n + 1 for n, act in enumerate(bench.acts[:until]) if "read" in act)][: MOST_TOLD + 1]
    return [Evidence(bench.unit, Visit(complaint=bench.scene.complaint, events=events[:end])) for end in ends]


def told(answers: Sequence[Diagnosis], bench: Bench) -> Told:
    """By the judge's answers, one for each piece of evidence. A reading may tell less than nothing: it may mislead."""
    doubt = [doubt_bits([s.probability for s in answer.suspects]) for answer in answers]
    parts = {h.part for h in hidden_in(bench)}
    decided = [n for n, answer in enumerate(answers) if _decides(answer, parts)]
    return Told(tuple(a - b for a, b in pairwise(doubt)), decided[0] if decided else None)


def doubt_bits(probabilities: Sequence[float]) -> float:
    """The entropy of what may be wrong, bits; what is not listed counts as one more."""
    rest = max(0.0, 1.0 - sum(probabilities))
    return -sum(p * math.log2(p) for p in (*probabilities, rest) if p > 0)


def _decides(answer: Diagnosis, parts: set[str]) -> bool:
    if answer.state is not Sureness.CLEAR:
        return False
    named = {part.removesuffix(".supply") for part in answer.parts}
    return named == {part.removesuffix(".supply") for part in parts}
