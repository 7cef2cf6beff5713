"""A part's times over a unit's visits. Whether it grows slower the history says (``core/history``)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from plentar.core.timing.moves import Move, Timing


@dataclass(frozen=True, slots=True)
class Timed:
    """One visit's time of one part: ``when`` names the visit."""

    when: str
    move: Move

    @property
    def took_s(self) -> float:
        """From its clock's beginning."""
        assert self.move.took_s is not None
        return self.move.took_s

    @property
    def word(self) -> Timing:
        return self.move.word(self.move.seen_s or 0.0)


@dataclass(frozen=True, slots=True)
class Series:
    """One part's times one way, the oldest visit first."""

    part: str
    action: str
    times: tuple[Timed, ...]


def over_the_years(visits: Iterable[tuple[str, Sequence[Move]]]) -> tuple[Series, ...]:
    """A series for every part that was timed in two visits or more; the first good time of each
    visit counts, off times that tell little do not. Visits come oldest first."""
    found: dict[tuple[str, str], list[Timed]] = {}
    for when, moves in visits:
        timed: set[tuple[str, str]] = set()
        for move in moves:
            key = (move.part, move.action)
            follows = move.longest_s == 0  # the blower with its switch: not a time of its own
            if move.took_s is None or move.provisional or key in timed or follows:
                continue
            timed.add(key)
            found.setdefault(key, []).append(Timed(when, move))
    return tuple(
        Series(part, action, tuple(times))
        for (part, action), times in sorted(found.items())
        if len(times) > 1
    )
