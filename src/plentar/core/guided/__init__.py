"""Guided tests: a few readings in a fixed order that only together say something.

A test is worked out anew from what was read: a step that was read in its setting is done, the first
that was not comes next, and the result says what the readings so far amount to.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from plentar.core.expected import Expected, Verdict
from plentar.core.judgement import Setting
from plentar.core.quantity import Quantity
from plentar.core.said import NOTHING, Said
from plentar.core.visit.evidence import Taken


@dataclass(frozen=True, slots=True)
class Step:
    """One reading: where, of what, and the setting that it asks for, as the unit stands now.

    ``taken`` is the reading, where there is one; ``verdict`` what it says; ``worst`` marks the one
    that is furthest out; ``note`` is a word of caution or why it is read again.
    """

    title: Said
    at: str
    quantity: Quantity
    setting: Setting
    due: Expected
    taken: Taken | None = None
    worst: bool = False
    note: Said = NOTHING
    #: It is watched and not read: ten minutes of heat; and what was seen, ``cycling`` or ``steady``.
    watched: bool = False
    seen: Said = NOTHING
    #: It is timed on the tape and not read: ``seen`` says how long it took, ``in_time`` whether that is as
    #: printed.
    timed: bool = False
    in_time: bool = False
    #: Why it is left out, as somebody answered; it is not asked for then.
    left_out: str = ""

    @property
    def done(self) -> bool:
        return self.taken is not None or bool(self.seen or self.left_out)

    @property
    def verdict(self) -> Verdict | None:
        return self.due.judge(self.taken.reading.value) if self.taken else None


@dataclass(frozen=True, slots=True)
class Guided:
    """A test with its steps in order, and its result in lines of a label and a value.

    ``stop`` says why it ends before its steps do; nothing of it is proposed then.
    """

    steps: tuple[Step, ...]
    result: tuple[tuple[Said, Said], ...] = ()
    stop: Said = NOTHING

    @property
    def next(self) -> Step | None:
        """The first step that was not read; None where it is over."""
        return None if self.stop else next((s for s in self.steps if not s.done), None)


def lines(*pairs: tuple[Said, Said | None]) -> tuple[tuple[Said, Said], ...]:
    return tuple((label, value) for label, value in pairs if value)


def every(*groups: Iterable[Step]) -> tuple[Step, ...]:
    return tuple(step for group in groups for step in group)
