"""What is refused before anything else looks at a request: its host, its path, who forwarded it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from werkzeug.middleware.proxy_fix import ProxyFix
from werkzeug.sansio.utils import host_is_trusted

App = Callable[[dict[str, Any], Any], Iterable[bytes]]
LOOPBACK = ("127.0.0.1", "localhost")
_FORWARDED = (
    "HTTP_X_FORWARDED_FOR",
    "HTTP_X_FORWARDED_PROTO",
    "HTTP_X_FORWARDED_HOST",
    "HTTP_X_FORWARDED_PORT",
    "HTTP_X_FORWARDED_PREFIX",
    "HTTP_FORWARDED",
)


class Guard:
    """Around the application. ``hosts`` are the names that it is called by, without ports;
    ``proxies`` the addresses whose word on forwarded headers counts, and nobody else's does."""

    def __init__(self, app: App, hosts: Iterable[str], proxies: Iterable[str]) -> None:
        self._app = app
        self._behind: App = ProxyFix(app, x_for=1, x_proto=1, x_host=1)
        self._hosts, self._proxies = tuple(hosts), frozenset(proxies)

    def __call__(self, environ: dict[str, Any], start: Any) -> Iterable[bytes]:
        """Answer 400, or let the application answer."""
        forwarded = environ.get("REMOTE_ADDR", "") in self._proxies
        if not forwarded:
            for name in _FORWARDED:
                environ.pop(name, None)
        host = (forwarded and environ.get("HTTP_X_FORWARDED_HOST")) or environ.get("HTTP_HOST", "")
        if problem := self._problem(environ, host):
            said = f"{problem}\n".encode()
            headers = [("Content-Type", "text/plain; charset=utf-8"), ("Content-Length", str(len(said)))]
            start("400 BAD REQUEST", headers)
            return [said]
        return (self._behind if forwarded else self._app)(environ, start)

    def _problem(self, environ: dict[str, Any], host: str) -> str:
        path = environ.get("PATH_INFO", "")
        if not host_is_trusted(host, self._hosts):
            return "This address is not one that Plentar is called by."
        if environ.get("SCRIPT_NAME"):
            return "Plentar is not served below a prefix."
        if "//" in path or "\\" in path or any(ord(c) < ord(" ") for c in path):
            return "That path has an unusual shape."
        return ""
