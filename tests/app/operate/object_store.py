"""A stand-in for an object store: keeps what is put, by bucket and name, and forgets it with the test."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

_NO_SUCH_KEY = b"<Error><Code>NoSuchKey</Code><Message>none</Message><Resource>/</Resource></Error>"


@contextmanager
def object_store() -> Iterator[tuple[str, dict[str, bytes]]]:
    """Its URL for a bucket, and what it holds."""
    held: dict[str, bytes] = {}

    class Store(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"

        def do_PUT(self) -> None:
            body = self.rfile.read(int(self.headers["Content-Length"]))
            if self.headers.get("X-Amz-Content-Sha256", "").startswith("STREAMING"):
                body = _unchunked(body)
            held[self.path] = body
            self._answer(200, b"", {"ETag": '"0"'})

        def do_GET(self) -> None:
            found = held.get(self.path)
            if found is None:
                self._answer(404, _NO_SUCH_KEY, {"Content-Type": "application/xml"})
            else:
                self._answer(200, found, {"ETag": '"0"'})

        def do_DELETE(self) -> None:
            held.pop(self.path, None)
            self._answer(204, b"", {})

        def _answer(self, code: int, body: bytes, headers: dict[str, str]) -> None:
            assert "Credential=key/" in self.headers["Authorization"]
            self.send_response(code)
            for name, value in (headers | {"Content-Length": str(len(body))}).items():
                self.send_header(name, value)
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *_said: object) -> None:
            """Nobody listens."""

    server = ThreadingHTTPServer(("127.0.0.1", 0), Store)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"s3://key:secret@127.0.0.1:{server.server_port}/photos?plain=1", held
    finally:
        server.shutdown()
        server.server_close()


def _unchunked(body: bytes) -> bytes:
    whole = b""
    while body:
        head, _, rest = body.partition(b"\r\n")
        size = int(head.partition(b";")[0], 16)
        whole, body = whole + rest[:size], rest[size + 2 :]
        if size == 0:
            break
    return whole
