"""What the core answers: verdicts, findings and slips on what was read; suspects, and what to read
next. Plain values, all of them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from plentar.core.expected import Verdict, Word
from plentar.core.quantity import Band, Quantity
from plentar.core.said import NOTHING, Said, say
from plentar.core.visit.events import Visit
from plentar.core.visit.evidence import Evidence, Taken

#: The hypothesis that nothing is wrong, and what none of them covers.
NONE, OTHER = "none", "other"


class Level(StrEnum):
    OK = "ok"
    WATCH = "watch"
    REPAIR = "repair"
    STOP_NOW = "stop-now"

    @property
    def words(self) -> str:
        return self.value.replace("-", " ")


_URGENCY = {level: rank for rank, level in enumerate(Level)}


class FindingCode(StrEnum):
    SUPPLY_OUT_OF_RANGE = "supply-out-of-range"
    SUPPLY_SAG = "supply-sag"
    LEG_UNBALANCE = "leg-unbalance"
    LIVE_WHEN_OFF = "live-when-off"
    GROUND_CURRENT = "ground-current"
    LIMIT_BRIDGED = "limit-bridged"
    JOINT_HEAT = "joint-heat"
    BREAKER_OVER_PLATE = "breaker-over-plate"
    BREAKER_OVER_CONDUCTOR = "breaker-over-conductor"
    BREAKER_UNDER_LOAD = "breaker-under-load"
    CONDUCTOR_UNDER_LOAD = "conductor-under-load"
    ELEMENTS_OVER_48 = "elements-over-48"
    OVER_80_PERCENT = "over-80-percent"
    VOLTAGE_DROP = "voltage-drop"
    NO_BLOWER_TIE = "no-blower-tie"
    RUN_ON_SHORT = "run-on-short"
    OVER_VOLTS = "over-volts"
    PRIMARY_TAP = "primary-tap"
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
    LOW_AIRFLOW = "low-airflow"
    HIGH_LEAVING_AIR = "high-leaving-air"
    CONTROL_VOLTS_LOW = "control-volts-low"
    CONTROL_OVERLOAD = "control-overload"
    COIL_OHMS = "coil-ohms"
    CONTACT_RATING = "contact-rating"
    CONTACT_SET = "contact-set"
    ERRATIC_START = "erratic-start"
    RELAY_WIRING = "relay-wiring"
    BLOWER_MOTOR = "blower-motor"
    CAPACITOR_WEAK = "capacitor-weak"
    BLOWER_AMPS_HIGH = "blower-amps-high"
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
    meaning: Said

    @property
    def good(self) -> bool | None:
        """None where it was not measured or can't be judged."""
        if self.word in (Word.NOT_MEASURED, Word.NOT_JUDGED):
            return None
        return self.word is Word.IN_BAND


@dataclass(frozen=True, slots=True)
class Finding:
    """Something to act on or to watch, with the numbers that it stands on."""

    code: FindingCode
    level: Level
    component: str
    text: Said
    numbers: dict[str, float] = field(default_factory=dict)
    #: The newest evidence behind it, s of the visit; 0 where the plate alone says it.
    t_s: float = 0.0


@dataclass(frozen=True, slots=True)
class Clear:
    """A check looked at this component and found nothing."""

    component: str


@dataclass(frozen=True, slots=True)
class NotJudged:
    """A check could not be made on this component: ``because`` says what is missing."""

    check: Said
    component: str
    because: Said


@dataclass(frozen=True, slots=True)
class Outcome:
    """What one check says of the whole unit: it is never silent."""

    check: Said
    found: tuple[Finding, ...]
    clear: tuple[Clear, ...]
    not_judged: tuple[NotJudged, ...]


@dataclass(frozen=True, slots=True)
class Slip:
    """A reading that was probably taken wrong. ``at`` is the point, ``key`` the event."""

    code: SlipCode
    at: str
    text: Said
    key: str = ""


@dataclass(frozen=True, slots=True)
class ReadingJudgement:
    """A reading beside what was due; without a verdict where it is no evidence."""

    taken: Taken
    verdict: Verdict


