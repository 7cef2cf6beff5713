"""Help, safety, and the figures that the verdicts stand on."""

from __future__ import annotations

from flask import Blueprint, render_template

from plentar.core.door import ACCURACY, THRESHOLDS

pages = Blueprint("pages", __name__)


@pages.get("/help")
def help_page() -> str:
    """What the marks mean, the cautions, and every threshold with its source."""
    return render_template("pages/help.html", thresholds=THRESHOLDS, accuracy=ACCURACY)


@pages.get("/health")
def health() -> tuple[str, int]:
    """That the server answers."""
    return "ok", 200
