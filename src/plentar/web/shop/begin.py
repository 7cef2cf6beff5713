"""The first page of a new shop: its time, how high it lies, what it reads."""

from __future__ import annotations

from typing import Annotated
from zoneinfo import available_timezones

from flask import redirect, render_template, request, url_for
from pydantic import BaseModel, Field

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.files.sheet_settings import SheetSettings
from plentar.files.visit_file import parse_model
from plentar.files.visit_json import SettingsJson
from plentar.store.accounts import has_begun, set_judging, set_sheets, set_timezone
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.entry import Form, Number, parse_entry, required
from plentar.web.people import me, signed_in
from plentar.web.shop.routes import shop
from plentar.words import measures
from plentar.words.language import LANGUAGES
from plentar.words.measures import Measures

__all__ = ["BeginEntry", "shop"]


class BeginEntry(BaseModel):
    """What every visit of the shop stands on."""

    timezone: Annotated[str, Field(max_length=60), required(say("shop.begin.which-zone"))]
    altitude: Number
    length: str = "ft"
    screens: str = "en"


@shop.get("/begin")
@signed_in
def ask() -> str:
    return _page(Form({"length": "ft", "screens": me().language}))


@shop.post("/begin")
@signed_in
def begin() -> Answer:
    """Keep the answers; each is found under Account afterwards."""
    try:
        entry = parse_entry(BeginEntry, request.form)
        set_timezone(database(), me().shop_id, entry.timezone.strip())
        sheets = parse_model(
            SheetSettings,
            me().shop_sheets | {"length": entry.length, "screens": entry.screens, "language": entry.screens},
        )
        with measures.measuring(Measures(length=sheets.length)):
            altitude_ft = measures.kept(entry.altitude, "ft")
        try:
            settings = parse_model(SettingsJson, me().shop_settings | {"altitude_ft": altitude_ft})
        except BadInput as bad:
            raise BadInput("altitude", bad.reason) from None
    except BadInput as bad:
        database().rollback()
        return _page(Form(request.form, bad)), 422
    set_judging(database(), me().shop_id, settings.model_dump())
    set_sheets(database(), me().shop_id, sheets)
    has_begun(database(), me().shop_id)
    database().commit()
    return redirect(url_for("lane.show"))


def _page(form: Form) -> str:
    return render_template(
        "shop/begin.html",
        form=form,
        zones=sorted(zone for zone in available_timezones() if "/" in zone or zone == "UTC"),
        lengths={"ft": say("shop.begin.length-ft"), "m": say("shop.begin.length-m")},
        languages=LANGUAGES,
    )
