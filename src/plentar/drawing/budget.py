"""The control power as one stack of VA, with the transformer's rating and the fuse as posts."""

from __future__ import annotations

from html import escape

from plentar.core.supply.control_budget import ControlBudget
from plentar.words import phrase
from plentar.words.numbers import show

WIDTH, HEIGHT, LEFT, RIGHT, BAR_Y, BAR = 360, 104, 10, 350, 30, 30
#: A segment narrower than this has no room for its name.
NAMED_FROM = 34.0


def budget_stack(budget: ControlBudget) -> str:
    posts = [(budget.rated_va, phrase("drawing.budget.transformer-va", rated_va=f"{budget.rated_va:g}"))]
    if budget.fuse_va is not None:
        posts.append((budget.fuse_va, phrase("drawing.budget.fuse-va", fuse_va=f"{budget.fuse_va:g}")))
    most = 1.1 * max(budget.total_va, *(va for va, _ in posts))
    drawn, at = [], 0.0
    for number, (name, call, va) in enumerate(budget.loads):
        x0, x1 = _x(at, most), _x(at + va, most)
        at += va
        drawn.append(
            f'<path class="load{number % 2}" d="M{x0:.1f} {BAR_Y}H{x1:.1f}v{BAR}H{x0:.1f}z">'
            f"<title>{escape(phrase('drawing.budget.va', name=name, call=call, va=f'{va:g}'))}</title></path>"
        )
        if x1 - x0 >= NAMED_FROM:
            middle = (x0 + x1) / 2
            drawn.append(
                f'<text class="in" x="{middle:.1f}" y="{BAR_Y + 20}" text-anchor="middle">'
                f"{escape(call)}</text>"
            )
    for number, (va, words) in enumerate(posts):
        x = _x(va, most)
        y = BAR_Y + BAR + 18 + 18 * number
        anchor = "end" if x > WIDTH / 2 else "start"
        drawn.append(f'<path class="post" d="M{x:.1f} {BAR_Y - 8}V{y - 12}"/>')
        drawn.append(f'<text x="{x:.1f}" y="{y}" text-anchor="{anchor}">{words}</text>')
    total = phrase("drawing.budget.all-called", total_va=show(budget.total_va, "VA"))
    told = "; ".join(
        phrase("drawing.budget.va", name=name, call=call, va=f"{va:g}") for name, call, va in budget.loads
    )
    return (
        f'<svg class="budget" viewBox="0 0 {WIDTH} {HEIGHT}" role="img"'
        f' aria-label="{escape(f"{total}: {told}")}"><text x="{LEFT}" y="18">{total}</text>'
        f"{''.join(drawn)}</svg>"
    )


def _x(va: float, most: float) -> float:
    return LEFT + (RIGHT - LEFT) * va / most
