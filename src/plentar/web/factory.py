"""The application factory. Migrations run by command, not here."""

from __future__ import annotations

from datetime import timedelta

from flask import Flask
from flask_compress import Compress
from flask_wtf.csrf import CSRFProtect

from plentar.web import assets, database, entry, errors, people, roles, showing, uploads
from plentar.web.auth import device
from plentar.web.auth.choose import choose
from plentar.web.auth.routes import auth
from plentar.web.config import Config
from plentar.web.devices.kinds import kinds
from plentar.web.devices.routes import devices
from plentar.web.guard import Guard
from plentar.web.handover.owner import owner
from plentar.web.handover.pdf import sheet_process
from plentar.web.handover.photos import photos
from plentar.web.handover.report import reports
from plentar.web.handover.routes import handover
from plentar.web.judge_pool import JudgePool
from plentar.web.lane.routes import lane
from plentar.web.pages.routes import pages
from plentar.web.pocket import taken
from plentar.web.pocket.routes import pocket
from plentar.web.practice import after_routes, lesson_routes, routes  # noqa: F401
from plentar.web.practice.blueprint import practice
from plentar.web.quick.routes import quick
from plentar.web.rounds.routes import rounds
from plentar.web.search.parts import parts
from plentar.web.search.routes import search
from plentar.web.security import set_headers
from plentar.web.shop.begin import shop
from plentar.web.shop.people import people as shop_people
from plentar.web.tape.clamp import clamps
from plentar.web.tape.logs import logs
from plentar.web.tape.routes import tape
from plentar.web.units.places import places
from plentar.web.units.routes import units
from plentar.web.visits.guided_routes import guided
from plentar.web.visits.routes import visits
from plentar.web.visits.work_routes import work
from plentar.web.watch import requests

BLUEPRINTS = (
    auth,
    choose,
    lane,
    units,
    places,
    visits,
    devices,
    kinds,
    guided,
    work,
    handover,
    photos,
    reports,
    owner,
    tape,
    logs,
    clamps,
    search,
    parts,
    rounds,
    shop,
    shop_people,
    quick,
    pages,
    pocket,
    practice,
)


def create_app(config: Config) -> Flask:
    app = Flask("plentar.web")
    app.config.update(
        SECRET_KEY=config.secret_key,
        SESSION_COOKIE_NAME="plentar",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_SECURE=config.secure_cookies,
        PERMANENT_SESSION_LIFETIME=timedelta(days=14),
        SESSION_REFRESH_EACH_REQUEST=False,
        WTF_CSRF_TIME_LIMIT=None,  # a visit outlasts an hour; the token lives with the session
        COMPRESS_MIMETYPES=["text/html", "text/css", "text/javascript", "image/svg+xml", "application/json"],
        PLENTAR_DEMO=config.demo,
        PLENTAR_PHOTO_MB=config.photo_mb,
        PLENTAR_DISK=config.disk,
    )
    requests.init_app(app)
    showing.init_app(app)
    database.init_app(app, config.database_url, config.photo_room)
    app.extensions["plentar_judge"] = JudgePool(here=config.judge_here)
    app.extensions["plentar_sheets"] = sheet_process(here=config.judge_here)
    uploads.init_app(app)
    CSRFProtect(app)
    Compress(app)
    people.init_app(app)
    roles.init_app(app)
    device.init_app(app)
    entry.init_app(app)
    errors.init_app(app)
    assets.init_app(app)
    app.after_request(set_headers)
    taken.init_app(app)  # what it answers gets its headers after it
    for blueprint in BLUEPRINTS:
        app.register_blueprint(blueprint)
    app.wsgi_app = Guard(app.wsgi_app, config.hosts, config.proxies)  # type: ignore[assignment, method-assign]
    return app
