"""Lines of work: what is to be done, when, and how it stands. A line is written anew as a whole each
time it changes; the newest words on it count."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date

from plentar.core.said import Said

NOW, SOON, OFFER = "now", "soon", "offer"
OPEN, DONE, DECLINED = "open", "done", "declined"
#: When it is due, the most pressing first; how it stands; where its part is.
WHEN = (NOW, SOON, OFFER)
STANDS = (OPEN, DONE, DECLINED)
PARTS = ("", "wanted", "ordered", "fitted")
#: So many lines a visit has at most.
MOST_LINES = 60


@dataclass(frozen=True, slots=True)
class WorkLine:
    """One line. ``text`` says what is to be done, ``meanwhile`` what is safe until then: typed, or suggested.
    ``source`` names the finding, decision or offer that it came from; ``minutes`` and ``price`` are the shop's, None where not given."""

    id: str
    t_s: float
    when: str
    text: Said | str
    part: str = ""
    stands: str = OPEN
    parts: str = ""
    meanwhile: Said | str = ""
    due_on: date | None = None
    minutes: float | None = None
    price: float | None = None
    source: str = ""
    by: str = ""

    @property
    def open(self) -> bool:
        return self.stands == OPEN

    @property
    def unsafe(self) -> bool:
        """What had to be done now, and is not."""
        return self.when == NOW and self.stands != DONE


def standing(written: Iterable[WorkLine]) -> tuple[WorkLine, ...]:
    """Every line as it was written last: what is due now first, in the order of their first words."""
    newest: dict[str, WorkLine] = {}
    for line in written:
        newest[line.id] = line
    return tuple(sorted(newest.values(), key=lambda line: WHEN.index(line.when)))


def taken_over(lines: Iterable[WorkLine]) -> tuple[WorkLine, ...]:
    """The lines that the next visit begins with: the open ones, and what the owner did not want of
    what had to be done, which is asked again."""
    return tuple(
        replace(line, t_s=0.0, stands=OPEN)
        for line in lines
        if line.open or (line.unsafe and line.stands == DECLINED)
    )
