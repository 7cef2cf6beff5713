"""What ``plentar serve`` does while it serves: its database server, the web server as a user of its own,
both started, looked after, and ended with it."""

from __future__ import annotations

import gc
import http.client
import os
import pwd
import shutil
import signal
import socket
import sys
import tempfile
import time
from collections.abc import Iterator, Mapping
from contextlib import chdir, closing, contextmanager
from dataclasses import dataclass, field
from importlib import import_module
from pathlib import Path
from types import FrameType

from plentar.core.errors import PlentarError
from plentar.operate.demoted import fork_demoted
from plentar.operate.installation import OWNER_URL, Installation
from plentar.store.cluster import Cluster
from plentar.web.config import from_environment
from plentar.web.server import gunicorn_command
from plentar.words import phrase

LOOK_S, ASK_S, READY_S, END_S = 1.0, 2.0, 60.0, 20.0
#: What the web server's processes have in common: their figures, a cache for fonts.
FIGURES = "PROMETHEUS_MULTIPROC_DIR"


class NotServed(PlentarError):
    """It can't be served: the port is taken, or the server ended by itself."""


class Stop(BaseException):
    """Somebody asked for the end."""


def listen(host: str, port: int) -> socket.socket:
    """A socket at this port; raises NotServed where somebody else has it, or nobody may."""
    made = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        made.bind((host, port))
        made.listen(2048)
    except OSError as error:
        made.close()
        raise NotServed(
            phrase("operate.port-taken", host=host, port=port, why=error.strerror or str(error))
        ) from None
    made.set_inheritable(True)
    return made


def load() -> None:
    """Load what serves: once, and it is there in every process that is forked."""
    gc.disable()  # nothing of what is being loaded is garbage
    with chdir("/"):  # gunicorn goes to where it was loaded, which its own user may not
        for name in ("plentar.web.wsgi", "plentar.web.worker", "gunicorn.app.wsgiapp"):
            import_module(name)
    gc.freeze()
    gc.enable()


@dataclass
class Serving:
    """One web server on a socket. ``env`` is what its processes are told beside this one's environment."""

    installation: Installation
    user: pwd.struct_passwd | None
    listening: socket.socket
    env: Mapping[str, str]
    #: Where the disk that its data lie on is mounted.
    disk: Path
    metrics_port: int = 0
    _children: list[int] = field(default_factory=list)

    def serve(self) -> None:
        """Until Stop; raises NotServed where it ends otherwise."""
        os.environ.pop(OWNER_URL, None)
        os.environ |= self.env
        try:
            self._children.append(fork_demoted(self.user, self._web_server))
            self._wait_until_it_answers()
            self.listening.close()
            if self.metrics_port:
                self._children.append(fork_demoted(self.user, self._figures))
            self._announce()
            self._look_after()
        finally:
            self._end()

    def _web_server(self) -> None:
        sys.argv = gunicorn_command(f"fd://{self.listening.fileno()}")[2:]
        import_module("gunicorn.app.wsgiapp").run()

    def _figures(self) -> None:
        from plentar.operate.metrics import serve_figures  # noqa: PLC0415  (hardly anybody has them)

        config = from_environment()
        serve_figures("127.0.0.1", self.metrics_port, config.database_url, self.disk, config.photo_mb)

    def _wait_until_it_answers(self) -> None:
        host, port = self.listening.getsockname()[:2]
        asked_at = "127.0.0.1" if host in ("0.0.0.0", "::") else host  # noqa: S104  (it is compared with)
        until_s = time.monotonic() + READY_S
        while time.monotonic() < until_s:
            self._check_children()
            try:
                with closing(http.client.HTTPConnection(asked_at, port, timeout=ASK_S)) as asked:
                    asked.request("GET", "/health/live", headers={"Host": "127.0.0.1"})
                    asked.getresponse().read()
                    return
            except OSError:
                time.sleep(0.02)
        raise NotServed(phrase("operate.no-start", seconds=f"{READY_S:.0f}"))

    def _announce(self) -> None:
        address = self.env["PLENTAR_ADDRESS"]
        print(phrase("operate.address", address=address), flush=True)  # noqa: T201
        if self.metrics_port:
            print(phrase("operate.metrics", port=self.metrics_port), flush=True)  # noqa: T201

    def _look_after(self) -> None:
        cluster = self.installation.cluster
        while True:
            time.sleep(LOOK_S)
            self._check_children()
            if cluster is not None and not cluster.lives():
                _start_again(cluster)

    def _check_children(self) -> None:
        for child in self._children:
            ended, status = os.waitpid(child, os.WNOHANG)
            if ended:
                self._children.remove(child)
                raise NotServed(phrase("operate.ended", code=os.waitstatus_to_exitcode(status)))

    def _end(self) -> None:
        until_s = time.monotonic() + END_S
        for child in self._children:
            os.kill(child, signal.SIGTERM)
        for child in self._children:
            while not os.waitpid(child, os.WNOHANG)[0]:
                if time.monotonic() > until_s:
                    os.killpg(child, signal.SIGKILL)
                time.sleep(0.05)


@contextmanager
def own_folder(user: pwd.struct_passwd | None) -> Iterator[None]:
    """A folder of the web server's processes, for as long as this is open: their figures, their caches.
    To be open before anything of theirs is loaded."""
    folder = Path(tempfile.mkdtemp(prefix="plentar-"))
    uid, gid = (user.pw_uid, user.pw_gid) if user else (-1, -1)
    before = dict(os.environ)
    try:
        for made in (folder, folder / "figures", folder / "cache"):
            made.mkdir(mode=0o700, exist_ok=True)
            os.chown(made, uid, gid)
        os.environ |= {
            FIGURES: str(folder / "figures"),
            "XDG_CACHE_HOME": str(folder / "cache"),
            "HOME": str(folder),
        }
        yield
    finally:
        os.environ.clear()
        os.environ |= before
        shutil.rmtree(folder, ignore_errors=True)


def _start_again(cluster: Cluster) -> None:
    print(phrase("operate.database-again"), file=sys.stderr, flush=True)  # noqa: T201
    before = cluster.usual_port()
    if cluster.start() != before:
        raise NotServed(phrase("operate.database-moved"))


@contextmanager
def stoppable() -> Iterator[None]:
    """Ctrl-C and SIGTERM raise Stop inside, once, so that what was begun is ended in its order."""

    def stop(_number: int, _frame: FrameType | None) -> None:
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, signal.SIG_IGN)
        raise Stop

    before = {number: signal.signal(number, stop) for number in (signal.SIGTERM, signal.SIGINT)}
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)
