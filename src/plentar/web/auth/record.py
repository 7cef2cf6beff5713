"""What an installation's log says of signing in: one line an event, with the account and from where.
The time is the log's own."""

from __future__ import annotations

import logging

from flask import request

log = logging.getLogger("plentar.security")


def note(what: str, login: str) -> None:
    """One event. What people type is written as Python's text, so that it can't make a line of its own."""
    log.warning("%s: %s from %s", what, ascii(login[:200]), ascii(request.remote_addr or "?"))
