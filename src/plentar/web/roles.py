"""Who may ask for what: the one table, held before every route, and walked over all of them by a test."""

from __future__ import annotations

from flask import Flask, abort, request
from flask_login import current_user

#: For everybody, signed in or not.
EVERYBODY = frozenset(
    {
        "static",
        "auth.sign_in",
        "auth.check_in",
        "auth.choose_theme",
        "choose.show",
        "choose.take",
        "owner.by_link",
        "owner.pdf_by_link",
        "pages.figures",
        "pages.health",
        "pages.help_page",
        "pages.live",
        "pages.ready",
        "pocket.contact",
        "pocket.manifest",
        "pocket.show",
        "pocket.worker",
        "quick.show",
    }
)
#: For a shop's leads: its people, its settings, its data, and opening a visit again.
LEADS = frozenset(
    {
        "auth.choose_judging",
        "auth.choose_sheets",
        "auth.choose_timezone",
        "handover.reopen",
        "parts.leave",
        "parts.use",
        "people.ask_in",
        "people.change",
        "people.one",
        "people.show",
        "practice.add_lesson",
        "practice.lesson_text",
        "practice.remove_lesson",
        "shop.ask",
        "shop.begin",
        "shop.first_units",
        "shop.send",
        "shop.show",
        "shop.take_in",
    }
)
#: All else is for whoever is signed in to the shop.


def init_app(app: Flask) -> None:
    @app.before_request
    def _check_role() -> None:
        if (
            request.endpoint in LEADS
            and current_user.is_authenticated
            and current_user.account.role != "lead"
        ):
            abort(403)
