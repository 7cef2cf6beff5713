"""The numbered releases and the migration that each stands at: where a downgrade leads to."""

from __future__ import annotations

from plentar.core.errors import PlentarError
from plentar.store.database import known_revisions
from plentar.words import phrase

RELEASES = {"0.1.0": "0003", "0.2.0": "0019", "0.3.0": "0021"}


class NoSuchRelease(PlentarError):
    """Neither a release nor a migration."""


def migration_of(named: str) -> str:
    """The migration of a release, or the one of this number itself; raises NoSuchRelease."""
    found = RELEASES.get(named, named)
    if found not in known_revisions():
        raise NoSuchRelease(phrase("operate.no-release", named=named, known=", ".join(RELEASES)))
    return found
