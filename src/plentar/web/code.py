"""An address as a code that a telephone's camera reads."""

from __future__ import annotations

import segno
from markupsafe import Markup


def code_of(address: str) -> Markup:
    made = segno.make(address, error="m", micro=False)
    return Markup(made.svg_inline(border=4, omitsize=True, svgclass="code", lineclass="lines", light="#fff"))
