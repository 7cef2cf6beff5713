"""Starting: two at once, one after a kill, and never the demo's accounts for a shop."""

from __future__ import annotations

import uuid
from concurrent.futures import ThreadPoolExecutor

import click
import pytest
from sqlalchemy import create_engine, func, select, text

from plentar.cli import serve
from plentar.store.cluster import project_cluster
from plentar.store.database import connect, databases, ensure_database, migrate
from plentar.store.demo.load import load_demo
from plentar.store.models import Shop
from plentar.store.private import write_once
from tests.app.conftest import HOME


@pytest.fixture
def empty_url(database_url: str):
    cluster = project_cluster(HOME, "test-postgres")
    name = f"start_{uuid.uuid4().hex[:8]}"
    ensure_database(cluster.url("postgres"), name)
    assert name in databases(cluster.url("postgres"))
    yield cluster.url(name)
    engine = create_engine(cluster.url("postgres"), isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        connection.execute(text(f"drop database {name} with (force)"))
    engine.dispose()


@pytest.fixture
def own_home(tmp_path, monkeypatch, empty_url):
    monkeypatch.setenv("PLENTAR_HOME", str(tmp_path))
    monkeypatch.setenv("PLENTAR_DATABASE_URL", empty_url)
    monkeypatch.delenv("PLENTAR_SECRET_KEY", raising=False)
    return tmp_path


def shops(url: str) -> int:
    sessions = connect(url)
    with sessions() as session:
        found = session.scalar(select(func.count(Shop.id)))
    sessions.kw["bind"].dispose()
    return found


def test_two_first_starts_at_once_make_one_demo(own_home, empty_url):
    with ThreadPoolExecutor(2) as pool:
        started = [pool.submit(serve._prepare, "any", load_demo) for _ in range(2)]
        assert {done.result() for done in started} == {empty_url}
    assert shops(empty_url) == 1
    assert len((own_home / ".run" / "secret").read_text()) == 64


def test_a_database_with_the_demos_accounts_is_not_served(own_home, empty_url, monkeypatch):
    served = []
    monkeypatch.setattr(serve, "_serve", served.append)
    serve.serve.callback(port=0)
    assert served == [0]
    serve._prepare("any", load_demo)
    with pytest.raises(click.ClickException, match="published"):
        serve.serve.callback(port=0)


def test_a_demo_of_before_gets_a_database_of_its_own(tmp_path, monkeypatch):
    monkeypatch.setenv("PLENTAR_HOME", str(tmp_path))
    cluster = project_cluster(tmp_path, "postgres")
    try:
        cluster.start()
        server = cluster.url("postgres")
        ensure_database(server, "plentar")
        serve._part_from_shops()
        assert "plentar" in databases(server), "an empty one is nobody's demo"
        migrate(cluster.url("plentar"))
        with serve.session_on(cluster.url("plentar")) as session:
            load_demo(session)
        serve._part_from_shops()
        assert {"plentar_demo"} == databases(server) & {"plentar", "plentar_demo"}
    finally:
        cluster.stop()


def test_a_secret_is_made_once_for_its_owner_and_through_no_link(tmp_path):
    path = tmp_path / "secret"
    assert write_once(path, "first") == "first"
    assert write_once(path, "second") == "first"
    assert path.stat().st_mode & 0o777 == 0o600
    link = tmp_path / "link"
    link.symlink_to(tmp_path / "elsewhere")
    with pytest.raises(OSError, match="link"):
        write_once(link, "text")
    assert not (tmp_path / "elsewhere").exists()


def test_the_embedded_server_keeps_its_port(tmp_path):
    cluster = project_cluster(tmp_path, "port-postgres")
    try:
        first = cluster.start()
        cluster.stop()
        assert cluster.start() == first
    finally:
        cluster.stop()
