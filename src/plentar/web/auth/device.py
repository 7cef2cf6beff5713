"""The mark of a browser that has signed in to an account before: signed, and kept for a year.

Tries from it are counted by themselves, so that guessing from elsewhere never keeps its owner out.
"""

from __future__ import annotations

import uuid

from flask import Flask, Response, current_app, request
from flask_login import current_user
from itsdangerous import BadSignature, URLSafeSerializer

NAME, A_YEAR_S, OK = "device", 31_536_000, 200


def known_device(login: str) -> uuid.UUID | None:
    """The mark that this browser carries for a login, if it is one of ours."""
    try:
        of_login, device = _serializer().loads(request.cookies.get(NAME, ""))
        return uuid.UUID(device) if of_login == login else None
    except (BadSignature, ValueError, TypeError):
        return None


def init_app(app: Flask) -> None:
    """Mark a browser on the page that follows signing in, where it is not marked yet."""

    @app.after_request
    def _mark(response: Response) -> Response:
        shown = request.endpoint == "lane.show" and response.status_code == OK
        if shown and current_user.is_authenticated:
            login = current_user.account.login
            if known_device(login) is None:
                response.set_cookie(
                    NAME,
                    _serializer().dumps([login, str(uuid.uuid4())]),
                    max_age=A_YEAR_S,
                    httponly=True,
                    samesite="Lax",
                    secure=bool(app.config["SESSION_COOKIE_SECURE"]),
                )
        return response


def _serializer() -> URLSafeSerializer:
    return URLSafeSerializer(str(current_app.config["SECRET_KEY"]), salt="plentar device")
