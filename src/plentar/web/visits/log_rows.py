"""The log of a visit, in words: each event a row, readings with what was due and the verdict."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from plentar.core.judgement import ReadingJudgement
from plentar.core.visit.state import state_in_words
from plentar.store.record import StoredEvent
from plentar.web.showing import verdict
from plentar.words import phrase
from plentar.words.numbers import clock

#: Kinds of event that are work on a part, and those of the relay bench.
WORK = frozenset({"did", "replaced", "swap"})
BENCH = frozenset({"tested", "tried", "felt", "wire"})


@dataclass(frozen=True, slots=True)
class LogRow:
    """One event; ``judged`` where it is a reading."""

    event: StoredEvent
    text: str
    judged: ReadingJudgement | None = None

    @property
    def is_reading(self) -> bool:
        return self.judged is not None

    @property
    def when(self) -> str:
        return clock(self.event.t_s)

    @property
    def struck(self) -> bool:
        return self.event.struck_at is not None

    @property
    def is_late(self) -> bool:
        """It came after something later, and is no evidence until somebody confirms it."""
        return self.event.waits

    @property
    def reason(self) -> str:
        if not self.is_late:
            return self.event.struck_reason or ""
        return phrase("pocket.came-late", when=clock(self.event.body.get("clock", self.event.t_s)))

    def confirm(self, base: str) -> str:
        return f"{base}/readings/{self.event.id}/confirm"

    def strike(self, base: str) -> str:
        return f"{base}/readings/{self.event.id}/strike"

    @property
    def value(self) -> str:
        if self.judged is None:
            return ""
        reading = self.judged.taken.reading
        return str(reading.quantity.shown(reading.value))

    @property
    def state(self) -> str:
        if self.judged is None:
            return ""
        taken = self.judged.taken
        return str(state_in_words(taken.state, driven=taken.reading.driven))

    @property
    def note(self) -> str:
        return self.judged.taken.reading.note if self.judged else ""

    @property
    def is_work(self) -> bool:
        return bool(WORK & set(self.event.body))

    @property
    def is_tested(self) -> bool:
        """It is what the relay bench says of a device, or a wire of its swap."""
        return bool(BENCH & set(self.event.body))

    @property
    def may_strike(self) -> bool:
        """It is no reading, and the log offers to strike it out too."""
        return not self.struck and (self.is_work or self.is_tested or "observe" in self.event.body)

    @property
    def due(self) -> str:
        return str((self.judged.verdict.due.text() if self.judged else "") or "—")

    @property
    def mark(self) -> str:
        """The verdict in shape, word and colour, or why the reading does not count."""
        if self.judged is None:
            return ""
        if not self.judged.taken.counts:
            return str(self.judged.taken.refused)
        said = self.judged.verdict
        return verdict(said.word, said.good, said.provisional)


def readings_of(rows: Sequence[LogRow]) -> list[LogRow]:
    """The readings among a log's rows, oldest first."""
    return [row for row in reversed(rows) if row.is_reading]
