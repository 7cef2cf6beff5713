"""The first day of a new shop: units from a table, looked at, made, and the first visit on one."""

from __future__ import annotations

import io

from bs4 import BeautifulSoup

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
