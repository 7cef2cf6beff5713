"""What a reading may be, in which ranges, and what each range would mean."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from plentar.core.quantity import Band, Quantity
from plentar.core.said import NOTHING, Said, listed, say, span
from plentar.core.unit.points import Point
from plentar.core.unit.ratings import Tolerance
from plentar.core.visit.state import PanelState


class Word(StrEnum):
    """A verdict in one word. The first four are those of an element on amps."""

    DEAD = "dead"
    LOW = "low"
    IN_BAND = "in-band"
    HIGH = "high"
    OPEN = "open"
    CLOSED = "closed"
    UNCLEAR = "unclear"
    NOT_JUDGED = "not-judged"
    NOT_MEASURED = "not-measured"


@dataclass(frozen=True, slots=True)
class Asked:
    """What is due of which quantity where: the question, in the setting of the reading.

    Times since a call gain ``lead_s``; ``driven`` says that the coil of the contact is fed from a
    bench supply; ``tolerance`` is the school that judges, the visit's own where it is None.
    """

    point: Point
    quantity: Quantity
    state: PanelState
    lead_s: float = 0.0
    driven: bool = False
    tolerance: Tolerance | None = None


@dataclass(frozen=True, slots=True)
class Range:
    """One range of a reading: what it is called, whether a good part gives it, what it means.

    ``good`` is None where the range alone does not decide.
    """

    band: Band
    word: Word
    good: bool | None
    meaning: Said


@dataclass(frozen=True, slots=True)
class Expected:
    """The ranges of one quantity at one point, in rising order.

    ``nominal`` is what a part exactly as rated would show; ``explain`` writes the arithmetic
    out, and only when somebody asks why. Without ranges there is no verdict, and ``absent`` says why.
    """

    point: Point
    quantity: Quantity
    ranges: tuple[Range, ...] = ()
    nominal: float | None = None
    explain: Callable[[], tuple[Said, ...]] = tuple
    provisional: bool = False
    absent: Said = NOTHING

    @property
    def steps(self) -> tuple[Said, ...]:
        return self.explain()

    @property
    def good(self) -> tuple[Range, ...]:
        return tuple(r for r in self.ranges if r.good)

    def text(self) -> Said:
        """The good ranges in one line, such as ``18.2 … 22.7 A``."""
        if self.quantity is Quantity.TONE:
            return listed((Quantity.TONE.shown(math.ceil(r.band.low)) for r in self.good), "or")
        sign = self.quantity.sign
        if not self.good:
            undecided = [r for r in self.ranges if r.good is None]
            return listed(
                (
                    say("expected.undecided", range=_span(r.band, sign), word=say(f"word.{r.word}"))
                    for r in undecided
                ),
                "or",
            )
        return listed((_span(r.band, sign) for r in self.good), "or")

    def judge(self, value: float) -> Verdict:
        """The verdict on a reading in the quantity's unit (infinity for an overload)."""
        for candidate in self.ranges:
            if value in candidate.band:
                meaning = candidate.meaning
                return Verdict(candidate.word, candidate.good, meaning, self.provisional, self)
        reason = self.absent or say("expected.no-range")
        return Verdict(Word.NOT_JUDGED, None, reason, self.provisional, self)


@dataclass(frozen=True, slots=True)
class Verdict:
    word: Word
    good: bool | None
    meaning: Said
    provisional: bool
    due: Expected


def _span(band: Band, sign: str) -> Said:
    return span(band.low, band.high, sign)
