"""Photos that lie elsewhere, and how much room is left."""

from __future__ import annotations

import io
import re
import uuid
from datetime import timedelta

import pytest
from PIL import Image
from sqlalchemy import select

from plentar.store.models import ShopPhoto, now
from plentar.store.photo_room import Bucket, Folder, NoRoom, room_at
from plentar.store.photos import ROOM, move_in, move_out, stored_bytes, take_out
from plentar.store.room import Room, photo_room
from plentar.store.visits import find_visit
from plentar.web.config import BadConfiguration, Config
from tests.app.operate.object_store import object_store

pytestmark = pytest.mark.slow


def a_photo(me, colour: str) -> str:
    """Take one on a new visit; its address."""
    bench = me.start_visit()
    made = io.BytesIO()
    Image.new("RGB", (640, 480), colour).save(made, "JPEG")
    made.seek(0)
    sent = {"client_id": str(uuid.uuid4()), "photo": (made, "a.jpg"), "shows": "before"}
    answer = me.client.post(f"{bench}/photos", data=sent)
    assert answer.status_code == 302, answer.text
    page = me.client.get(f"{bench}/close").text
    return re.search(rf"{bench}/photos/[0-9a-f]+\.jpg", page)[0]


@pytest.fixture(params=["folder", "bucket"])
def room(request, tmp_path):
    if request.param == "folder":
        yield room_at((tmp_path / "photos").as_uri())
    else:
        with object_store() as (url, _):
            yield room_at(url)


def test_photos_go_elsewhere_are_shown_from_there_and_come_back(app, somebody, session, room):
    me = somebody()
    shown = a_photo(me, "teal")
    before = me.client.get(shown).data
    shop_id = me.account.shop_id
    assert move_out(session, room, now() - timedelta(days=1)) == (0, 0), "it is not old"
    count, size = move_out(session, room, now())
    assert count >= 1 and size > 1000
    assert stored_bytes(session, shop_id) == 0, "what lies elsewhere takes no room here"
    assert me.client.get(shown).status_code == 404, "who does not know the place does not find it"
    app.extensions["plentar_sessions"].kw["info"] = {ROOM: room}
    try:
        assert me.client.get(shown).data == before
        again = me.client.get(shown.rpartition("/photos/")[0] + "/visit.json").get_json()
        assert again["visit"]["photos"][0]["jpeg"], "it leaves with its visit file"
    finally:
        app.extensions["plentar_sessions"].kw["info"] = {}
    assert move_in(session, room)[0] == count
    assert me.client.get(shown).data == before
    assert session.scalars(select(ShopPhoto).where(ShopPhoto.jpeg.is_(None))).all() == []


def test_a_picture_goes_from_its_place_when_that_is_committed_and_not_before(app, somebody, session, room):
    me = somebody()
    shown = a_photo(me, "purple")
    bench, key = shown.split("/photos/")[0], shown.rpartition("/")[2].removesuffix(".jpg")
    move_out(session, room, now())
    name = f"{me.account.shop_id}/{key}.jpg"
    session.info[ROOM] = room
    take_out(session, find_visit(session, me.account.shop_id, uuid.UUID(bench.rpartition("/")[2])), key)
    assert room.get(name)
    session.rollback()
    app.extensions["plentar_sessions"].kw["info"] = {ROOM: room}
    try:
        assert me.client.get(shown).status_code == 200, "what was not committed lost nothing"
        assert me.client.post(f"{bench}/photos/take-out", data={"key": key}).status_code == 302
    finally:
        app.extensions["plentar_sessions"].kw["info"] = {}
    assert room.get(name) is None


def test_a_place_that_loses_what_it_was_given_gets_nothing(somebody, session):
    me = somebody()
    shown = a_photo(me, "olive")

    class Leaky(Folder):
        def put(self, name: str, jpeg: bytes) -> None:
            """Nothing is kept."""

        def get(self, name: str) -> bytes | None:
            return None

    with pytest.raises(NoRoom, match="stays in the database"):
        move_out(session, Leaky(None), now())
    session.rollback()
    assert me.client.get(shown).status_code == 200


def test_a_place_that_does_not_answer_is_said_and_one_that_is_none_stops_the_start(app, somebody, session):
    me = somebody()
    with object_store() as (url, held):
        shown = a_photo(me, "navy")
        move_out(session, room_at(url), now())
        assert held
        gone = room_at(url)
    app.extensions["plentar_sessions"].kw["info"] = {ROOM: gone}
    try:
        answer = me.client.get(shown)
        assert answer.status_code == 503 and "does not answer" in answer.text
    finally:
        app.extensions["plentar_sessions"].kw["info"] = {}
    assert isinstance(room_at("s3://k:s@store.example/photos"), Bucket)
    with pytest.raises(BadConfiguration, match="PLENTAR_PHOTO_ROOM"):
        Config("postgresql+psycopg://a@b/c", "x" * 40, photo_room="http://here")


def test_a_lead_reads_how_much_room_is_left_and_is_warned(app, somebody, session):
    """By hand: 10 MB in thirty days are a third of one a day; 90 more last 270 days, nine months."""
    room = Room(10_000_000, 100_000_000, 10_000_000 / 30)
    assert room.days_left == pytest.approx(270) and not room.tight
    assert Room(80, 100, 0.0).tight and Room(80, 100, 0.0).days_left is None
    me = somebody()
    a_photo(me, "maroon")
    kept = photo_room(session, me.account.shop_id, 500_000_000)
    assert kept.used > 0 and kept.a_day == pytest.approx(kept.used / 30)
    assert "MB of 500" in me.client.get("/shop/archive").text.replace("\u202f", " ")
    assert "runs out" not in me.client.get("/").text
    app.config["PLENTAR_PHOTO_MB"] = kept.used / 1e6 * 1.1
    try:
        assert "Nearly full" in me.client.get("/shop/archive").text
        assert "runs out" in me.client.get("/").text
    finally:
        app.config["PLENTAR_PHOTO_MB"] = 500.0
