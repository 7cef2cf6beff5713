"""What the doctor finds, and that it is quiet where nothing is amiss."""

from __future__ import annotations

from dataclasses import replace

import pytest
from sqlalchemy import create_engine, text

from plentar.operate.backup import backup_to_folder
from plentar.operate.bring_up import bring_up
from plentar.operate.doctor import BAD, GOOD, LOOK, Found, examine
from plentar.operate.installation import Installation
from plentar.store.cluster import free_port
from plentar.store.private import write_once
from plentar.store.rights import Addresses

pytestmark = pytest.mark.slow


def silent(_line: str) -> None:
    """Nobody listens."""


def found(installation: Installation) -> dict[str, Found]:
    """By the beginning of what was looked at."""
    lines = list(examine(installation, installation.backups, free_port()))
    assert all(line.do == "" for line in lines if line.level == GOOD)
    assert all(line.do for line in lines if line.level != GOOD), "whatever is amiss has something to do"
    return {line.what: line for line in lines}


def worst(lines: dict[str, Found], part: str) -> Found:
    (line,) = [line for what, line in lines.items() if part in what]
    return line


def test_a_good_installation_is_good_but_for_the_network(able, working, monkeypatch):
    monkeypatch.delenv("PLENTAR_SECRET_KEY", raising=False)
    write_once(working.run / "secret", "x" * 64)
    backup_to_folder(working, working.backups, silent)
    lines = found(working)
    assert [line.what for line in lines.values() if line.level == BAD] == []
    assert worst(lines, "takes a write").level == GOOD
    assert worst(lines, "no superuser").level == GOOD
    assert worst(lines, "newest backup is 0 h").level == GOOD
    assert worst(lines, "reached on this machine").level == LOOK
    assert worst(lines, "it serves on port").do.startswith("Nobody answers")


def test_each_thing_amiss_is_found_with_what_to_do(able, working, cluster, monkeypatch):
    name = working.addresses.rows.rpartition("/")[2]
    lines = found(replace(working, addresses=Addresses(cluster.url(name), cluster.url(name))))
    assert worst(lines, "no superuser").level == BAD
    assert "docs/install.md" in worst(lines, "no superuser").do
    assert worst(lines, "no backup in").level == BAD
    owner = replace(working, addresses=Addresses(working.addresses.owner, working.addresses.owner))
    assert worst(found(owner), "owns no table").level == LOOK
    write_once(working.run / "secret", "x" * 64)
    (working.run / "secret").chmod(0o644)
    assert worst(found(working), "is its owner’s alone").level == BAD
    monkeypatch.setenv("PLENTAR_HOSTS", "plentar.example")
    monkeypatch.delenv("PLENTAR_PROXIES", raising=False)
    lines = found(working)
    assert "PLENTAR_PROXIES" in worst(lines, "proxy’s word").do
    assert "PLENTAR_SECURE_COOKIES" in worst(lines, "cookies").do
    nowhere = "postgresql+psycopg://a:b@127.0.0.1:9/none"
    lines = found(replace(working, addresses=Addresses(nowhere, nowhere)))
    assert "does not answer" in worst(lines, "127.0.0.1:9/none").do


def test_a_database_that_is_behind_is_to_be_upgraded(able, empty):
    installation = empty()
    bring_up(installation.addresses)
    engine = create_engine(installation.addresses.owner)
    with engine.begin() as connection:
        connection.execute(text("update alembic_version set version_num = '0018'"))
    engine.dispose()
    assert "plentar upgrade" in worst(found(installation), "the database is at 0018").do
