"""A backup while people write, put back elsewhere, and held against what it says of itself."""

from __future__ import annotations

import io
import json
import tarfile
import threading
import time
import uuid

import pytest
from sqlalchemy import select

from plentar.operate.backup import (
    DUMP,
    MANIFEST,
    README,
    SECRET,
    BackupFailed,
    backup_to_folder,
    backups_in,
    write_backup,
)
from plentar.operate.installation import session_on
from plentar.operate.restore import check_backup, restore
from plentar.store.models import VisitEvent
from plentar.web.config import Config
from plentar.web.factory import create_app
from tests.app.conftest import PASSWORD

pytestmark = pytest.mark.slow


def silent(_line: str) -> None:
    """Nobody listens."""


class Writing:
    """Readings one after the other, each with the moment at which it was acknowledged."""

    def __init__(self, me) -> None:
        self.me, self.bench = me, me.start_visit()
        self.acknowledged: list[tuple[float, str]] = []
        self._enough = threading.Event()
        self._thread = threading.Thread(target=self._write)

    def __enter__(self):
        self._thread.start()
        return self

    def __exit__(self, *_raised):
        self._enough.set()
        self._thread.join()

    def _write(self) -> None:
        while not self._enough.is_set():
            entry = str(uuid.uuid4())
            if self.me.read(self.bench, "C1", "volts", "240", client_id=entry).status_code == 200:
                self.acknowledged.append((time.monotonic(), entry))


def entries(url: str) -> set[str]:
    with session_on(url) as session:
        return {str(one) for one in session.scalars(select(VisitEvent.client_id))}


def test_what_was_acknowledged_before_a_backup_is_in_it_while_people_write(working, empty, somebody):
    with Writing(somebody()) as first, Writing(somebody()) as second:
        time.sleep(1.0)
        began_s, archive = time.monotonic(), io.BytesIO()
        manifest = write_backup(working, archive, silent)
        time.sleep(0.3)
    before = {entry for hand in (first, second) for at_s, entry in hand.acknowledged if at_s <= began_s}
    later = [entry for hand in (first, second) for at_s, entry in hand.acknowledged if at_s > began_s]
    assert len(before) > 5 and later, "people wrote before it and after it began"
    assert manifest.judgements_sha256, "some visits were judged"
    elsewhere = empty()
    archive.seek(0)
    done = restore(elsewhere, archive)
    assert before <= entries(elsewhere.addresses.rows)
    assert done.judged == len(manifest.judgements_sha256)
    archive.seek(0)
    with pytest.raises(BackupFailed, match="not empty"):
        restore(elsewhere, archive)


def test_people_go_on_in_a_restored_installation(working, empty, somebody):
    me = somebody()
    bench = me.start_visit()
    me.read(bench, "C1", "volts", "240")
    archive = io.BytesIO()
    write_backup(working, archive, silent, with_key=True)
    elsewhere = empty()
    archive.seek(0)
    assert restore(elsewhere, archive).same_key, "the key came along"
    app = create_app(Config(elsewhere.addresses.rows, elsewhere.key(), judge_here=True))
    app.config.update(TESTING=True, WTF_CSRF_ENABLED=False)
    client = app.test_client()
    signed = client.post("/sign-in", data={"login": me.account.login, "password": PASSWORD})
    assert signed.status_code == 302
    me.client = client
    assert me.read(bench, "E1", "amps", "20.1").status_code == 200
    assert "20.1" in client.get(bench).text
    app.extensions["plentar_sessions"].kw["bind"].dispose()


def bent(archive: io.BytesIO, **change: object) -> io.BytesIO:
    """The same with another manifest."""
    archive.seek(0)
    made = io.BytesIO()
    with tarfile.open(fileobj=archive) as old, tarfile.open(fileobj=made, mode="w") as new:
        for member in old.getmembers():
            raw = old.extractfile(member).read()
            if member.name == MANIFEST:
                raw = json.dumps(json.loads(raw) | change).encode()
                member.size = len(raw)
            new.addfile(member, io.BytesIO(raw))
    made.seek(0)
    return made


def test_one_that_is_not_what_it_says_leaves_nothing(working, empty, somebody):
    me = somebody()
    me.read(me.start_visit(), "C1", "volts", "240")
    archive = io.BytesIO()
    manifest = write_backup(working, archive, silent, with_key=True)
    judged = dict.fromkeys(manifest.judgements_sha256, "0" * 64)
    for change, said in (
        ({"events_sha256": "0" * 64}, "hash over all events"),
        ({"rows": manifest.rows | {"visit": 9999}}, "visit: "),
        ({"judgements_sha256": judged}, "verdict on visit"),
        ({"migration": "9999"}, "newer than this program"),
    ):
        elsewhere = empty()
        with pytest.raises(BackupFailed, match=said):
            restore(elsewhere, bent(archive, **change))
        assert not (elsewhere.run / SECRET).exists()
        archive.seek(0)
        restore(elsewhere, archive)  # it is empty still
    with pytest.raises(BackupFailed, match="no backup"):
        restore(empty(), io.BytesIO(b"nothing of the kind"))


def test_a_folder_keeps_so_many_and_each_can_be_tried(working, cluster, somebody, tmp_path):
    somebody()
    folder = tmp_path / "backups"
    made = [backup_to_folder(working, folder, silent, keep=2) for _ in range(3)]
    assert backups_in(folder) == [made[2], made[1]]
    assert made[2].stat().st_mode & 0o077 == 0
    with tarfile.open(made[2]) as archive:
        assert archive.getnames() == [README, MANIFEST, DUMP], f"no {SECRET} where nobody asked for it"
        assert b"What it is not" in archive.extractfile(README).read()
    with made[2].open("rb") as archive:
        assert check_backup(cluster, archive).manifest.rows["shop"] >= 1
