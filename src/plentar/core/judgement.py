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


class FindingCode(StrEnum):
    """What was found, in a word of the file contract."""

    SUPPLY_OUT_OF_RANGE = "supply-out-of-range"
    SUPPLY_SAG = "supply-sag"
    LEG_UNBALANCE = "leg-unbalance"
    JOINT_HEAT = "joint-heat"
    BREAKER_OVER_PLATE = "breaker-over-plate"
    BREAKER_OVER_CONDUCTOR = "breaker-over-conductor"
    BREAKER_UNDER_LOAD = "breaker-under-load"
    CONDUCTOR_UNDER_LOAD = "conductor-under-load"
    ELEMENTS_OVER_48 = "elements-over-48"
    OVER_80_PERCENT = "over-80-percent"
    VOLTAGE_DROP = "voltage-drop"
    HEAT_WITHOUT_BLOWER = "heat-without-blower"
    DRAW_WITHOUT_CALL = "draw-without-call"
    ELEMENT_TO_GROUND = "element-to-ground"
    ELEMENT_LOW = "element-low"
    ELEMENT_HIGH = "element-high"
    ELEMENT_DEAD = "element-dead"
    SLOW_STAGE = "slow-stage"
    SLOW_OFF = "slow-off"
    HOUSE_TIME = "house-time"
    LIMIT_CYCLING = "limit-cycling"
    WHOLE_UNIT = "whole-unit"
    CONTRADICTION = "contradiction"


class SlipCode(StrEnum):
    """How a reading was probably taken wrong, in a word of the file contract."""

    OHMS_LIVE = "ohms-live"
    KILO_OHM = "kilo-ohm"
    CLAMP_AROUND_TWO = "clamp-around-two"
    AC_ON_DC = "ac-on-dc"
    VOLTS_NOT_MEASURED = "volts-not-measured"
    BEFORE_WINDOW = "before-window"
    OFF_TEST_TOO_EARLY = "off-test-too-early"
    ZERO_VOLTS_DEAD_RUNG = "zero-volts-dead-rung"
    GLOW_IN_SIGHT = "glow-in-sight"


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

    code: FindingCode
    level: Level
    component: str
    text: str
    numbers: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Slip:
    """A reading that was probably taken wrong. ``at`` is the point, ``key`` the event."""

    code: SlipCode
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
