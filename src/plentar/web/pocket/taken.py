"""When something was done that is sent later: each write says when the finger went down.

A phone sends what it kept in the order in which it was done, each entry with its time by the server's clock
(the phone measures the offset at each contact). What was done a while ago is a fact: it is stored, and not
asked for leave.
"""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta

from flask import Flask, Response, g, jsonify, request, url_for
from flask_login import current_user

from plentar.core.errors import BadInput
from plentar.store.models import now
from plentar.store.record import LATE
from plentar.store.visits import stored_as
from plentar.web.database import database
from plentar.web.people import me
from plentar.words import phrase

#: Milliseconds since 1970 by the server's clock.
TAKEN = "Plentar-Taken"
#: It is sent from the queue: the answer is for a program.
OUTBOX = "Plentar-Outbox"
#: Longer ago than this it waited for signal, and nobody stands in front of the answer.
WAITED = timedelta(seconds=10)
LONGEST = timedelta(days=366)


def init_app(app: Flask) -> None:
    app.before_request(_stored_before)
    app.after_request(_for_a_queue)


def _stored_before() -> tuple[str, int] | None:
    """An entry whose answer was lost on the way is stored already, whatever stands now: asked before its gates."""
    visit_id = (request.view_args or {}).get("visit_id")
    if not from_queue() or visit_id is None or not current_user.is_authenticated:
        return None
    try:
        client_id = uuid.UUID(request.form.get("client_id", ""))
    except ValueError:
        return None
    known = stored_as(database(), me().shop_id, visit_id, client_id)
    if known is None:
        return None
    g.late = known == LATE
    return "", 204


def from_queue() -> bool:
    """It is sent by a program that kept it."""
    return OUTBOX in request.headers and request.method == "POST"


def taken_at() -> datetime | None:
    """When this was done, where the request says so, and never in the future. Raises BadInput."""
    said = request.headers.get(TAKEN)
    if said is None:
        return None
    arrived: datetime = g.setdefault("arrived", now())
    try:
        at = datetime.fromtimestamp(int(said) / 1000, UTC)
    except (ValueError, OverflowError, OSError):
        raise BadInput(TAKEN, phrase("pocket.no-time")) from None
    if arrived - at > LONGEST:
        raise BadInput(TAKEN, phrase("pocket.no-time"))
    return min(at, arrived)


def waited() -> bool:
    """It was done a while ago: what it says has happened."""
    at = taken_at()
    return at is not None and now() - at > WAITED


def _for_a_queue(response: Response) -> Response:
    """What the queue is told: stored, stored beside the evidence because it came late, or why not."""
    if not from_queue():
        return response
    code = response.status_code
    to_sign_in = response.location is not None and response.location.startswith(url_for("auth.sign_in"))
    if to_sign_in:
        told, code = jsonify(reason=phrase("pocket.sign-in-to-send")), 401
    elif code < 400:
        state = "late" if g.get("late") else "stored"
        told, code = jsonify(state=state, visit=g.get("visit"), to=response.location), 200
    else:
        told = jsonify(reason=g.get("refusal") or phrase("pocket.not-stored"), visit=g.get("visit"))
    told.status_code = code
    if "Retry-After" in response.headers:
        told.headers["Retry-After"] = response.headers["Retry-After"]
    return told
