"""What is told at the end of a practice: what was in the unit, what each reading told, from which reading on it could
have been decided, and what was done in vain or did harm."""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from plentar.core.door import faults_in_words
from plentar.core.judgement import Diagnosis, Sureness
from plentar.core.said import Said
from plentar.core.visit.events import Reading, Replaced, Visit
from plentar.core.visit.evidence import Evidence
from plentar.practice.bench import Bench
from plentar.practice.coach import Judge, customary_path, judges_path
from plentar.practice.scene import Scene

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


def lost_in(bench: Bench) -> tuple[Hidden, ...]:
    """The wires that were lost at repairs."""
    words = dict(faults_in_words(bench.unit))
    whole = bench.scene.unit
    return tuple(Hidden(f, words[f], whole.work_on(f)) for f in bench.lost)


def named_right(bench: Bench, named: Sequence[str]) -> bool:
    """The parts that were named are those at fault, each by its device or itself, and no other."""
    wanted = _parts(bench)
    stray = [part for part in named if not any(part in parts for parts in wanted)]
    return not stray and all(parts & set(named) for parts in wanted)


def in_vain(bench: Bench) -> tuple[str, ...]:
    """Parts that were replaced and had nothing."""
    wanted = [*_parts(bench), *(frozenset({hidden.part}) for hidden in lost_in(bench))]
    return tuple(part for part in bench.replaced if not any(part in parts for parts in wanted))


def _parts(bench: Bench) -> list[frozenset[str]]:
    """For each fault what it may be called by: the part that is worked on, and its own."""
    whole = bench.scene.unit
    return [frozenset({whole.work_on(f), f.partition(":")[0]}) for f in bench.scene.faults]


def before_each_reading(bench: Bench) -> list[Evidence]:
    """The evidence before the first reading, and after each, up to the first repair and of so many at most: what is
    asked of the judge."""
    events = bench.visit.events
    until = next((n for n, event in enumerate(events) if isinstance(event, Replaced)), len(events))
    ends = [0, *(n + 1 for n, event in enumerate(events[:until]) if isinstance(event, Reading))][
        : MOST_TOLD + 1
    ]
    return [Evidence(bench.unit, Visit(complaint=bench.scene.complaint, events=events[:end])) for end in ends]


def told(answers: Sequence[Diagnosis], bench: Bench) -> Told:
    """By the judge's answers, one for each piece of evidence. A reading may tell less than nothing: it may mislead."""
    doubt = [doubt_bits([s.probability for s in answer.suspects]) for answer in answers]
    parts = _wanted(bench)
    decided = [n for n, answer in enumerate(answers) if decides(answer, parts)]
    return Told(tuple(a - b for a, b in pairwise(doubt)), decided[0] if decided else None)


def doubt_bits(probabilities: Sequence[float]) -> float:
    """The entropy of what may be wrong, bits; what is not listed counts as one more."""
    rest = max(0.0, 1.0 - sum(probabilities))
    return -sum(p * math.log2(p) for p in (*probabilities, rest) if p > 0)


def decides(answer: Diagnosis, parts: frozenset[str]) -> bool:
    """It is clear, and these are the parts; a supply is named by its circuit."""
    named = frozenset(part.removesuffix(".supply") for part in answer.parts)
    return answer.state is Sureness.CLEAR and named == parts


@dataclass(frozen=True, slots=True)
class Path:
    """One way through a scene: how many readings and minutes by the unit's clock, unsafe acts by their code, and
    whether it was decided by then which parts are at fault."""

    readings: int
    minutes: int
    harms: tuple[str, ...]
    decided: bool


def by_the_judge(scene: Scene, judge: Judge) -> Path:
    """As the cards say, one after the other."""
    bench, answer = judges_path(Bench(scene), judge)
    return _path(bench, decides(answer, _wanted(bench)))


def by_custom(scene: Scene, judge: Judge) -> Path:
    """In the customary order, up to the reading from which on the judge is clear; all of it where it never is. The
    judge is asked by halves, as what was decided stays so."""
    benches = list(customary_path(Bench(scene)))

    def clear(bench: Bench) -> bool:
        return decides(judge(bench.evidence), _wanted(bench))

    if not clear(benches[-1]):
        return _path(benches[-1], decided=False)
    return _path(benches[bisect_left(benches, True, hi=len(benches) - 1, key=clear)], decided=True)


def _wanted(bench: Bench) -> frozenset[str]:
    return frozenset(hidden.part.removesuffix(".supply") for hidden in hidden_in(bench))


def _path(bench: Bench, decided: bool) -> Path:
    harms = tuple(harm.code for harm in bench.harms)
    return Path(bench.readings, round(bench.now_s / 60), harms, decided)
