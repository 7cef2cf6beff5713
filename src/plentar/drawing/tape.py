"""The tape: time from left to right, due windows as bracketed blocks, what was seen as marks.

Everything lies at shares of the width, so that a track stretches with its place on the page and
its shapes do not. Long quiet stretches between the way on and the way out are drawn short.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from plentar.core.timing.moves import Move, Timing
from plentar.core.timing.tape import Run
from plentar.core.visit.events import ON
from plentar.words import phrase
from plentar.words.numbers import clock

HEIGHT, MIDDLE = 46, 26
#: A quiet stretch longer than this is drawn as a break of this share of the width.
QUIET_S, BREAK_SHARE = 90.0, 0.05
LEAST_S, MARGIN = 40.0, 1.08
NICE_S = (10, 15, 20, 30, 60, 120, 300, 600, 900, 1800, 3600)
MOST_TICKS = 4
#: Signs under marks need this share of the width each.
SIGN_SHARE = 0.08


@dataclass(frozen=True, slots=True)
class Scale:
    """Times of the visit → shares of the width, piece by piece: (from s, to s, from, to)."""

    pieces: tuple[tuple[float, float, float, float], ...]

    def x(self, t_s: float) -> float:
        """Where a time lies, 0 to 1."""
        for t0, t1, x0, x1 in self.pieces:
            if t_s <= t1:
                return x0 + (x1 - x0) * min(max((t_s - t0) / (t1 - t0), 0.0), 1.0)
        return self.pieces[-1][3]


def scale_of(run: Run, now_s: float | None) -> Scale:
    """The scale that shows a run; with ``now_s``, up to now at least."""
    ways_on = [t for move in run.moves if move.action == ON for t in _ends(move)]
    ways_off = [t for move in run.moves if move.action != ON for t in _ends(move)]
    ways_off += [move.clock_s.low for move in run.moves if move.action != ON]
    began_s = run.began_s
    on_end_s = began_s + MARGIN * (max([*ways_on, began_s + LEAST_S]) - began_s)
    if not ways_off:
        last_s = max(on_end_s, (now_s or 0.0) + 0.05 * ((now_s or 0.0) - began_s))
        return Scale(((began_s, last_s, 0.0, 1.0),))
    off_from_s, off_to_s = min(ways_off), max([*ways_off, now_s or 0.0])
    off_to_s = off_from_s + MARGIN * max(off_to_s - off_from_s, LEAST_S)
    if off_from_s - on_end_s < QUIET_S:
        return Scale(((began_s, off_to_s, 0.0, 1.0),))
    left = (1 - BREAK_SHARE) * (on_end_s - began_s) / (on_end_s - began_s + off_to_s - off_from_s)
    left = min(max(left, 0.3), 0.7)
    return Scale(
        (
            (began_s, on_end_s, 0.0, left),
            (on_end_s, off_from_s, left, left + BREAK_SHARE),
            (off_from_s, off_to_s, left + BREAK_SHARE, 1.0),
        )
    )


def _ends(move: Move) -> Iterable[float]:
    yield move.due_s.high
    if move.seen_s is not None:
        yield move.seen_s


def axis(scale: Scale) -> str:
    """Ticks with times since the call, and since its end where the way out has its own piece."""
    parts = [f'<svg class="track axis" height="24" aria-hidden="true">{_cursor()}']
    for t0, t1, x0, x1 in scale.pieces:
        if x1 - x0 <= BREAK_SHARE + 1e-9:
            parts.append(f'<text x="{_at((x0 + x1) / 2)}" y="15" text-anchor="middle">⋯</text>')
            continue
        every = next((n for n in NICE_S if (t1 - t0) / n <= MOST_TICKS * max(x1 - x0, 0.4)), NICE_S[-1])
        for n in range(int((t1 - t0) / every) + 1):
            x = x0 + (x1 - x0) * n * every / (t1 - t0)
            anchor = "start" if n == 0 else "middle" if x < 0.94 else "end"
            parts.append(
                f'<line x1="{_at(x)}" x2="{_at(x)}" y1="18" y2="24"/>'
                f'<text x="{_at(x)}" y="15" text-anchor="{anchor}">{clock(n * every)}</text>'
            )
    return "".join(parts) + "</svg>"


def call_track(scale: Scale, spells: Sequence[tuple[float, float | None]], said: str) -> str:
    """When a terminal asked; what stands still grows with the clock."""
    parts = []
    for began_s, ended_s in spells:
        x0 = scale.x(began_s)
        if ended_s is None:
            parts.append(
                f'<rect class="asks" data-from="{x0:.5f}" x="{_at(x0)}" y="{MIDDLE - 6}"'
                ' width="0" height="12"/>'
            )
        else:
            width = max(scale.x(ended_s) - x0, 0.002)
            parts.append(
                f'<rect class="asks" x="{_at(x0)}" y="{MIDDLE - 6}" width="{_at(width)}" height="12"/>'
            )
    return _track(parts, said)


def move_track(scale: Scale, moves: Sequence[Move], now_s: float, said: str) -> str:
    parts = [_carries(scale, moves)]
    parts += [_window(scale, move) for move in moves]
    parts += [_mark(scale.x(m.seen_s), m.word(now_s)) for m in moves if m.seen_s is not None]
    return _track(parts, said)


def over_each_other(scale: Scale, moves: Sequence[tuple[str, Move]], said: str) -> str:
    """One part's moves of several runs or years, each counted from its own clock, with a sign;
    the window is that of the last. Signs that would lie on each other stand side by side."""
    parts = [_window(scale, _from_zero(moves[-1][1]))] if moves else []
    signs: list[tuple[float, str]] = []
    for sign, move in sorted(moves, key=lambda pair: pair[1].took_s or 0.0):
        if move.took_s is None:
            continue
        x = scale.x(move.took_s)
        parts.append(_mark(x, move.word(move.seen_s or 0.0)))
        if signs and x - signs[-1][0] < SIGN_SHARE:
            signs[-1] = (signs[-1][0], f"{signs[-1][1]} {sign}")
        else:
            signs.append((x, sign))
    parts += [f'<text x="{_at(x)}" y="{HEIGHT + 8}" text-anchor="middle">{sign}</text>' for x, sign in signs]
    return _track(parts, said, HEIGHT + 12)


def _from_zero(move: Move) -> Move:
    began_s = move.clock_s.low
    zero = type(move.due_s)(0.0, 0.0)
    due = type(move.due_s)(move.due_s.low - began_s, move.due_s.high - began_s)
    return Move(move.part, move.action, move.cause, zero, move.window_s, due)


def scale_from_zero(moves: Iterable[Move]) -> Scale:
    """From the clock's beginning to the latest of all."""
    latest_s = max((max(m.longest_s, m.took_s or 0.0) for m in moves), default=LEAST_S)
    return Scale(((0.0, MARGIN * max(latest_s, LEAST_S / 2), 0.0, 1.0),))


