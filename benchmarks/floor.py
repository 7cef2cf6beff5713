"""The floor of a reading's post: a bare Flask route that inserts and commits one row, and
answers with a fragment of the same size. Nothing is parsed, checked, judged or drawn."""

from __future__ import annotations

import os

from flask import Flask, request
from sqlalchemy import create_engine, text


def application() -> Flask:
    """The floor as a WSGI application on the benchmark's database."""
    app = Flask(__name__)
    engine = create_engine(os.environ["PLENTAR_DATABASE_URL"])
    fragment = "x" * int(os.environ["PLENTAR_FLOOR_BYTES"])

    @app.post("/floor")
    def insert() -> str:
        with engine.begin() as connection:
            connection.execute(
                text("insert into floor (body) values (:body)"), {"body": request.form["body"]}
            )
        return fragment

    return app
