"""Where the pictures of old photos lie when they no longer lie in the database: a folder, or a bucket of an
object store."""

from __future__ import annotations

import io
import os
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager
from pathlib import Path
from typing import Protocol
from urllib.parse import parse_qs, unquote, urlsplit

from plentar.core.errors import PlentarError
from plentar.words import phrase

SETTING = "PLENTAR_PHOTO_ROOM"


class NoRoom(PlentarError):
    """The place for old photos is not there, or does not answer."""


class PhotoRoom(Protocol):
    """Keeps pictures by name; a name is a shop's id and a photo's key."""

    def put(self, name: str, jpeg: bytes) -> None:
        """Keep a picture; raises NoRoom."""

    def get(self, name: str) -> bytes | None:
        """A picture, None where there is none of this name; raises NoRoom."""

    def remove(self, name: str) -> None:
        """Let a picture go, if it is there; raises NoRoom."""


@contextmanager
def _failing(code: str, *failures: type[Exception]) -> Iterator[None]:
    """What fails inside is the place that does not do; raises NoRoom."""
    try:
        yield
    except failures as error:
        raise NoRoom(phrase(code, why=str(getattr(error, "strerror", None) or error)[:200])) from None


class Folder:
    """A folder, a file a picture: ``file:///srv/plentar/photos``."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def put(self, name: str, jpeg: bytes) -> None:
        to = self._folder / name
        part = to.with_suffix(".part")
        with self._failing():
            to.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            with os.fdopen(os.open(part, os.O_CREAT | os.O_TRUNC | os.O_WRONLY, 0o600), "wb") as file:
                file.write(jpeg)
                file.flush()
                os.fsync(file.fileno())
            part.rename(to)

    def get(self, name: str) -> bytes | None:
        with self._failing():
            try:
                return (self._folder / name).read_bytes()
            except FileNotFoundError:
                return None

    def remove(self, name: str) -> None:
        with self._failing():
            (self._folder / name).unlink(missing_ok=True)

    @staticmethod
    def _failing() -> AbstractContextManager[None]:
        return _failing("store.photo-room.folder", OSError)


class Bucket:
    """A bucket of an object store: ``s3://KEY:SECRET@HOST:PORT/BUCKET``, ``?plain=1`` without TLS."""

    def __init__(self, url: str) -> None:
        from minio import Minio  # noqa: PLC0415  (only where photos lie in a bucket)
        from urllib3 import PoolManager, Timeout  # noqa: PLC0415

        at = urlsplit(url)
        self._bucket = at.path.strip("/")
        self._store = Minio(
            at.netloc.rpartition("@")[2],
            access_key=unquote(at.username or ""),
            secret_key=unquote(at.password or ""),
            secure="plain" not in parse_qs(at.query),
            region="us-east-1",
            http_client=PoolManager(timeout=Timeout(connect=3, read=10), retries=False),
        )

    def put(self, name: str, jpeg: bytes) -> None:
        with self._failing():
            self._store.put_object(self._bucket, name, io.BytesIO(jpeg), len(jpeg), content_type="image/jpeg")

    def get(self, name: str) -> bytes | None:
        from minio.error import S3Error  # noqa: PLC0415

        with self._failing():
            try:
                answer = self._store.get_object(self._bucket, name)
            except S3Error as error:
                if error.code == "NoSuchKey":
                    return None
                raise
            try:
                return bytes(answer.read())
            finally:
                answer.close()
                answer.release_conn()

    def remove(self, name: str) -> None:
        with self._failing():
            self._store.remove_object(self._bucket, name)

    @staticmethod
    def _failing() -> AbstractContextManager[None]:
        from minio.error import MinioException  # noqa: PLC0415
        from urllib3.exceptions import HTTPError  # noqa: PLC0415

        return _failing("store.photo-room.bucket", MinioException, HTTPError, OSError)


def room_at(url: str) -> PhotoRoom | None:
    """The place that a URL names, None for an empty one; raises NoRoom where it names none."""
    if not url:
        return None
    at = urlsplit(url)
    if at.scheme == "file" and at.path.startswith("/"):
        return Folder(Path(unquote(at.path)))
    if at.scheme == "s3" and at.hostname and at.path.strip("/"):
        return Bucket(url)
    raise NoRoom(phrase("store.photo-room.no-url", setting=SETTING))
