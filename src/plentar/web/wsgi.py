"""The application as a WSGI server wants it, configured from the environment."""

from __future__ import annotations

import gc

from flask import Flask

from plentar.web.config import from_environment
from plentar.web.factory import create_app


def application() -> Flask:
    """The application of this environment."""
    app = create_app(from_environment())
    gc.freeze()  # what is loaded by now stays; no need to look through it on every collection
    return app
