"""An address as a code that a telephone's camera reads."""

from __future__ import annotations

import segno
from markupsafe import Markup


def code_of(address: str) -> Markup:
    """The code as inline SVG, with the margin that cameras want."""
    made = segno.make(address, error="m", micro=False)
    return Markup(made.svg_inline(border=4, omitsize=True, svgclass="code", lineclass="lines", light="#fff"))
