"""The routes of practice: all of them under one address."""

from __future__ import annotations

from flask import Blueprint

practice = Blueprint("practice", __name__, url_prefix="/practice")
