"""Migrations go up and down, with data in the tables, and say what the models say."""

from __future__ import annotations

import copy
import json
import uuid

import pytest
from sqlalchemy import create_engine, inspect, text

from plentar.files.unit_json import UnitJson
from plentar.store.cluster import project_cluster
from plentar.store.database import downgrade, ensure_database, migrate
from tests.app.conftest import HOME

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
    "0017",
    "0018",
    "0019",
    "0020",
    "0021",
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


def test_what_a_kit_wrote_and_nobody_edited_is_left_out_of_every_version(own_url):
    """The first stage's window was corrected in the second version; all else is still as the kit had it."""
    kit = {
        "id": "one",
        "label": "",
        "kind": "air-handler",
        "circuits": [{"id": "C1", "rated_volts": 240}],
        "elements": [
            {"id": f"E{n}", "rated_kw": 5, "rated_volts": 240, "circuit": "C1", "rung": [f"S1.{n}", f"E{n}"]}
            for n in (1, 2)
        ],
        "limits": [{"id": "TL1", "opens_f": 170, "closes_f": 140}],
        "links": [],
        "other_loads": [],
        "controls": [
            {
                "id": "S1",
                "type": "sequencer",
                "call": "W1",
                "coil": {"volts": 24, "ohms": [20, 80], "va": 6},
                "switches": [
                    {"id": "S1.1", "on_s": [1, 20], "off_s": [40, 110], "role": "element"},
                    {"id": "S1.2", "on_s": [30, 90], "off_s": [30, 90], "role": "element"},
                ],
            }
        ],
        "blower": {
            "circuit": "C1",
            "motor": "psc",
            "relay": {"id": "BR", "type": "spdt", "on_s": [0, 1], "off_s": [0, 1]},
            "interlock": {"kind": "nc-contact", "tap": "S1.1"},
        },
        "control_power": {"circuit": "C1"},
    }
    edited = copy.deepcopy(kit)
    edited["controls"][0]["switches"][0]["on_s"] = [5, 25]
    migrate(own_url, "0014")
    engine = create_engine(own_url)
    ids = {"shop": uuid.uuid4(), "unit": uuid.uuid4()}
    with engine.begin() as connection:
        connection.execute(text("insert into shop (id, name) values (:shop, 'Kept')"), ids)
        connection.execute(
            text("insert into unit (id, shop_id, created_at) values (:unit, :shop, now())"), ids
        )
        for number, plate in ((1, kit), (2, edited)):
            connection.execute(
                text(
                    "insert into unit_version (id, shop_id, unit_id, number, plate, made_at)"
                    " values (:id, :shop, :unit, :number, :plate, now())"
                ),
                {**ids, "id": uuid.uuid4(), "number": number, "plate": json.dumps(plate)},
            )
    migrate(own_url)
    with engine.connect() as connection:
        kept = [row[0] for row in connection.execute(text("select plate from unit_version order by number"))]
    engine.dispose()
    firsts = [plate["controls"][0]["switches"][0] for plate in kept]
    assert [first.get("on_s") for first in firsts] == [[1, 20], [5, 25]], "somebody edited it"
    for plate in kept:
        (control,) = plate["controls"]
        assert control["coil"] == {"volts": 24}
        assert "off_s" not in control["switches"][0]
        assert control["switches"][1] == {"id": "S1.2", "role": "element"}
        assert plate["limits"] == [{"id": "TL1"}]
        assert plate["blower"]["interlock"] == {"kind": "nc-contact"}
        assert plate["blower"]["relay"] == {"id": "BR", "type": "spdt"}
        UnitJson.model_validate(plate).to_core()
