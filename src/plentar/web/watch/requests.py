"""Each request under an id, which its answer, its page and its line in the log have in common."""

from __future__ import annotations

import secrets
import time
from typing import Any

import structlog
from flask import Flask, Response, g, request
from sqlalchemy import Engine, event

from plentar.web.watch.figures import DATABASE_S, REQUESTS, SECONDS, add_spent

HEADER = "X-Request-Id"
_QUIET = ("static", "pages.health", "pages.live", "pages.ready")
_FAILED = 500
log = structlog.get_logger("plentar.request")


def init_app(app: Flask) -> None:
    """To be registered before all else: what comes after it is within its time, and its answer is whole."""

    @app.before_request
    def _begin() -> None:
        if "request_id" in g:  # a page that is shown again within the request that was refused
            g.within = True
            return
        g.request_id, g.began_s = secrets.token_hex(6), time.perf_counter()
        structlog.contextvars.clear_contextvars()
        structlog.contextvars.bind_contextvars(request_id=g.request_id)

    @app.after_request
    def _end(response: Response) -> Response:
        if g.pop("within", False):
            return response
        took_s = time.perf_counter() - g.get("began_s", time.perf_counter())
        route = request.url_rule.rule if request.url_rule else "none"
        spent_s: dict[str, float] = g.get("spent_s", {})
        REQUESTS.labels(request.method, route, str(response.status_code)).inc()
        SECONDS.labels(route).observe(took_s)
        DATABASE_S.observe(spent_s.get("database", 0.0))
        response.headers[HEADER] = g.get("request_id", "")
        if request.endpoint not in _QUIET or response.status_code >= _FAILED:
            write = log.error if response.status_code >= _FAILED else log.info
            write("request", **_told(response, route, took_s, spent_s))
        return response

    @app.template_global()
    def request_id() -> str:
        return str(g.get("request_id", ""))


def _told(response: Response, route: str, took_s: float, spent_s: dict[str, float]) -> dict[str, Any]:
    who = getattr(g.get("_login_user"), "account", None)  # whom this request asked for already
    return {
        "method": request.method,
        "route": route,
        "status": response.status_code,
        "seconds": round(took_s, 4),
        "database_s": round(spent_s.get("database", 0.0), 4),
        "judge_s": round(spent_s.get("judge", 0.0), 4),
        "bytes": None if response.is_streamed else response.content_length,
        "who": str(who.id) if who else None,
        "shop": str(who.shop_id) if who else None,
    }


def watch_engine(engine: Engine) -> None:
    """What the database takes is put down to the request that asks it."""

    def before(_conn: Any, _cursor: Any, _sql: Any, _parameters: Any, context: Any, _many: Any) -> None:
        context.began_s = time.perf_counter()

    def after(_conn: Any, _cursor: Any, _sql: Any, _parameters: Any, context: Any, _many: Any) -> None:
        add_spent("database", time.perf_counter() - context.began_s)

    event.listen(engine, "before_cursor_execute", before)
    event.listen(engine, "after_cursor_execute", after)
