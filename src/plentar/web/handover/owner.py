"""The owner's sheet: for those who are signed in, as PDF, and for whoever holds a link to it.

A link is signed, ends, and can be revoked; it shows this sheet and nothing else, and its page has no
address to go on to, so that none is told where it came from.
"""

from __future__ import annotations

import uuid

from flask import Blueprint, Response, current_app, make_response, redirect, render_template, request, url_for
from itsdangerous import BadSignature, URLSafeSerializer

from plentar.files.sheet_settings import SheetSettings
from plentar.store.errors import NotFound
from plentar.store.models import Shop
from plentar.store.owner_links import LASTS_DAYS, links_of, make_link, revoke, standing_link
from plentar.store.photos import pictures
from plentar.store.record import VisitRecord
from plentar.store.visits import find_visit, opener_name
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.entry import parse_entry
from plentar.web.handover.entry import LinkEntry
from plentar.web.handover.pdf import sheet_pdf
from plentar.web.handover.sheet import OwnerSheet
from plentar.web.people import me, signed_in
from plentar.web.visits.answers import mine
from plentar.words import phrase, speaking
from plentar.words.measures import measuring

owner = Blueprint("owner", __name__)
SALT = "owner's sheet"
#: Who opens a link is not let on from it by any address, and no search engine keeps it.
_PRIVATE = {"Referrer-Policy": "no-referrer", "X-Robots-Tag": "noindex, nofollow"}


def _sheet(record: VisitRecord) -> OwnerSheet:
    shop = database().get_one(Shop, record.row.shop_id)
    settings = SheetSettings.model_validate(shop.sheets)
    keys = [photo.key for photo in record.photos]
    of_photos = pictures(database(), shop.id, keys) if keys else {}
    by = opener_name(database(), record.row)
    return OwnerSheet(record, shop.name, by, settings, shop.timezone, of_photos)


def _html(sheet: OwnerSheet, **more: object) -> str:
    """The sheet in the owner's language."""
    with speaking(sheet.settings.language), measuring(sheet.settings.measures):
        return render_template(
            "sheets/owner.html", sheet=sheet, lang=sheet.settings.language, shop=sheet.shop, **more
        )


def _pdf(sheet: OwnerSheet) -> Response:
    name = f"{sheet.unit.id}-{sheet.record.row.started_at:%Y-%m-%d}-owner.pdf"
    return download(sheet_pdf(_html(sheet)), name, "application/pdf")


@owner.get("/visits/<uuid:visit_id>/owner")
@signed_in
def show(visit_id: uuid.UUID) -> str:
    record = mine(visit_id)
    links = [(_token(link.id), link.ends_at) for link in links_of(database(), me().shop_id, visit_id)]
    return _html(_sheet(record), tools=True, links=links, lasts=LASTS_DAYS)


@owner.get("/visits/<uuid:visit_id>/owner.pdf")
@signed_in
def pdf(visit_id: uuid.UUID) -> Response:
    return _pdf(_sheet(mine(visit_id)))


@owner.post("/visits/<uuid:visit_id>/owner/links")
@signed_in
def link(visit_id: uuid.UUID) -> Answer:
    record = mine(visit_id)
    days = parse_entry(LinkEntry, request.form).days
    make_link(database(), me().shop_id, record.row.id, me().id, days)
    database().commit()
    return redirect(url_for("owner.show", visit_id=visit_id, _anchor="links"))


@owner.post("/visits/<uuid:visit_id>/owner/revoke")
@signed_in
def end_links(visit_id: uuid.UUID) -> Answer:
    """From now on no link to this sheet shows anything."""
    mine(visit_id)
    revoke(database(), me().shop_id, visit_id)
    database().commit()
    return redirect(url_for("owner.show", visit_id=visit_id, _anchor="links"))


@owner.get("/sheet/<token>")
def by_link(token: str) -> Response:
    return _private(make_response(_html(_linked(token), held=token)))


@owner.get("/sheet/<token>/sheet.pdf")
def pdf_by_link(token: str) -> Response:
    """The same as PDF."""
    return _private(_pdf(_linked(token)))


def _linked(token: str) -> OwnerSheet:
    """The sheet of a link; raises NotFound, and says no more, whatever is wrong with it."""
    try:
        link_id = uuid.UUID(str(_signer().loads(token)))
    except (BadSignature, ValueError):
        raise NotFound(phrase("handover.owner.this-link-shows-nothing")) from None
    found = standing_link(database(), link_id)
    if found is None:
        raise NotFound(phrase("handover.owner.this-link-shows-nothing"))
    return _sheet(find_visit(database(), found.shop_id, found.visit_id))


def _token(link_id: uuid.UUID) -> str:
    return str(_signer().dumps(str(link_id)))


def _signer() -> URLSafeSerializer:
    return URLSafeSerializer(current_app.secret_key or "", salt=SALT)


def _private(response: Response) -> Response:
    response.headers.update(_PRIVATE)
    return response
