"""The current of a clamp that runs: the last minutes of each point, its amps in large beside."""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping
from html import escape

#: What a curve shows, and the least amps at its top.
SHOWN_S, LEAST_TOP_AMPS = 120.0, 10.0
WIDE, TALL = 240.0, 60.0


class LiveCurves:
    """Samples as they come; ``add`` one, then ``html`` draws all that is not too old."""

    def __init__(self) -> None:
        self._points: dict[str, deque[tuple[float, float]]] = {}

    def add(self, t_s: float, amps: Mapping[str, float]) -> None:
        """One sample of every point."""
        for at, value in amps.items():
            points = self._points.setdefault(at, deque())
            points.append((t_s, value))
            while points[0][0] < t_s - SHOWN_S:
                points.popleft()

    def html(self) -> str:
        """A row a point, in one line: as a server-sent event carries it."""
        return "".join(_row(at, points) for at, points in self._points.items())


def _row(at: str, points: deque[tuple[float, float]]) -> str:
    now_s, amps = points[-1]
    top = 1.1 * max(LEAST_TOP_AMPS, *(value for _, value in points))
    path = " ".join(
        f"{WIDE * (1 - (now_s - t_s) / SHOWN_S):.1f},{TALL - (TALL - 2) * value / top:.1f}"
        for t_s, value in points
    )
    return (
        f'<p><b class="num">{amps:.1f} A</b> <small>{escape(at)}, simulated</small>'
        f'<svg viewBox="0 0 {WIDE:g} {TALL:g}" preserveAspectRatio="none" aria-hidden="true">'
        f'<polyline vector-effect="non-scaling-stroke" points="{path}"/></svg></p>'
    )
