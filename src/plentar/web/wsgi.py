"""The application as a WSGI server wants it, configured from the environment."""

from __future__ import annotations

import gc
import logging

from flask import Flask

from plentar.web.config import from_environment
from plentar.web.factory import create_app


def application() -> Flask:
    logging.basicConfig(format="%(asctime)s %(levelname)s %(name)s: %(message)s")
    app = create_app(from_environment())
    # A request makes some ten thousand short-lived objects, and hardly a cycle among them: look
    # for cycles once in a few requests, and never again through what is loaded by now.
    gc.set_threshold(30_000, 20, 20)
    gc.freeze()
    return app
