"""An attack on an installation of its own: bent requests, races at every gate, blows while people
write. Seeded and bounded; it counts what must be none.
"""

from __future__ import annotations

from dataclasses import dataclass

from benchmarks.attack.bent import bent_requests
from benchmarks.attack.blows import blows
from benchmarks.attack.mended import mended
from benchmarks.attack.place import Counted, place
from benchmarks.attack.races import races


@dataclass(frozen=True, slots=True)
class Size:
    """How much of everything: the whole campaign, or the short one of the tests."""

    requests: int = 21_000
    trials: int = 40
    entries: int = 10_000


WHOLE, SHORT = Size(), Size(requests=260, trials=2, entries=100)


def attack(size: Size = WHOLE, seed: int = 1) -> Counted:
    """The campaign on a server and a database cluster of its own."""
    result = Counted()
    with place() as there:
        for what in (
            mended(there, seed),
            bent_requests(there, size.requests, seed),
            races(there, size.trials),
            blows(there, size.entries, seed),
        ):
            result.lines += what.lines
            result.wrong += what.wrong
    return result


def measure() -> list[str]:
    result = attack()
    return [*result.lines, f"wrong: {len(result.wrong)}", *result.wrong[:20]]
