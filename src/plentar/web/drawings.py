"""The drawing in both forms, as pages include it; the style sheet shows the one that fits."""

from __future__ import annotations

import base64
from collections.abc import Iterable

from markupsafe import Markup

from plentar.core.unit.unit import Unit
from plentar.drawing.ladder import draw_control_side, draw_line_side, draw_surroundings, redraw
from plentar.drawing.parts import FORMS, Scene


def line_side(unit: Unit, scene: Scene) -> Markup:
    """Supply circuits, rungs and blower: wide and narrow, one after the other."""
    return Markup("".join(draw_line_side(unit, form, scene) for form in FORMS))


def control_side(unit: Unit, scene: Scene) -> Markup:
    """The 24 V side, wide and narrow."""
    return Markup("".join(draw_control_side(unit, form, scene) for form in FORMS))


def surroundings(unit: Unit, scene: Scene) -> Markup:
    """The supplies from panel to kit and the air path, wide and narrow."""
    return Markup("".join(draw_surroundings(unit, form, scene) for form in FORMS))


def changed_parts(unit: Unit, scene: Scene, changed: Iterable[str]) -> Markup:
    return Markup(f"<template><svg>{redraw(unit, scene, changed)}</svg></template>")


def data_address(raw: bytes, kind: str) -> str:
    return f"data:{kind};base64,{base64.b64encode(raw).decode()}"


def svg_address(svg: str) -> str:
    return data_address(svg.encode(), "image/svg+xml")
