"""Installations over databases of the tests' own server."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from sqlalchemy.engine import make_url

from plentar.operate.demoted import CannotDrop, own_user
from plentar.operate.installation import Installation
from plentar.store.cluster import Cluster, project_cluster
from plentar.store.database import drop_database
from tests.app.conftest import HOME


@pytest.fixture(scope="session")
def cluster(database_url: str) -> Cluster:
    return project_cluster(HOME, "test-postgres")


@pytest.fixture
def working(cluster, database_url, tmp_path) -> Installation:
    """The one whose application the tests' people use."""
    return Installation(tmp_path, cluster.addresses(str(make_url(database_url).database)), cluster)


@pytest.fixture
def empty(cluster, tmp_path) -> Iterator[Callable[[], Installation]]:
    """Makes installations on databases with nothing in them."""
    made: list[str] = []

    def make() -> Installation:
        made.append(f"operate_{uuid.uuid4().hex[:8]}")
        place = tmp_path / made[-1]
        Path(place).mkdir()
        return Installation(place, cluster.addresses(made[-1]), cluster)

    yield make
    for name in made:
        drop_database(cluster.url("postgres"), name)


@pytest.fixture
def able() -> None:
    """As root, somebody must be there to become."""
    try:
        own_user()
    except CannotDrop as nobody:
        pytest.skip(str(nobody))
