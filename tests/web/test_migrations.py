"""Migrations go up and down, with data in the tables, and say what the models say."""

from __future__ import annotations

import uuid

import pytest
from sqlalchemy import create_engine, inspect, text

from plentar.store.cluster import project_cluster
from plentar.store.database import downgrade, ensure_database, migrate
from tests.conftest import HOME

REVISIONS = [
    "0001",
    "0002",
    "0003",
    "0005",
    "0006",
    "0007",
    "0008",
    "0009",
    "0010",
    "0011",
    "0013",
    "0014",
]  # those that change a table


@pytest.fixture
def own_url(database_url: str):
    cluster = project_cluster(HOME, "test-postgres")
    name = f"migrations_{uuid.uuid4().hex[:8]}"
    ensure_database(cluster.url("postgres"), name)
    yield cluster.url(name)
    engine = create_engine(cluster.url("postgres"), isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        connection.execute(text(f"drop database {name} with (force)"))
    engine.dispose()


def shape(url: str) -> dict[str, list[str]]:
    engine = create_engine(url)
    tables = inspect(engine)
    found = {
        name: sorted(f"{column['name']} {column['type']}" for column in tables.get_columns(name))
        for name in tables.get_table_names()
        if name != "alembic_version"
    }
    engine.dispose()
    return found


def test_down_leads_back_to_what_was_before(own_url):
    shapes = []
    for revision in REVISIONS:
        migrate(own_url, revision)
        shapes.append(shape(own_url))
    assert len({str(one) for one in shapes}) == len(REVISIONS), "each changes something"
    for revision, before in reversed(list(zip(REVISIONS[:-1], shapes[:-1], strict=True))):
        downgrade(own_url, revision)
        assert shape(own_url) == before
    downgrade(own_url, "base")
    assert shape(own_url) == {}
    migrate(own_url)
    assert shape(own_url) == shapes[-1]


def test_what_is_stored_before_a_migration_is_there_after_it(own_url):
    migrate(own_url, REVISIONS[0])
    engine = create_engine(own_url)
    with engine.begin() as connection:
        shop = uuid.uuid4()
        connection.execute(
            text("insert into shop (id, name, settings) values (:id, 'Kept', '{}')"), {"id": shop}
        )
    migrate(own_url)
    with engine.connect() as connection:
        assert connection.execute(text("select name from shop")).scalar_one() == "Kept"
    engine.dispose()


def test_a_round_over_a_lane_becomes_one_over_its_units_and_back(own_url):
    migrate(own_url, "0010")
    engine = create_engine(own_url)
    ids = {name: uuid.uuid4() for name in ("shop", "here", "there", "round")}
    with engine.begin() as connection:
        for statement in (
            "insert into shop (id, name) values (:shop, 'Kept')",
            "insert into unit (id, shop_id, place, created_at) values"
            " (:here, :shop, 'Marram Row', now()), (:there, :shop, 'Mill', now())",
            "insert into round (id, shop_id, title, place, opened_on) values"
            " (:round, :shop, 'Autumn', 'Marram Row', '2026-10-05')",
        ):
            connection.execute(text(statement), ids)
    migrate(own_url)
    with engine.connect() as connection:
        on_it = connection.execute(text("select round_id, unit_id from round_unit")).all()
        assert on_it == [(ids["round"], ids["here"])]
    downgrade(own_url, "0010")
    with engine.connect() as connection:
        assert connection.execute(text("select place from round")).scalar_one() == "Marram Row"
    engine.dispose()
