"""Files of our own beside the database: made for us alone, and never through somebody's link."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


def write_once(path: Path, text: str) -> str:
    """Make a file with this text, readable by its owner alone; what it holds if it is there."""
    try:
        made = os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_NOFOLLOW, 0o600)
    except FileExistsError:
        with os.fdopen(os.open(path, os.O_RDONLY | os.O_NOFOLLOW), encoding="ascii") as known:
            return known.read()
    with os.fdopen(made, "w", encoding="ascii") as file:
        file.write(text)
    return text


def rewrite(path: Path, text: str) -> None:
    flags = os.O_CREAT | os.O_TRUNC | os.O_WRONLY | os.O_NOFOLLOW
    with os.fdopen(os.open(path, flags, 0o600), "w", encoding="ascii") as file:
        file.write(text)


@contextmanager
def alone(path: Path) -> Iterator[None]:
    """One process at a time; the others wait at this lock file."""
    with os.fdopen(os.open(path, os.O_CREAT | os.O_RDWR | os.O_NOFOLLOW, 0o600), "r+") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield
