"""The clamp that was left on, drawn as a line of steps and said in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from plentar.core.unit.points import resolve
from plentar.practice.bench import Bench
from plentar.words.numbers import clock

WIDE, HIGH, EDGE = 320.0, 80.0, 6.0
#: The line of what shows less lies low, A.
LEAST_A = 1.0
#: Of so many steps the newest are said in words.
SAID = 8


@dataclass(frozen=True, slots=True)
class Trace:
    """Where the clamp is, the points of its line in a box of ``WIDE`` by ``HIGH``, and each step in words."""

    title: str
    line: str
    steps: tuple[tuple[str, str], ...]
    most: str


def trace_of(bench: Bench) -> Trace | None:
    """What the clamp has shown, None where none was left on."""
    shown = bench.trace
    if not shown:
        return None
    most = max(amps for _, amps in shown)
    title = str(resolve(bench.unit, bench.clamped).title)
    steps = tuple((clock(t_s), f"{amps:.1f} A") for t_s, amps in shown[:-1])[-SAID:]
    return Trace(title, _line(shown, max(most, LEAST_A)), steps, f"{most:.1f} A")


def _line(shown: Sequence[tuple[float, float]], most: float) -> str:
    began_s, ends_s = shown[0][0], max(shown[-1][0], shown[0][0] + 1.0)

    def at(t_s: float, amps: float) -> str:
        x = EDGE + (WIDE - 2 * EDGE) * (t_s - began_s) / (ends_s - began_s)
        y = HIGH - EDGE - (HIGH - 2 * EDGE) * amps / most
        return f"{x:.1f},{y:.1f}"

    corners, before = [], shown[0][1]
    for t_s, amps in shown:
        corners += [at(t_s, before), at(t_s, amps)]
        before = amps
    return " ".join(corners)