def _track(parts: Iterable[str], said: str, height: int = HEIGHT) -> str:
    return (
        f'<svg class="track" height="{height}" role="img" aria-label="{said}">'
        f'<line class="rail" x1="0" x2="100%" y1="{MIDDLE}" y2="{MIDDLE}"/>'
        f"{''.join(parts)}{_cursor()}</svg>"
    )


def _cursor() -> str:
    return '<line class="now" x1="-10" x2="-10" y1="0" y2="100%"/>'


def _window(scale: Scale, move: Move) -> str:
    x0, x1 = scale.x(move.due_s.low), scale.x(move.due_s.high)
    width = max(x1 - x0, 0.006)
    css = "window" if move.action == ON else phrase("drawing.tape.window-out")
    return (
        f'<rect class="{css}" x="{_at(x0)}" y="{MIDDLE - 14}" width="{_at(width)}" height="28"/>'
        f'<svg x="{_at(x0)}" y="{MIDDLE - 14}"><path class="post" d="M5 0h-5v28h5"/></svg>'
        f'<svg x="{_at(x0 + width)}" y="{MIDDLE - 14}"><path class="post" d="M-5 0h5v28h-5"/></svg>'
    )


def _carries(scale: Scale, moves: Sequence[Move]) -> str:
    """From seen on to seen off it was closed."""
    parts, on = [], None
    for move in moves:
        if move.action == ON:
            on = move.seen_s
        elif on is not None and move.seen_s is not None:
            x0, x1 = scale.x(on), scale.x(move.seen_s)
            parts.append(f'<line class="carries" x1="{_at(x0)}" x2="{_at(x1)}" y1="{MIDDLE}" y2="{MIDDLE}"/>')
            on = None
    if on is not None:
        parts.append(
            f'<line class="carries" data-from="{scale.x(on):.5f}" x1="{_at(scale.x(on))}"'
            f' x2="{_at(scale.x(on))}" y1="{MIDDLE}" y2="{MIDDLE}"/>'
        )
    return "".join(parts)


_HEADS = {
    Timing.LATE: "M-8 -20h12l5 6-5 6h-12z",
    Timing.EARLY: "M8 -20h-12l-5 6 5 6h12z",
    Timing.IN_WINDOW: "M0 -7l-8 -14h16z",
}


def _mark(x: float, word: Timing) -> str:
    head = _HEADS.get(word, _HEADS[Timing.IN_WINDOW])
    return (
        f'<svg class="mark {word}" x="{_at(x)}" y="{MIDDLE}"><path d="M0 -8v20" class="stem"/>'
        f'<path class="head" d="{head}"/></svg>'
    )


def _at(share: float) -> str:
    return f"{100 * share:.3f}%"
