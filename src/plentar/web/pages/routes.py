"""Help, safety, and the figures that the verdicts stand on."""

from __future__ import annotations

from flask import Blueprint, render_template
from markupsafe import Markup
from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from plentar.core.expected import Word
from plentar.core.tables.thresholds import ALL as THRESHOLDS
from plentar.core.unit.accuracy import ACCURACY
from plentar.store.database import newest_revision
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.showing import verdict
from plentar.words import has, phrase

pages = Blueprint("pages", __name__)
#: Each mark with what it means: the verdict, whether it is good, and the words.
MARKS = (
    (Word.IN_BAND, True, "between what is due at least and at most"),
    (Word.LOW, False, "less than due"),
    (Word.HIGH, False, "more than due"),
    (Word.DEAD, False, "no current where it is due"),
    (Word.OPEN, None, "line volts or no path across a part"),
    (Word.CLOSED, None, "near zero across a part"),
    (Word.UNCLEAR, None, "in between: a ghost, or half a supply"),
    (Word.NOT_JUDGED, None, "nothing is due here yet; it says why"),
    (Word.NOT_MEASURED, None, "nobody has read it; never taken for zero"),
)


def _marks() -> list[tuple[Markup, str]]:
    shown = [(verdict(word, good), text) for word, good, text in MARKS]
    provisional = verdict(Word.IN_BAND, True, provisional=True)
    return [*shown, (provisional, "provisional: volts at the lugs not measured yet")]


def _figures() -> list[tuple[str, str, str, str]]:
    """Name, value, what for, and source of every threshold and of every meter."""
    thresholds = [
        (
            phrase(f"threshold.{name}"),
            f"{t:,g} {phrase(f'unit.{t.unit}') if has(f'unit.{t.unit}') else t.unit}",
            phrase(f"threshold.{name}.help"),
            phrase(f"source.{t.source}") + (" (typical)" if t.typical else ""),
        )
        for name, t in THRESHOLDS.items()
    ]
    meters = [
        (
            f"meter, {quantity}",
            f"±({100 * a.share:g} % + {a.fixed:g} {quantity.sign})",
            "added outward to every due band",
            "field meters (typical)",
        )
        for quantity, a in ACCURACY.items()
    ]
    return thresholds + meters


@pages.get("/help")
def help_page() -> Answer:
    """What the marks mean, the cautions, and every threshold with its source."""
    return render_template("pages/help.html", marks=_marks(), figures=_figures())


@pages.get("/health")
@pages.get("/health/live", endpoint="live")
def health() -> Answer:
    """That the server answers, whatever its database does."""
    return "ok", 200


@pages.get("/health/ready")
def ready() -> Answer:
    """That it can work: the database answers, and is at the newest migration."""
    try:
        found = database().execute(text("select version_num from alembic_version")).scalar()
    except SQLAlchemyError:
        return "no database", 503
    newest = newest_revision()
    return ("ready", 200) if found == newest else (f"database at {found}, not {newest}", 503)
