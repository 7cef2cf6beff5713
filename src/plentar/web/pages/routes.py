"""Help, the figures that the verdicts stand on, and whether the server works."""

from __future__ import annotations

from flask import Blueprint, abort, render_template, request, url_for
from markupsafe import Markup
from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from plentar.core.quantity import DEGREES, Quantity
from plentar.core.tables.thresholds import ALL as THRESHOLDS
from plentar.core.tables.thresholds import Threshold
from plentar.core.unit.accuracy import ACCURACY
from plentar.store.database import newest_revision
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.pages import help
from plentar.words import has, phrase
from plentar.words.numbers import plain

pages = Blueprint("pages", __name__)


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
            f"±({100 * a.share:g} % + {plain(a.fixed, DEGREES if quantity is Quantity.TEMP_F else quantity.sign)})",
            phrase("pages.routes.added-outward-every-due"),
            phrase("pages.routes.field-meters-typical"),
        )
        for quantity, a in ACCURACY.items()
    ]
    return thresholds + meters


@pages.app_template_global()
def help_name() -> str:
    """The page that explains the screen that is being shown."""
    return help.OF_SCREEN.get(request.blueprint or "", help.SAFETY)


@pages.app_template_global()
def help_link(name: str) -> Markup:
    """A link to a page of the help, for the place where it is needed."""
    said = phrase("page.base.help")
    title = phrase(f"help.{name}.title")
    to = url_for("pages.help_page", name=name)
    return Markup('<a class="helplink" href="{}" aria-label="{}: {}">{}</a>').format(to, said, title, said)


@pages.get("/help")
@pages.get("/help/<name>")
def help_page(name: str = help.SAFETY) -> Answer:
    """A page of the help; with ``words`` those that have them, and the lines where they stand."""
    words = request.args.get("words", "").strip()[:80]
    if name not in help.PAGES:
        abort(404)
    shown = help.search(words) if words else [help.help_page(name)]
    listed = [help.help_page(one) for one in help.PAGES]
    return render_template("pages/help.html", pages=listed, shown=shown, words=words, name=name)


@pages.get("/help/figures")
def figures() -> Answer:
    """Every threshold and every meter's accuracy, with their sources."""
    return render_template("pages/figures.html", figures=_figures())


@pages.get("/health")
@pages.get("/health/live", endpoint="live")
def health() -> Answer:
    """That the server answers, whatever its database does."""
    return "ok", 200


@pages.get("/health/ready")
def ready() -> Answer:
    """That it can work: the database answers, is at the newest migration, and takes a write."""
    try:
        found = database().execute(text("select version_num from alembic_version")).scalar()
    except SQLAlchemyError:
        return phrase("pages.routes.no-database"), 503
    if found == newest_revision():
        try:
            database().execute(text("update heartbeat set at = now()"))
            database().commit()
        except SQLAlchemyError:
            return phrase("pages.routes.no-write"), 503
    newest = newest_revision()
    return (
        ("ready", 200)
        if found == newest
        else (phrase("pages.routes.database-not", found=found, newest=newest), 503)
    )
