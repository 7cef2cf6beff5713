"""The first day of a new shop: units from a table, looked at, made, and the first visit on one."""

from __future__ import annotations

import io

import pytest
from bs4 import BeautifulSoup

from plentar.store.accounts import make_account, make_shop
from plentar.store.models import Shop
from tests.app.conftest import PASSWORD
from tests.app.hands import Posting

TABLE = """label;place;door;elements;kw;control;tie
"1 Marram Row, attic";Marram Row;1;3;4.8;relays-ac;g-with-w
"2 Marram Row";Marram Row;2;;;;
"""


def send(client, text: str | bytes, dry: bool = False):
    raw = text.encode() if isinstance(text, str) else text
    data = {"units": (io.BytesIO(raw), "units.csv")} | ({"dry": "yes"} if dry else {})
    return client.post("/shop/units", data=data)


def test_units_come_from_a_table_and_the_first_visit_begins(newcomer, earlier):
    me = newcomer()
    looked = send(me.client, TABLE, dry=True)
    rows = BeautifulSoup(looked.text, "html.parser").select("tbody tr")
    assert [row.select("td")[1].text for row in rows] == ["3 × 4.8 kW", "2 × 5 kW"]
    assert "No units yet" in me.client.get("/").text
    for _ in range(2):
        assert send(me.client, TABLE).status_code == 302
    houses = BeautifulSoup(me.client.get("/").text, "html.parser").select("a.line")
    assert len(houses) == 2, "sent twice it makes them once"
    hands = Posting(earlier, client=me.client)
    hands.unit = houses[0]["href"]
    hands.begin("check-up")
    hands.read("C1", "volts", 240)
    assert "in service" in hands.close(note="First visit.").text


def test_complaints_name_line_and_column_and_nothing_is_made(newcomer):
    me = newcomer()
    answer = send(
        me.client, "label,door,kw,elements\nA,1,5,2\n,2,5,2\nC,x,5,2\nD,4,99,2\nA,1,5,2\nF,6,5,nine\n"
    )
    rows = BeautifulSoup(answer.text, "html.parser").select("[aria-label='To correct'] tbody tr")
    told = [(row.th.text.strip(), row.td.text.strip()) for row in rows]
    assert answer.status_code == 422
    assert told == [("3", "label"), ("4", "door"), ("5", "kw"), ("6", "label"), ("7", "elements")]
    for bad in (
        "",
        "name,kw\nA,5\n",
        "label,horsepower\nA,1\n",
        b"label\n\xff\xfe",
        "label\nA\x00\n",
        "label\n" + "A\n" * 5001,
    ):
        assert send(me.client, bad).status_code == 422, bad[:20]
    assert "No units yet" in me.client.get("/").text


def test_a_new_shop_is_asked_first_where_it_is_and_what_it_reads(app, session):
    shop = make_shop(session, "Fresh Heat", begun=False)
    lead = make_account(session, shop, "fresh", "A Lead", PASSWORD, "lead")
    make_account(session, shop, "fresh-tech", "A Technician", PASSWORD)
    session.commit()
    client, other = app.test_client(), app.test_client()
    client.post("/sign-in", data={"login": lead.login, "password": PASSWORD})
    other.post("/sign-in", data={"login": "fresh-tech", "password": PASSWORD})
    assert client.get("/").location == "/shop/begin"
    assert other.get("/").status_code == 200, "only who may answer is asked"
    answers = {"timezone": "America/Denver", "altitude": "1600", "length": "m", "screens": "es"}
    for field, typed, said in (
        ("timezone", "", "Which time zone?"),
        ("timezone", "Mars/Olympus", "No such time zone"),
        ("altitude", "high", "number"),
        ("altitude", "90000", ""),
        ("screens", "xx", ""),
    ):
        refused = client.post("/shop/begin", data=answers | {field: typed})
        assert refused.status_code == 422 and said in refused.text, field
        assert client.get("/").location == "/shop/begin", "nothing was kept"
    assert client.post("/shop/begin", data=answers).location == "/"
    assert client.get("/").status_code == 200
    page = client.get("/account").text
    assert 'lang="es"' in page and 'value="America/Denver"' in page and 'value="1600"' in page
    session.expire_all()
    assert session.get(Shop, shop.id).settings["altitude_ft"] == pytest.approx(1600 / 0.3048)
