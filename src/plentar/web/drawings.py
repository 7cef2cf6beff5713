"""The drawing in both forms, as pages include it; the style sheet shows the one that fits."""

from __future__ import annotations

from collections.abc import Collection

from markupsafe import Markup

from plentar.core.unit import Unit
from plentar.drawing.ladder import FORMS, Scene, draw, redraw


def both_forms(unit: Unit, scene: Scene) -> Markup:
    """Wide and narrow, one after the other."""
    return Markup("".join(draw(unit, form, scene) for form in FORMS))


def changed_parts(unit: Unit, scene: Scene, changed: Collection[str]) -> Markup:
    """Some parts of both forms, for htmx to put in their places."""
    parts = "".join(redraw(unit, form, scene, changed) for form in FORMS)
    return Markup(f"<template><svg>{parts}</svg></template>")
