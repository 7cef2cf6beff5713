"""The whole drawing as a file of its own: both sides, one above the other, with its own colours."""

from __future__ import annotations

import re

from plentar.core.unit.unit import Unit
from plentar.drawing.ladder import draw_control_side, draw_line_side
from plentar.drawing.parts import WIDE, Scene

_STYLE = """
svg{fill:none;stroke:#1d2327;stroke-width:2;stroke-linecap:round;stroke-linejoin:round}
text{fill:#1d2327;stroke:none;font-family:"Plentar Text",sans-serif;font-size:14px;text-anchor:middle}
.id,.leg{font-weight:700}.leg{fill:#9c4318}.plate,.from{fill:#545c60;font-size:13px}
.from{text-anchor:start}.read{font-weight:700;font-size:20px}.touch{fill:none;stroke:none}
.rail{stroke:#9c4318;stroke-width:6}.rail.off{stroke:#8d8779;stroke-dasharray:14 9}
.rail.proved-dead{stroke:#0f6153;stroke-width:4;stroke-dasharray:2 8}
.wire{stroke:#8d8779;stroke-width:2.5}.wire.live{stroke:#9c4318}.wire.flow{stroke-width:5}
.post,.link{fill:#fff}.lever,.disc,.heater{stroke-width:4}.heater{stroke:#9c4318}
.node,.solid{fill:#1d2327;stroke:none}.tone-good{stroke:#0f6153}.tone-good text{fill:#0f6153}
.tone-bad,.tone-high{stroke:#a3161c}.tone-bad text,.tone-high text{fill:#a3161c}
.tone-low{stroke:#55389c}.tone-low text{fill:#55389c}
""".strip()
_HEIGHT = re.compile(r'viewBox="0 0 \d+ (\d+)"')


def standalone(unit: Unit, scene: Scene, *, control: bool = True) -> str:
    """An SVG document of a unit, its control side left out on demand; links are left out, for they
    lead nowhere in a file."""
    sides = [draw_line_side(unit, WIDE, scene)]
    if control:
        sides.append(draw_control_side(unit, WIDE, scene))
    heights = [int(found[1]) for side in sides if (found := _HEIGHT.search(side))]
    placed = "".join(
        side.replace("<svg ", f'<svg x="0" y="{y}" width="{WIDE.width}" height="{height}" ', 1)
        for side, y, height in zip(sides, (0, heights[0]), heights, strict=False)
    )
    placed = re.sub(r"<a ([^>]*)>", r"<g>", placed).replace("</a>", "</g>")
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE.width} {sum(heights)}"'
        f' width="{WIDE.width}" height="{sum(heights)}"><style>{_STYLE}</style>'
        f'<rect width="100%" height="100%" fill="#fff" stroke="none"/>{placed}</svg>\n'
    )
