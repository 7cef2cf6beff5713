"""As much of a browser as a measurement needs: a kept connection, a session, the page's token."""

from __future__ import annotations

import http.client
import re
import time
import uuid
from urllib.parse import urlencode

PASSWORD = "only for this benchmark"
#: A connection that was not used for so long is made anew, s.
IDLE_S = 1.0


class Browser:
    """One person at one browser. Connections that break are made again by the next request."""

    def __init__(self, port: int, patience_s: float = 30.0) -> None:
        self._port, self._patience_s = port, patience_s
        self._connection = self._connected()
        self._used_s = time.monotonic()
        self._cookie = ""
        self.token = ""
        self.login = ""

    def __del__(self) -> None:
        self._connection.close()

    def _connected(self) -> http.client.HTTPConnection:
        return http.client.HTTPConnection("127.0.0.1", self._port, timeout=self._patience_s)

    def another_hand(self) -> Browser:
        """The same session over a connection of its own."""
        other = Browser(self._port, self._patience_s)
        other._cookie, other.token = self._cookie, self.token
        return other

    def get(self, path: str) -> str:
        return self.ask("GET", path)[1]

    def token_from(self, path: str) -> None:
        """Load a page and keep its token."""
        found = re.search(r'name="csrf_token" value="([^"]+)"', self.get(path))
        assert found is not None, path
        self.token = found[1]

    def sign_in(self, login: str) -> None:
        """Sign in; the session's token is new afterwards."""
        self.token_from("/sign-in")
        answer = self.post("/sign-in", login=login, password=PASSWORD)
        assert answer.status == http.client.FOUND, answer.status
        self.login = login
        self.token_from("/account")

    def post(self, path: str, **form: str) -> http.client.HTTPResponse:
        """Post a form with the token."""
        return self.ask("POST", path, urlencode({"csrf_token": self.token} | form))[0]

    def call_heat(self, bench: str) -> None:
        """Heat with the fan, as a check has it: elements that draw uncalled would be stops."""
        self.post(f"{bench}/calls", client_id=str(uuid.uuid4()), calls="W1,W2,G")

    def read(self, bench: str, at: str, quantity: str, value: str, client_id: str = "") -> str:
        """Post one reading as the pad does; the fragment. Raises where it is not stored."""
        status, text = self.try_to_read(bench, at, quantity, value, client_id)
        assert status == http.client.OK, status
        return text

    def try_to_read(
        self, bench: str, at: str, quantity: str, value: str, client_id: str = ""
    ) -> tuple[int, str]:
        """Post one reading; the status and the fragment."""
        form = {
            "csrf_token": self.token,
            "client_id": client_id or str(uuid.uuid4()),
            "at": at,
            "quantity": quantity,
            "value": value,
        }
        answer, text = self.ask("POST", f"{bench}/readings", urlencode(form), {"HX-Request": "true"})
        return answer.status, text

    def ask(
        self, method: str, path: str, body: str | bytes = "", headers: dict[str, str] | None = None
    ) -> tuple[http.client.HTTPResponse, str]:
        """Any request; the answer and its text. Raises OSError or HTTPException where none comes."""
        if time.monotonic() - self._used_s > IDLE_S:  # the server hangs up on those that idle
            self._connection.close()
            self._connection = self._connected()
        given = {"Cookie": self._cookie, "Content-Type": "application/x-www-form-urlencoded"}
        try:
            self._connection.request(method, path, body, given | (headers or {}))
            answer = self._connection.getresponse()
            text = answer.read().decode(errors="replace")
            self._used_s = time.monotonic()
        except (OSError, http.client.HTTPException):
            self._connection.close()
            self._connection = self._connected()
            raise
        for name, value in answer.getheaders():
            if name == "Set-Cookie" and value.startswith("plentar="):
                self._cookie = value.split(";")[0]
        return answer, text
