"""The database of the installation that stands here, for the commands that work on it."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy.orm import Session

from plentar.cli.serve import own_database, session_on
from plentar.store.database import migrate


@contextmanager
def installation() -> Iterator[Session]:
    """A session on it, brought to the newest migration; no connection to it afterwards."""
    url = os.environ.get("PLENTAR_DATABASE_URL") or own_database("plentar")
    migrate(url)
    with session_on(url) as session:
        yield session
