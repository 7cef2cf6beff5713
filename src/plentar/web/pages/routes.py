"""Help, safety, and the figures that the verdicts stand on."""

from __future__ import annotations

from flask import Blueprint, render_template
from markupsafe import Markup
from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from plentar.core.expected import Word
from plentar.core.said import Said, say
from plentar.core.tables.thresholds import ALL as THRESHOLDS
from plentar.core.tables.thresholds import Threshold
from plentar.core.unit.accuracy import ACCURACY
from plentar.store.database import newest_revision
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.showing import verdict
from plentar.words import has, phrase

pages = Blueprint("pages", __name__)
#: Each mark with what it means: the verdict, whether it is good, and the words.
MARKS = (
    (Word.IN_BAND, True, say("pages.routes.between-what-due-least")),
    (Word.LOW, False, say("pages.routes.less-than-due")),
    (Word.HIGH, False, say("pages.routes.more-than-due")),
    (Word.DEAD, False, say("pages.routes.no-current-where-due")),
    (Word.OPEN, None, say("pages.routes.line-volts-or-no")),
    (Word.CLOSED, None, say("pages.routes.near-zero-across-part")),
    (Word.UNCLEAR, None, say("pages.routes.between-ghost-or-half")),
    (Word.NOT_JUDGED, None, say("pages.routes.nothing-due-here-yet")),
    (Word.NOT_MEASURED, None, say("pages.routes.nobody-has-read-never")),
)


def _marks() -> list[tuple[Markup, Said | str]]:
    shown = [(verdict(word, good), text) for word, good, text in MARKS]
    provisional = verdict(Word.IN_BAND, True, provisional=True)
    return [*shown, (provisional, phrase("pages.routes.provisional-volts-lugs-not"))]


def _source(t: Threshold) -> str:
    source = phrase(f"source.{t.source}")
    return phrase("figures.typical", source=source) if t.typical else source


def _figures() -> list[tuple[str, str, str, str]]:
    """Name, value, what for, and source of every threshold and of every meter."""
    thresholds = [
        (
            phrase(f"threshold.{name}"),
            f"{t:,g} {phrase(f'unit.{t.unit}') if has(f'unit.{t.unit}') else t.unit}",
            phrase(f"threshold.{name}.help"),
            _source(t),
        )
        for name, t in THRESHOLDS.items()
    ]
    meters = [
        (
            phrase("pages.routes.meter", quantity=quantity),
            f"±({100 * a.share:g} % + {a.fixed:g} {quantity.sign})",
            phrase("pages.routes.added-outward-every-due"),
            phrase("pages.routes.field-meters-typical"),
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
        return phrase("pages.routes.no-database"), 503
    newest = newest_revision()
    return (
        ("ready", 200)
        if found == newest
        else (phrase("pages.routes.database-not", found=found, newest=newest), 503)
    )
