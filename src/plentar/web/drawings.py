"""The drawing in both forms, as pages include it; the style sheet shows the one that fits."""

from __future__ import annotations

from markupsafe import Markup

from plentar.core.unit import Unit
from plentar.drawing.ladder import FORMS, Scene, draw


def both_forms(unit: Unit, scene: Scene) -> Markup:
    """Wide and narrow, one after the other."""
    return Markup("".join(draw(unit, form, scene) for form in FORMS))
