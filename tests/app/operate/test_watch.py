"""The log, the figures, readiness, and what becomes of an upload that is too large."""

from __future__ import annotations

import http.client
import json
import os
import subprocess
import sys
import uuid
from contextlib import closing

import pytest
import structlog
from sqlalchemy import create_engine, text

from plentar.store.cluster import free_port
from plentar.web.server import gunicorn_command
from plentar.web.uploads import MOST_UPLOAD_BYTES
from tests.app.web.test_proxy import plain_ask, wait_for

pytestmark = pytest.mark.slow
FIGURES = """
import sys
from prometheus_client import CollectorRegistry, generate_latest
from prometheus_client.multiprocess import MultiProcessCollector
registry = CollectorRegistry()
MultiProcessCollector(registry, sys.argv[1])
print(generate_latest(registry).decode())
"""


@pytest.fixture
def server(database_url, tmp_path):
    """A server of its own with its log and its figures: the port, and what each says by now."""
    port, log, figures = free_port(), tmp_path / "log", tmp_path / "figures"
    figures.mkdir()
    env = os.environ | {
        "PLENTAR_DATABASE_URL": database_url,
        "PLENTAR_SECRET_KEY": "x" * 40,
        "PLENTAR_LOG_LEVEL": "info",
        "PROMETHEUS_MULTIPROC_DIR": str(figures),
    }
    with log.open("w") as to:
        process = subprocess.Popen(gunicorn_command(port), env=env, stderr=to, start_new_session=True)
    wait_for(lambda: plain_ask(port, "/health/live") == 200)

    def lines() -> list[dict]:
        return [json.loads(line) for line in log.read_text().splitlines()]

    def counted() -> dict[str, float]:
        line = [sys.executable, "-c", FIGURES, str(figures)]
        said = subprocess.run(line, check=True, capture_output=True, text=True, env=env).stdout
        return {
            name: float(value)
            for name, _, value in (
                one.rpartition(" ") for one in said.split("\n") if one[:1] not in ("#", "")
            )
        }

    yield port, lines, counted
    process.terminate()
    process.wait()


def asked(port: int, method: str, path: str, body: bytes = b"", **headers: str):
    with closing(http.client.HTTPConnection("127.0.0.1", port, timeout=60)) as connection:
        connection.request(method, path, body or None, headers)
        answer = connection.getresponse()
        return answer, answer.read().decode()


def test_each_request_is_a_line_and_its_id_is_on_the_page(server):
    port, lines, counted = server
    answer, page = asked(port, "GET", "/nothing-here")
    assert answer.status == 404
    request_id = answer.headers["X-Request-Id"]
    assert request_id in page
    asked(port, "GET", "/quick?kw=5&volts=240")
    wait_for(lambda: len(requests := [one for one in lines() if one["event"] == "request"]) >= 2 and requests)
    line = next(one for one in lines() if one.get("request_id") == request_id)
    assert {
        "time",
        "method",
        "route",
        "status",
        "seconds",
        "database_s",
        "judge_s",
        "bytes",
        "who",
        "shop",
    } <= set(line)
    assert line["status"] == 404 and line["route"] == "none" and 0 <= line["seconds"] < 10
    assert all("route" not in one or not one["route"].startswith("/health") for one in lines())
    figures = counted()
    assert figures['plentar_requests_total{method="GET",route="/quick",status="200"}'] == 1
    assert figures['plentar_request_seconds_count{route="/quick"}'] == 1
    assert figures["plentar_judge_questions"] == 0


def test_who_asks_and_what_the_database_takes_is_told(app, somebody):
    me = somebody()
    with structlog.testing.capture_logs() as lines:
        me.client.get("/")
    said = next(line for line in lines if line["event"] == "request")
    assert said["who"] == str(me.account.id) and said["shop"] == str(me.account.shop_id)
    assert 0 < said["database_s"] < said["seconds"]


def test_ready_says_no_when_a_write_would_fail(app, database_url, cluster):
    client = app.test_client()
    assert client.get("/health/ready").text == "ready"
    name = database_url.rpartition("/")[2]
    admin = create_engine(cluster.url(name), isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text("revoke update on heartbeat from plentar_rows"))
        try:
            answer = client.get("/health/ready")
            assert answer.status_code == 503 and "takes no write" in answer.text
            assert client.get("/health/live").status_code == 200
        finally:
            connection.execute(text("grant update on heartbeat to plentar_rows"))
    admin.dispose()
    assert client.get("/health/ready").status_code == 200


@pytest.mark.parametrize("path", ["/units/import", "/sign-in", "/nothing-here"])
def test_an_upload_over_its_limit_is_answered_and_not_hung_up_on(server, path):
    port, _, _ = server
    form = {"Content-Type": f"multipart/form-data; boundary={uuid.uuid4().hex}"}
    answer, page = asked(port, "POST", path, b"x" * (20 * MOST_UPLOAD_BYTES), **form)
    assert answer.status in (302, 404, 413) and "Plentar" in page
