"""Taking units along, the bench without signal, and the contact at which a phone sends what it kept."""

from __future__ import annotations

import json
import uuid
from hashlib import sha256
from typing import Any

from flask import Blueprint, Response, jsonify, render_template, request, url_for
from flask_login import current_user
from flask_wtf.csrf import generate_csrf
from sqlalchemy import select

from plentar.files.handover_json import PHOTO_KINDS
from plentar.store.models import Account, now
from plentar.store.rounds import rounds_of, stops_of
from plentar.store.units import find_unit, list_units
from plentar.store.visit_lists import calls_of, visits_of_unit
from plentar.store.visits import find_visit
from plentar.web.assets import asset, kept_on_phones
from plentar.web.database import database
from plentar.web.pages import help
from plentar.web.people import me, signed_in
from plentar.web.pocket.bundle import bundle
from plentar.web.pocket.said import pocket_words
from plentar.web.showing import local
from plentar.words import chosen, language
from plentar.words.visits import complaints, outcomes

pocket = Blueprint("pocket", __name__)
#: How long what was taken along is good for, days.
GOOD_FOR_DAYS = 14
MOST_UNITS = 60


@pocket.get("/pocket")
def show() -> str:
    """The bench without signal; it holds nothing of a shop, the phone does."""
    return render_template(
        "pocket/pocket.html",
        words=json.dumps(pocket_words(), ensure_ascii=False),
        good_for_days=GOOD_FOR_DAYS,
        complaints=complaints(),
        outcomes=outcomes(),
        safety=help.help_page(help.SAFETY),
        kinds={kind: chosen(kind) for kind in PHOTO_KINDS},
    )


@pocket.get("/worker.js")
def worker() -> Response:
    """The service worker, with the names of the files that it keeps."""
    kept = json.dumps([url_for("pocket.show"), *kept_on_phones()])
    mark = sha256(f"{kept}{language()}{show()}".encode()).hexdigest()[:10]
    text = render_template("pocket/worker.js", kept=kept, mark=mark)
    return Response(text, mimetype="text/javascript")


@pocket.get("/app.webmanifest")
def manifest() -> Response:
    told = {
        "name": "Plentar",
        "short_name": "Plentar",
        "id": "/",
        "start_url": url_for("lane.show"),
        "scope": "/",
        "display": "standalone",
        "background_color": "#1d2327",
        "theme_color": "#1d2327",
        "icons": [
            {"src": asset(f"icon-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png"}
            for size in (192, 512)
        ],
    }
    return Response(json.dumps(told), mimetype="application/manifest+json")


@pocket.get("/outbox")
def contact() -> Response:
    """What a phone asks before it sends: the server's clock, who is signed in, a token. Where nobody is: whether
    the account that its data belong to has ended."""
    told: dict[str, Any] = {"now_ms": round(1000 * now().timestamp())}
    if current_user.is_authenticated:
        return jsonify(told | {"account": str(me().id), "name": me().name, "token": generate_csrf()})
    answer = jsonify(told | {"gone": _ended(request.args.get("account", ""))})
    answer.status_code = 401
    return answer


def _ended(account: str) -> bool:
    try:
        account_id = uuid.UUID(account)
    except ValueError:
        return False
    known = database().execute(select(Account.ended_at).where(Account.id == account_id)).first()
    return known is None or known[0] is not None


@pocket.get("/pocket/route.json")
@signed_in
def route() -> Response:
    """What is taken along: the units of the newest route that are not done, and of today's visits."""
    session, shop_id = database(), me().shop_id
    today = local(now()).replace(hour=0, minute=0, second=0, microsecond=0)
    rounds = rounds_of(session, shop_id)
    stops = stops_of(session, rounds[0][0]) if rounds else []
    wanted = [call.unit_id for call in calls_of(session, shop_id, today) if call.closed_at is None]
    wanted += [stop.unit_id for stop in stops if not stop.done]
    chosen = list(dict.fromkeys(wanted))[:MOST_UNITS]
    known = {record.row.id: record for record in list_units(session, shop_id, chosen)}
    units = [
        {
            "unit": str(unit_id),
            "label": known[unit_id].unit.label,
            "at": url_for("pocket.take", unit_id=unit_id),
        }
        for unit_id in chosen
        if unit_id in known
    ]
    return jsonify(units=units, account=str(me().id))


@pocket.get("/pocket/units/<uuid:unit_id>.json")
@signed_in
def take(unit_id: uuid.UUID) -> Response:
    """One unit as a phone takes it along."""
    session, shop_id = database(), me().shop_id
    record = find_unit(session, shop_id, unit_id)
    begun = next((v for v in visits_of_unit(session, shop_id, unit_id) if v.closed_at is None), None)
    visit = find_visit(session, shop_id, begun.id) if begun else None
    return jsonify(bundle(record, me().shop_settings, visit))