@dataclass(frozen=True)
class Judgement:
    """``stops`` are the stop-now findings that nobody has answered, ``standing`` those that have not
    ended, answered or not; a check's own stop gives way to them."""

    elements: tuple[ElementJudgement, ...]
    evidence: Evidence
    outcomes: tuple[Outcome, ...]
    slips: tuple[Slip, ...]
    stops: tuple[Finding, ...] = ()
    standing: tuple[Finding, ...] = ()

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What stands open and what all checks found, the most urgent first."""
        found = [f for outcome in self.outcomes for f in outcome.found if f.level is not Level.STOP_NOW]
        return tuple(sorted([*self.stops, *found], key=lambda finding: -_URGENCY[finding.level]))

    @property
    def not_judged(self) -> tuple[NotJudged, ...]:
        """What could not be judged, and why."""
        return tuple(missing for outcome in self.outcomes for missing in outcome.not_judged)


def unanswered(visit: Visit, findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Stop-now findings that stand on a suspect alone, without those that were answered since what they
    stand on was known."""
    answered: dict[tuple[str, str], float] = {}
    for answer in visit.answered:
        key = (answer.code, answer.component)
        answered[key] = max(answer.t_s, answered.get(key, 0.0))
    return tuple(f for f in findings if answered.get((f.code, f.component), -1.0) < f.t_s)


class Sureness(StrEnum):
    """How far a decision is: likely by inference, clear once a reading at the part has said so."""

    OPEN = "open"
    LIKELY = "likely"
    CLEAR = "clear"


class Hazard(StrEnum):
    CLAMP = "clamp"
    LIVE = "live"
    DEAD = "dead"


@dataclass(frozen=True, slots=True)
class GuardedStep:
    """A step that is watched with a hand on the disconnect: ``begins`` is called and has come on, then what
    the setting calls; it is read within ``at_most_s``, and ``ends`` is called again."""

    begins: frozenset[str]
    at_most_s: float
    ends: frozenset[str]


@dataclass(frozen=True, slots=True)
class Setting:
    """What to set before a reading is taken, in the contract's terms.

    What is None stays as it is. ``after_s`` is the earliest moment, counted from the last change
    of power or calls; ``fresh`` first waits with nothing called until everything has dropped out;
    ``driven`` feeds the coil from a bench supply, proved dead.
    """

    power: str | None = None
    circuit: str | None = None
    calls: frozenset[str] | None = None
    lifted: bool | None = None
    after_s: float | None = None
    fresh: bool = False
    driven: bool = False
    guard: GuardedStep | None = None


@dataclass(frozen=True, slots=True)
class Suspect:
    """One hypothesis as it is shown. ``fault`` is ``none``, an id, a pair ``A+B``, or ``other``."""

    fault: str
    probability: float
    words: Said
    because: tuple[Said, ...]


@dataclass(frozen=True, slots=True)
class Meaning:
    """What one stretch of a reading would mean. For an observation, ``seen`` is its word."""

    low: float
    high: float
    means: Said
    probability: float
    seen: str = ""


@dataclass(frozen=True, slots=True)
class NextReading:
    """A reading worth taking, or, where ``quantity`` is None, something worth watching for.

    ``minutes`` counts everything that goes before it.
    """

    quantity: Quantity | None
    at: str
    setting: Setting
    hazard: Hazard
    minutes: float
    why: Said
    outcomes: tuple[Meaning, ...]
    observe: str = ""


#: What may be left out of an answer in which every reading was weighed against every single fault.
PAIRS_LEFT_OUT, NEXT_LEFT_OUT = say("left-out.pairs"), say("left-out.next")


@dataclass(frozen=True, slots=True)
class Diagnosis:
    """Everything that the judge says beside the plain verdicts.

    ``decision`` names the parts to work on once that is clear; ``advice`` says what to do;
    ``stops`` are stop-now findings that no reading shows alone, and the leading suspect does.
    ``left_out`` names what the time did not suffice for: the answer is the best so far.
    """

    suspects: tuple[Suspect, ...]
    next: tuple[NextReading, ...]
    contradictions: tuple[Finding, ...]
    decision: str
    advice: tuple[Said, ...]
    stops: tuple[Finding, ...] = ()
    left_out: tuple[Said, ...] = ()
    #: How far the decision is (open, likely, clear), the parts to work on, and the reading that
    #: confirms them while they are likely; it is the first of ``next`` then.
    state: Sureness = Sureness.OPEN
    parts: tuple[str, ...] = ()
    confirm: NextReading | None = None
    #: Suspects that no reading tells apart, in groups, where nothing is left to read.
    alike: tuple[tuple[str, ...], ...] = ()
    #: What a careful round would still read, as codes: ``off:E1``, ``to-ground:E1``, ``tie``, ``joint:C1``.
    unread: tuple[str, ...] = ()
    #: Where nothing is proposed: the reading that would tell most, and why it is held back.
    held: Said = NOTHING


@dataclass(frozen=True, slots=True)
class WhatElse:
    """What may be wrong beside what was found.

    ``chance`` is that of a second fault that some reading would still show; ``hidden`` are those
    that none shows while the first is there, in words; ``full`` with two found, as many as are
    weighed; not ``in_time`` where the time did not suffice for any of it.
    """

    next: tuple[NextReading, ...]
    chance: float
    hidden: tuple[Said, ...]
    full: bool
    in_time: bool = True
