"""A line of the retest: what to read, what was read, and how it stands."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.expected import Word
from plentar.core.guided import Step
from plentar.core.said import NOTHING, Said, say
from plentar.core.visit.evidence import Taken

STEADY = say("seen.steady")


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the list: the step, why it is on it, and the newest reading of before."""

    step: Step
    because: Said
    #: What it is told apart by where it is answered: ``amps E1 with G W1``, ``ohms BR.no driven``.
    key: str = ""
    before: Taken | None = None
    #: What a check says of it since the repair: then it is not through, however its reading looks.
    found: Said = NOTHING
    #: The state that its reading counts in, in words, and what has to be called in it.
    under: Said = NOTHING
    calls: frozenset[str] = frozenset()
    #: Calls beside these that change nothing of it.
    free: frozenset[str] = frozenset()
    #: Why the newest reading there does not count; empty where it does, or there is none.
    not_counted: Said = NOTHING

    @property
    def state(self) -> str:
        """``open`` until it is read; then ``pass`` or ``fail``; ``answered`` where it is neither
        read nor as it should be, and somebody has said why it stays so."""
        read = self._read
        return "answered" if self.step.left_out and read != "pass" else read

    @property
    def _read(self) -> str:
        if self.step.watched:
            seen = self.step.seen
            return "open" if not seen else "pass" if seen == STEADY else "fail"
        if self.step.timed:
            return "pass" if self.step.in_time else "fail" if self.step.seen else "open"
        said = self.step.verdict
        if said is None:
            return "open"
        wrong = self.found or said.good is False or said.word is Word.UNCLEAR
        return "fail" if wrong else "pass"

    @property
    def says(self) -> Said:
        """Why it is not through, or what its reading means."""
        if self.step.watched:
            return say("guided.retest-line.current-comes-goes-call") if self.step.seen else NOTHING
        if self.step.timed:
            return NOTHING if self.step.in_time else self.step.seen
        return self.found or (self.step.verdict.meaning if self.step.verdict else NOTHING)


def as_shown(taken: Taken | None) -> Said:
    return (
        say("guided.retest-line.not-read")
        if taken is None
        else taken.reading.quantity.shown(taken.reading.value)
    )
