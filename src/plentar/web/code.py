"""An address as a code that a telephone's camera reads."""

from __future__ import annotations

from markupsafe import Markup


def code_of(address: str) -> Markup:
    import segno  # noqa: PLC0415  (a start does not wait for what few need)

    made = segno.make(address, error="m", micro=False)
    return Markup(made.svg_inline(border=4, omitsize=True, svgclass="code", lineclass="lines", light="#fff"))
