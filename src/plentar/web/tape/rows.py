"""What the tape shows, row by row."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from plentar.core.timing.tape import Lane
from plentar.core.unit.parts import CALLS


@dataclass(frozen=True, slots=True)
class Said:
    """One verdict of a lane: what moved, in a word, with its numbers."""

    action: str
    word: str
    tone: str
    text: str
    due_low_s: float | None
    due_high_s: float | None


@dataclass(frozen=True, slots=True)
class LaneView:
    """One lane: its track, its button, its verdicts. ``key`` is the key that presses it."""

    lane: Lane
    key: str
    track: Markup
    action: str
    said: tuple[Said, ...]
    fields: dict[str, str]
    post: str

    @property
    def is_call(self) -> bool:
        """It is a terminal's own lane, not that of a part which answers."""
        return self.lane.part in CALLS


@dataclass(frozen=True, slots=True)
class Watch:
    """One clock of the tape: what it shows, and since when the page's script runs it on."""

    shows: str
    words: str
    zero: Markup
    ended: bool = False


@dataclass(frozen=True, slots=True)
class RepeatRow:
    """One move over all runs: its track, and what it took in each."""

    part: str
    action: str
    due: str
    track: Markup
    took: tuple[tuple[str, str, str], ...]
