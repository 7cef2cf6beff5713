"""The application as a WSGI server wants it, configured from the environment."""

from __future__ import annotations

import gc

from flask import Flask

from plentar.web.config import from_environment
from plentar.web.factory import create_app
from plentar.web.watch.log import set_up


def application() -> Flask:
    set_up()
    app = create_app(from_environment())
    # A request makes some ten thousand short-lived objects, and hardly a cycle among them: look
    # for cycles once in a few requests, and never again through what is loaded by now.
    gc.set_threshold(30_000, 20, 20)
    gc.freeze()
    return app
