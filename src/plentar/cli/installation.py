"""The database of the installation that stands here, for the commands that work on it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy.orm import Session

from plentar.cli.command import failing
from plentar.cli.serve import prepare
from plentar.operate.installation import installed, session_on


@contextmanager
def shops() -> Iterator[Session]:
    """A session on it, brought to the newest migration; no connection to it afterwards."""
    with failing(), installed() as installation:
        prepare(installation)
        with session_on(installation.addresses.rows) as session:
            yield session
