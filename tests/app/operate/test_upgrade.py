"""Demos as earlier versions loaded and stored them, brought to this one, used, and brought back."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import pytest
from alembic.script import ScriptDirectory
from bs4 import BeautifulSoup
from sqlalchemy import create_engine, select, text
from sqlalchemy.orm import Session

import plentar
from plentar.operate import upgrade as versions
from plentar.operate.backup import backups_in, postgres_env, postgres_program
from plentar.operate.bring_up import NotReady, revision_of
from plentar.operate.contents import counts, events_hash
from plentar.operate.installation import Installation, session_on
from plentar.operate.releases import RELEASES, NoSuchRelease, migration_of
from plentar.store.database import MIGRATIONS, known_revisions, newest_revision
from plentar.store.demo.load import PASSWORD
from plentar.store.digests import fill_missing
from plentar.store.models import Shop, ShopPhoto, now
from plentar.store.photo_room import room_at
from plentar.store.photos import move_out
from plentar.web.config import Config
from plentar.web.factory import create_app
from tests.app.conftest import HOME

pytestmark = pytest.mark.slow
#: Written by pg_dump from databases that those versions had made: by migration, and by release.
OLDER = sorted((HOME / "tests" / "app" / "older").glob("*.dump"))


def silent(_line: str) -> None:
    """Nobody listens."""


def put_in(installation: Installation, dump: Path) -> None:
    env = postgres_env(installation.addresses.owner)
    line = [postgres_program("pg_restore"), "--no-owner", "--no-privileges", "--dbname", env["PGDATABASE"]]
    subprocess.run([*line, str(dump)], env=env, check=True)


def held(installation: Installation) -> tuple[dict[str, int], str]:
    engine = create_engine(installation.addresses.owner)
    with Session(engine) as session:
        found = counts(session), events_hash(session)
    engine.dispose()
    return found


@pytest.mark.parametrize("dump", OLDER, ids=lambda dump: dump.stem)
def test_what_an_earlier_version_stored_is_taken_over_used_and_brought_back(empty, dump):
    installation = empty()
    put_in(installation, dump)
    before, rows = revision_of(installation.addresses.owner), held(installation)[0]
    versions.upgrade(installation, silent)
    assert revision_of(installation.addresses.owner) == newest_revision()
    if before != newest_revision():
        assert len(backups_in(installation.backups)) == 1
    after, events = held(installation)
    kept = ("shop", "account", "unit", "unit_version", "visit", "visit_event")
    assert {table: after[table] for table in kept} == {table: rows[table] for table in kept}
    use(installation)
    versions.downgrade(installation, before, silent, backup=False)
    assert revision_of(installation.addresses.owner) == before
    back = held(installation)[0]
    assert {table: back[table] for table in kept} == {table: rows[table] for table in kept}
    versions.upgrade(installation, silent, backup=False)
    assert held(installation)[1] == events


def use(installation: Installation) -> None:
    """Sign in, look at the lane, every unit on it, finished visits' reports."""
    with session_on(installation.addresses.rows) as session:
        fill_missing(session)
    app = create_app(Config(installation.addresses.rows, "x" * 40, judge_here=True))
    app.config.update(TESTING=True, WTF_CSRF_ENABLED=False)
    client = app.test_client()
    assert client.post("/sign-in", data={"login": "ines", "password": PASSWORD}).status_code == 302
    lane = client.get("/")
    assert lane.status_code == 200
    homes = {a["href"] for a in BeautifulSoup(lane.text, "html.parser").select("a.house, a.line")}
    assert len(homes) >= 14
    pages = [client.get(href) for href in sorted(homes)]
    assert {page.status_code for page in pages} == {200}
    reports = {found for page in pages for found in re.findall(r"/visits/[0-9a-f-]+/report", page.text)}
    assert reports and {client.get(href).status_code for href in sorted(reports)[:3]} == {200}
    app.extensions["plentar_sessions"].kw["bind"].dispose()


def test_this_release_has_its_migration_and_is_among_what_is_tried(empty):
    assert RELEASES[plentar.__version__] == newest_revision(), "a new migration is of a new release"
    assert any(dump.stem == f"release-{plentar.__version__}" for dump in OLDER)
    assert len(OLDER) >= 4
    assert migration_of("0.1.0") == "0003", "visits, their notes and their logs were in it"
    with pytest.raises(NoSuchRelease, match=re.escape("0.2.0")):
        migration_of("7.7.7")


def test_the_migrations_are_known_by_their_files(empty):
    """As Alembic itself finds them."""
    script = ScriptDirectory(str(MIGRATIONS))
    assert {one.revision for one in script.walk_revisions()} == known_revisions()
    assert script.get_current_head() == newest_revision()


def test_a_downgrade_that_would_lose_pictures_is_one_line_and_changes_nothing(empty, tmp_path):
    installation = empty()
    put_in(installation, next(dump for dump in OLDER if dump.stem.startswith("release-")))
    versions.upgrade(installation, silent)
    with session_on(installation.addresses.rows) as session:
        shop_id = session.scalar(select(Shop.id))
        session.add(ShopPhoto(shop_id=shop_id, key="k" * 64, jpeg=b"a picture", made_at=now()))
        session.commit()
        move_out(session, room_at(tmp_path.as_uri()), now())
    before = held(installation)
    with pytest.raises(NotReady, match=f"stays at {newest_revision()}.*null"):
        versions.downgrade(installation, "0018", silent, backup=False)
    assert revision_of(installation.addresses.owner) == newest_revision()
    assert held(installation) == before


def test_an_older_program_on_a_newer_database_says_so(empty):
    installation = empty()
    versions.upgrade(installation, silent)
    engine = create_engine(installation.addresses.owner)
    with engine.begin() as connection:
        connection.execute(text("update alembic_version set version_num = '9999'"))
    engine.dispose()
    with pytest.raises(NotReady, match="9999, which this program does not know"):
        versions.upgrade(installation, silent)
