"""A shop's data as one archive: into an empty shop and out again byte by byte, twice, cut off, hostile."""

from __future__ import annotations

import io
import json
import uuid
import zipfile

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import create_engine, text

from plentar.core.door import judge_checked
from plentar.store.accounts import find_account, make_account, make_shop
from plentar.store.archive.send import write_archive
from plentar.store.archive.take_in import read_archive
from plentar.store.cluster import project_cluster
from plentar.store.database import connect, ensure_database, migrate
from plentar.store.demo.load import SHOP, load_demo
from plentar.store.models import Account, Shop
from plentar.store.units import list_units
from plentar.store.visits import records_of_unit
from tests.app.conftest import HOME
from tests.app.web.test_handover import picture, send_photo

MOST = 10**9


def written(session, shop_id) -> bytes:
    out = io.BytesIO()
    write_archive(session, shop_id, out)
    return out.getvalue()


def sent(client) -> bytes:
    with client.get("/shop/archive.zip") as answer:
        return answer.data


def entries(raw: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(raw)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def judged(session, shop_id) -> list[tuple]:
    found = []
    for unit in list_units(session, shop_id):
        for visit in records_of_unit(session, shop_id, unit.row.id):
            if visit.row.closed_at:
                judgement = judge_checked(visit.unit, visit.core())
                found.append((unit.unit.label, str(visit.row.started_at), repr(judgement.findings)))
    return sorted(found)


@pytest.fixture
def own_session(database_url: str):
    cluster = project_cluster(HOME, "test-postgres")
    name = f"archive_{uuid.uuid4().hex[:8]}"
    ensure_database(cluster.url("postgres"), name)
    migrate(cluster.url(name))
    sessions = connect(cluster.url(name))
    with sessions() as opened:
        yield opened
    sessions.kw["bind"].dispose()
    engine = create_engine(cluster.url("postgres"), isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        connection.execute(text(f"drop database {name} with (force)"))
    engine.dispose()


@pytest.mark.slow
def test_the_demo_shop_goes_into_an_empty_one_and_comes_out_the_same(own_session):
    """In a database of its own."""
    session = own_session
    load_demo(session)
    shop = session.query(Shop).filter_by(name=SHOP).one()
    first = written(session, shop.id)
    assert json.loads(entries(first)["shop.json"])["open_visits"] == 1
    empty = make_shop(session, "Empty")
    lead = make_account(session, empty, "lead", "A Lead", "a long enough password", "lead")
    session.commit()
    account = find_account(session, lead.id)
    dry = read_archive(session, account, io.BytesIO(first), MOST, dry=True)
    assert dry.new["units"] == 14 and dry.new["visits"] >= 30 and not dry.known
    assert not list_units(session, account.shop_id), "nothing is changed by a look"
    read_archive(session, account, io.BytesIO(first), MOST)
    once = judged(session, account.shop_id)
    assert once == judged(session, shop.id)
    again = read_archive(session, account, io.BytesIO(first), MOST)
    assert not again.new and again.known == dry.new, "the second time changes nothing"
    out, back = entries(first), entries(written(session, account.shop_id))
    same = [name for name in out if name != "shop.json"]
    assert len(same) > 44
    assert all(out[name] == back[name] for name in same), [n for n in same if out[n] != back.get(n)]
    one, two = json.loads(out["shop.json"]), json.loads(back["shop.json"])
    assert one["units"] == two["units"] and one["rounds"] == two["rounds"]
    assert [len(r["units"]) for r in one["rounds"]] == [14, 14, 14]


def test_photos_and_part_kinds_come_along_and_a_cut_goes_on(hands, newcomer):
    hands.kit("111 Saltmarsh Lane")
    for _ in range(2):
        hands.begin("check-up")
        hands.read("C1", "volts", 240)
        assert send_photo(hands, picture(uuid.uuid4().int % 200), shows="plate").status_code == 302
        hands.close(note="All well.")
    raw = sent(hands.client)
    parts = entries(raw)
    visits = sorted(name for name in parts if "/visits/" in name)
    assert len(visits) == 2 and all(b'"jpeg"' in parts[name] for name in visits)
    other = newcomer()
    half = zipped({n: b for n, b in parts.items() if n != visits[1]})
    for raw_or_half, due in ((half, "1"), (raw, "1"), (raw, "0")):
        page = other.client.post("/shop/archive", data={"archive": (io.BytesIO(raw_or_half), "a.zip")})
        row = page.text.split("visits</th>")[1].split("</td>")[0]
        assert row.split(">")[-1].strip() == due
    back = entries(sent(other.client))
    assert back.keys() == parts.keys()
    for name in visits:
        came, went = (without_pictures(json.loads(one[name])) for one in (back, parts))
        assert came == went


def without_pictures(document):
    """A visit file whose photos are there, by their texts: each is written anew where it is taken in."""
    for photo in document["visit"].get("photos", ()):
        assert photo.pop("jpeg") and len(photo.pop("key")) == 64
    return document


def zipped(parts: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, body in parts.items():
            archive.writestr(name, body)
    return out.getvalue()


def test_what_is_no_archive_is_refused_by_entry_and_path_and_changes_nothing(hands, newcomer):
    hands.kit("112 Saltmarsh Lane")
    hands.begin("check-up")
    hands.read("C1", "volts", 240)
    hands.close()
    parts = entries(sent(hands.client))
    visit = next(name for name in parts if "/visits/" in name)
    unit = next(name for name in parts if name.endswith("unit.json"))
    bent = parts[visit].replace(b'"read": "volts"', b'"read": "furlongs"')
    for bad, said in {
        b"no zip": "No zip that can be read",
        b"PK\x05\x06" + b"\0" * 18: "shop.json",
        zipped(parts | {visit: bent}): f"{visit}: visit.events[0]",
        zipped(parts | {visit: b"{"}): visit,
        zipped({n: b for n, b in parts.items() if n != unit}): "is not in the archive",
        zipped(parts | {"shop.json": b'{"name": "x", "units": [{"key": "../.."}]}'}): "units[0].key",
        zipped(parts | {visit: b"[" * 100 + b" " * 9_000_000}): "Too large for what it is",
        zipped(parts | {visit.rsplit("_", 1)[0] + "_x.json": b"{}"}): "by its day and id",
    }.items():
        other = newcomer()
        answer = other.client.post("/shop/archive", data={"archive": (io.BytesIO(bad), "a.zip")})
        complaint = BeautifulSoup(answer.text, "html.parser").select_one(".complaint")
        assert answer.status_code == 422 and said in complaint.text, (said, complaint)
        assert "No units yet" in other.client.get("/").text


def test_only_a_lead_sends_and_takes_in(somebody, sessions):
    me = somebody()
    with sessions() as opened:
        opened.get(Account, me.account.id).role = "technician"
        opened.commit()
    for path in ("/shop/archive", "/shop/archive.zip"):
        assert me.client.get(path).status_code == 403
    assert me.client.post("/shop/archive").status_code == 403
