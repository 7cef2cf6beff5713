"""One circuit on one scale of amps: what is carried as bars, what there is for it as posts.

Every figure has a row of its own; a post that stands on the wrong side of what is asked of it is
crossed out, and the line that it misses is drawn down to it.
"""

from __future__ import annotations

from html import escape

from plentar.core.supply.ampere import AmpereScale, Mark, Side
from plentar.words import phrase
from plentar.words.numbers import show

WIDTH, LEFT, RIGHT, ROW, TOP = 360, 4, 284, 34, 8


def ampere_scale(scale: AmpereScale) -> str:
    most = 1.12 * max(mark.amps for mark in scale.marks)
    height = TOP + ROW * len(scale.marks) + 6
    rows = [_row(mark, n, most) for n, mark in enumerate(scale.marks)]
    missed = [_missed(mark, n, scale, most) for n, mark in enumerate(scale.marks)]
    told = "; ".join(_said(mark) for mark in scale.marks)
    return (
        f'<svg class="ampere" viewBox="0 0 {WIDTH} {height}" role="img"'
        f' aria-label="{escape(f"{scale.id}: {told}")}">{"".join(missed)}{"".join(rows)}</svg>'
    )


def _x(amps: float, most: float) -> float:
    return LEFT + (RIGHT - LEFT) * amps / most


def _row(mark: Mark, number: int, most: float) -> str:
    y, x = TOP + ROW * number, _x(mark.amps, most)
    wrong = mark.good is False
    tone = "bad" if wrong else "good" if mark.good else "plain"
    if mark.side is Side.NEEDS:
        drawn = f'<path class="carried" d="M{LEFT} {y + 19}H{x:.1f}v9H{LEFT}z"/>'
    else:
        post = f"M{x - 5:.1f} {y + 19}l10 9m0 -9l-10 9" if wrong else f"M{x:.1f} {y + 17}v13"
        drawn = f'<path class="rail" d="M{LEFT} {y + 23.5}H{RIGHT}"/><path class="stands" d="{post}"/>'
    amps = f"{show(mark.amps, 'A')}{' ✕' if wrong else ''}"
    return (
        f'<g class="{tone}">{drawn}<text x="{LEFT}" y="{y + 13}">{escape(str(mark.label))}</text>'
        f'<text class="amps" x="{WIDTH - 4}" y="{y + 28}" text-anchor="end">{amps}</text></g>'
    )


def _missed(mark: Mark, number: int, scale: AmpereScale, most: float) -> str:
    """From the figure that is missed, down to the mark that misses it."""
    if mark.good is not False:
        return ""
    short = mark.least is not None and mark.amps < mark.least
    asked = mark.least if short else mark.most
    assert asked is not None
    from_ = next((n for n, other in enumerate(scale.marks) if other.amps == asked), 0)
    up, down = sorted((from_, number))
    x = _x(asked, most)
    return f'<path class="missed" d="M{x:.1f} {TOP + ROW * up + 17}V{TOP + ROW * down + 30}"/>'


def _said(mark: Mark) -> str:
    word = "" if mark.good is not False else phrase("drawing.ampere.out-order")
    return f"{mark.label} {show(mark.amps, 'A')}{word}"
