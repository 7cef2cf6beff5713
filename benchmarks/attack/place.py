"""Where the attack happens: a cluster, a database and a server of its own, and people in it."""

from __future__ import annotations

import os
import signal
import subprocess
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from sqlalchemy import delete, select
from sqlalchemy.orm import Session, sessionmaker

from benchmarks.browser import PASSWORD, Browser
from plentar.core.unit.kits import Kit, build_kit
from plentar.operate.bring_up import bring_up
from plentar.store.accounts import make_account, make_shop
from plentar.store.cluster import Cluster, free_port, project_cluster
from plentar.store.database import connect
from plentar.store.models import Account, SignInTry
from plentar.store.units import make_unit
from plentar.web.server import gunicorn_command


@dataclass
class Counted:
    """What one part of the attack found: lines to print, and what should not have been."""

    lines: list[str] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)


@dataclass
class Place:
    cluster: Cluster
    url: str
    port: int
    sessions: sessionmaker[Session]
    server: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start the server, and wait until it is ready."""
        env = os.environ | {"PLENTAR_DATABASE_URL": self.url, "PLENTAR_SECRET_KEY": "x" * 40}
        quiet = subprocess.DEVNULL
        self.server = subprocess.Popen(
            gunicorn_command(self.port), env=env, start_new_session=True, stderr=quiet
        )
        self.wait_until_ready()

    def wait_until_ready(self) -> None:
        """Until the server answers and its database does."""
        until_s = time.monotonic() + 90
        while time.monotonic() < until_s:
            try:
                if Browser(self.port, 10).ask("GET", "/health/ready")[0].status == 200:
                    return
            except OSError:
                pass
            time.sleep(0.1)
        raise AssertionError("the server is not ready")

    def stop(self, how: signal.Signals = signal.SIGTERM) -> None:
        """Stop the server."""
        if self.server is not None:
            os.killpg(self.server.pid, how)
            self.server.wait()

    def workers(self) -> list[int]:
        """The server's worker processes."""
        assert self.server is not None
        children = Path(f"/proc/{self.server.pid}/task/{self.server.pid}/children")
        return [int(pid) for pid in children.read_text().split()]

    def shop_of(self, session: Session, login: str) -> uuid.UUID:
        return session.scalars(select(Account.shop_id).where(Account.login == login)).one()

    def somebody(self, name: str, units: int = 1) -> tuple[Browser, list[uuid.UUID]]:
        """Somebody of a shop of their own, signed in, with units of two strips."""
        login = f"{name}-{uuid.uuid4().hex[:8]}"
        with self.sessions() as session:
            shop = make_shop(session, login)
            make_account(session, shop, login, name, PASSWORD)
            unit = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "Two strips")
            made = [make_unit(session, shop.id, unit).row.id for _ in range(units)]
            session.execute(delete(SignInTry))  # bent requests come from this address as well
            session.commit()
        browser = Browser(self.port)
        browser.sign_in(login)
        return browser, made

    def shop_at_work(self, people: int) -> list[tuple[Browser, uuid.UUID]]:
        """So many technicians of one shop, signed in, each with a unit of their own."""
        with self.sessions() as session:
            shop = make_shop(session, f"at work {uuid.uuid4().hex[:8]}")
            unit = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "Two strips")
            made = []
            for _ in range(people):
                login = f"at-work-{uuid.uuid4().hex[:8]}"
                make_account(session, shop, login, login, PASSWORD)
                made.append((login, make_unit(session, shop.id, unit).row.id))
            session.commit()
        hands = []
        for login, unit_id in made:
            browser = Browser(self.port)
            browser.sign_in(login)
            hands.append((browser, unit_id))
        return hands


def new_visit(browser: Browser, unit_id: uuid.UUID) -> str:
    answer = browser.post(f"/units/{unit_id}/visits", complaint="check-up")
    bench = answer.headers["Location"] or ""
    # As the last visit left it, breakers off it may be: on again.
    browser.post(f"{bench}/power", client_id=str(uuid.uuid4()), state="on")
    return bench


@contextmanager
def place() -> Iterator[Place]:
    home = Path(os.environ.get("PLENTAR_HOME", Path.cwd()))
    cluster = project_cluster(home, "attack-postgres")
    cluster.stop()  # what a campaign that was cut off has left, half way down
    cluster.start()
    name = f"attack_{uuid.uuid4().hex[:8]}"
    addresses = cluster.addresses(name)
    bring_up(addresses)
    url = addresses.rows
    made = Place(cluster, url, free_port(), connect(url))
    made.start()
    try:
        yield made
    finally:
        made.stop()
        made.sessions.kw["bind"].dispose()
        cluster.stop()
