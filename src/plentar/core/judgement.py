"""What the core answers: elements, findings, slips, and the evidence that they stand on."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from plentar.core.due import Verdict, Word
from plentar.core.evidence import Evidence, Taken
from plentar.core.quantity import Band


class Level(StrEnum):
    """How urgent a finding is, rising."""

    OK = "ok"
    WATCH = "watch"
    REPAIR = "repair"
    STOP_NOW = "stop-now"


@dataclass(frozen=True, slots=True)
class ElementJudgement:
    """One element by its amps. ``measured_amps`` is None where nobody clamped it."""

    id: str
    nominal_amps: float
    expected_amps: Band
    measured_amps: float | None
    word: Word
    provisional: bool
    meaning: str


@dataclass(frozen=True, slots=True)
class Finding:
    """Something to act on or to watch, with the numbers that it stands on."""

    code: str
    level: Level
    component: str
    text: str
    numbers: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Slip:
    """A reading that was probably taken wrong. ``at`` is the point, ``key`` the event."""

    code: str
    at: str
    text: str
    key: str = ""


@dataclass(frozen=True, slots=True)
class ReadingJudgement:
    """A reading beside what was due; without a verdict where it is no evidence."""

    taken: Taken
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class Judgement:
    """The whole answer for a unit and its visit."""

    elements: tuple[ElementJudgement, ...]
    evidence: Evidence
    findings: tuple[Finding, ...]
    slips: tuple[Slip, ...]

    @property
    def stops(self) -> tuple[Finding, ...]:
        """Stop-now findings that nobody has answered."""
        answered = {(a.code, a.component) for a in self.evidence.visit.answered}
        return tuple(
            f for f in self.findings
            if f.level is Level.STOP_NOW and (f.code, f.component) not in answered
        )  # fmt: skip
