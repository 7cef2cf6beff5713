"""How hard a scene is: what is in doubt after the ordinary first look, and how many faults look alike by then."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from itertools import islice

from plentar.core.judgement import Diagnosis
from plentar.practice.bench import Bench
from plentar.practice.coach import Judge, customary_path
from plentar.practice.debrief import doubt_bits
from plentar.practice.scene import Scene

#: A suspect of this share is one that may be it.
LOOKS_ALIKE = 0.05
#: So many bits are left of an easy scene at most, and of a hard one at least.
EASY_BITS, HARD_BITS = 1.0, 2.5


class Grade(StrEnum):
    EASY = "easy"
    MIDDLING = "middling"
    HARD = "hard"


@dataclass(frozen=True, slots=True)
class Difficulty:
    """After the supply, the control power, the fan's amps and those of every strip under heat."""

    bits: float
    look_alikes: int

    @property
    def grade(self) -> Grade:
        if self.bits <= EASY_BITS:
            return Grade.EASY
        return Grade.HARD if self.bits >= HARD_BITS else Grade.MIDDLING


def first_look(scene: Scene) -> Bench:
    """The bench after the first readings of the customary order."""
    bench = Bench(scene)
    unit = bench.unit
    count = len(unit.circuits) + 1 + (unit.blower is not None) + len(unit.elements)
    return list(islice(customary_path(bench), count))[-1]


def difficulty(scene: Scene, judge: Judge) -> Difficulty:
    """By the judge's answer to the first look."""
    return of_answer(judge(first_look(scene).evidence))


def of_answer(answer: Diagnosis) -> Difficulty:
    """Of what is left in doubt; 0.05 of belief makes a look-alike."""
    shares = [suspect.probability for suspect in answer.suspects]
    return Difficulty(doubt_bits(shares), sum(share >= LOOKS_ALIKE for share in shares))


def chosen(scenes: list[Scene], wanted: Grade, judge: Judge) -> Scene:
    """The first scene of this grade, else the one that comes nearest to it."""
    aim = {Grade.EASY: 0.0, Grade.MIDDLING: (EASY_BITS + HARD_BITS) / 2, Grade.HARD: 99.0}[wanted]
    nearest, least = scenes[0], float("inf")
    for scene in scenes:
        found = difficulty(scene, judge)
        if found.grade is wanted:
            return scene
        if abs(found.bits - aim) < least:
            nearest, least = scene, abs(found.bits - aim)
    return nearest
