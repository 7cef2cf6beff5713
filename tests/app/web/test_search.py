"""Search over a shop's units and finished visits, the board, and that no query does without an index."""

from __future__ import annotations

import csv
import io
import json
from datetime import UTC, datetime

import pytest
from sqlalchemy import NullPool, create_engine, event, text
from sqlalchemy.orm import Session

from plentar.store.digests import fill_missing
from plentar.store.history import added_to
from plentar.store.parts_on_record import parts_on_record
from plentar.store.rounds import minutes_of, round_for, rounds_of, stops_of
from plentar.store.search import Asked, board_of, find_units, find_visits
from plentar.store.units import list_units, make_unit, units_off_round
from plentar.store.visit_lists import calls_of, left_over, visits_of_unit
from plentar.store.visits import find_visit, read_before
from plentar.web.showing import natural
from tests.app.calls import LOCKED
from tests.app.hands import Posting
from tests.kits import Kit, build_kit


@pytest.fixture
def finished(hands) -> Posting:
    """Two units: at one E2 is dead and left disabled, with work on order; the other is sound."""
    hands.kit("101 Saltmarsh Lane, attic", control="single-sequencers")
    hands.begin("not-enough-heat")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(700)
    hands.amps(E1=20.5, E2=0.0)
    hands.post(f"{hands.bench}/note", part="E2", text="brown at its spade")
    hands.post(f"{hands.bench}/lines", when="soon", text="new strip", parts="ordered", due_on="2027-02-01")
    hands.close("heat-disabled", "Strip on order.")
    first = hands.bench
    hands.unit = hands.post("/units", **_kit("102 Marram Row")).location
    hands.begin("check-up")
    hands.read("C1", "volts", 239)
    hands.heat(E1=19.0, E2=20.4)
    hands.close(note="All well.")
    hands.first = first
    return hands


def _kit(label: str) -> dict[str, str]:
    from tests.app.hands import KIT  # noqa: PLC0415

    return KIT | {"label": label}


def labels(hands: Posting, query: str) -> list[str]:
    page = hands.page(f"/search?{query}")
    return [row.select("td")[1].text.strip() for row in page.select("tbody tr")]


def test_a_visit_is_found_by_whatever_is_known_of_it(finished):
    one, two = "101 Saltmarsh Lane, attic", "102 Marram Row"
    for query, due in {
        "": [one, two],
        "words=saltm": [one],
        "words=marram+row": [two],
        "words=brown+spade": [one],
        "words=order": [one],
        "mended=E2": [],
        "finding=element-dead": [one],
        "outcome=in-service": [two],
        "complaint=check-up": [two],
        "who=A+Lead": [one, two],
        "who=Nobody": [],
        "until=2001-01-01": [],
        "kind=amps&below=19.5": [two],
        "kind=amps&above=20.3": [one, two],
        "kind=amps&above=30": [],
        "words=%27%29%3B+drop": [],
        "words=%21%26%7C": [one, two],
    }.items():
        for _ in range(2):
            assert labels(finished, query) == due, query
    for bad in ("finding=x", "since=soon", "above=much&kind=amps", "kind=miles", f"words={'x' * 201}"):
        assert finished.client.get(f"/search?{bad}").status_code == 422, bad
    units = [a.text for a in finished.page("/search?words=marr").select("a.line")]
    assert units == ["102 Marram Row"]
    rows = list(csv.DictReader(io.StringIO(finished.client.get("/search.csv?words=saltm").text)))
    assert [(r["unit"], r["findings"]) for r in rows] == [(one, "element-dead")]


def test_another_shop_finds_nothing_of_it(finished, newcomer):
    other = newcomer()
    assert "No finished visit matches" in other.client.get("/search?words=saltm").text
    assert "All units are in service" in other.client.get("/board").text


def test_the_board_shows_what_is_open_and_lets_go_of_what_is_done(finished, session):
    board = finished.page("/board").text
    assert "101 Saltmarsh Lane, attic" in board and "heat disabled" in board
    assert "new strip" in board and "2027-02-01" in board and "part on order" in board
    assert "102 Marram Row" not in board
    finished.post(f"{finished.first}/reopen", reason="the strip has come")
    board = finished.page("/board").text
    assert "All units are in service" in board, "it is under way again, and no more finished"
    assert "A Lead, since" in board
    finished.bench = finished.first
    lines = finished.page(f"{finished.bench}/close").select("#work .todo:not(.suggested) li form")
    form = {i["name"]: i["value"] for i in lines[0].select("input[type=hidden]")}
    finished.post(f"{finished.bench}/lines", **form)
    finished.close("left-off", "Waits for the electrician.")
    board = board_of(session, finished.shop_id)
    assert not board.work and [w.text for w in board.left_off] == ["left-off"]


def test_the_board_shows_a_stop_until_somebody_answers_it(hands):
    hands.kit("103 Marram Row")
    hands.begin("heat-will-not-stop")
    hands.read("C1", "volts", 240)
    hands.amps(E1=20.6)
    heads = hands.page("/board").select("main h2")
    stops = next(head for head in heads if "Open stops" in head.text).parent
    assert "103 Marram Row" in stops.text and "A Lead" in stops.text
    assert stops.a["href"] == hands.bench
    hands.off()
    assert hands.made_safe(LOCKED) == 1
    assert "Open stops" not in hands.page("/board").text


def test_what_is_not_digested_yet_is_at_the_next_start(finished, session):
    before = find_visits(session, finished.shop_id, Asked())
    session.execute(text("delete from digest where shop_id = :s"), {"s": finished.shop_id})
    session.execute(text("delete from unit_words where shop_id = :s"), {"s": finished.shop_id})
    session.commit()
    assert not find_units(session, finished.shop_id, "")
    assert fill_missing(session) >= 4
    assert find_visits(session, finished.shop_id, Asked()) == before
    assert len(find_units(session, finished.shop_id, "")) == 2


MANY = """
insert into shop (id, name) values ('00000000-0000-4000-8000-00000000000a', 'Many');
insert into account (id, shop_id, login, name, role, password_hash) values
 ('00000000-0000-4000-8000-00000000000b', '00000000-0000-4000-8000-00000000000a', 'many', 'Many', 'lead', 'x');
insert into unit (id, shop_id, created_at) select md5('u' || n)::uuid,
 '00000000-0000-4000-8000-00000000000a', now() from generate_series(1, 500) n;
insert into unit_version (id, shop_id, unit_id, number, plate, made_at) select md5('v' || n)::uuid,
 '00000000-0000-4000-8000-00000000000a', md5('u' || n)::uuid, 1, '{}', now() from generate_series(1, 500) n;
insert into unit_words (unit_id, shop_id, label, words) select md5('u' || n)::uuid,
 '00000000-0000-4000-8000-00000000000a', n || ' Marram Row', to_tsvector('simple', n || ' marram row')
 from generate_series(1, 500) n;
insert into visit (id, shop_id, unit_id, version_id, opened_by, complaint, started_at, closed_at, outcome)
 select md5('w' || n)::uuid, '00000000-0000-4000-8000-00000000000a', md5('u' || (n % 500 + 1))::uuid,
 md5('v' || (n % 500 + 1))::uuid, '00000000-0000-4000-8000-00000000000b', 'check-up',
 timestamp '2010-01-01' + n * interval '1 hour', now(), 'in-service' from generate_series(1, 2000) n;
insert into digest (visit_id, shop_id, unit_id, started_at, who, complaint, outcome, newest, findings, mended, work, words)
 select md5('w' || n)::uuid, '00000000-0000-4000-8000-00000000000a', md5('u' || (n % 500 + 1))::uuid,
 timestamp '2010-01-01' + n * interval '1 hour', 'Many', 'check-up', 'in-service', n > 1500,
 case when n % 500 = 0 then array['element-dead'] else '{}' end,
 case when n % 700 = 0 then array['S1'] else '{}' end, '[]',
 to_tsvector('simple', 'visit ' || n || ' marram') from generate_series(1, 2000) n;
insert into visit_event (shop_id, visit_id, client_id, t_s, body, recorded_at, recorded_by)
 select '00000000-0000-4000-8000-00000000000a', md5('w' || n)::uuid, md5('e' || n || k)::uuid, k,
 jsonb_build_object('at', 'E1', 'read', 'amps'), now(), '00000000-0000-4000-8000-00000000000b'
 from generate_series(1, 2000) n cross join generate_series(1, 2) k;
insert into round (id, shop_id, title, opened_on) values
 ('00000000-0000-4000-8000-00000000000c', '00000000-0000-4000-8000-00000000000a', 'Autumn', '2010-01-01');
insert into round_unit (round_id, unit_id, shop_id) select '00000000-0000-4000-8000-00000000000c',
 md5('u' || n)::uuid, '00000000-0000-4000-8000-00000000000a' from generate_series(1, 60) n;
insert into digest_value (visit_id, shop_id, kind, part, value, accuracy, due_low, due_high)
 select md5('w' || n)::uuid, '00000000-0000-4000-8000-00000000000a', 'amps', 'E1', 20 + n / 2000.0, 1, 18, 22 from generate_series(1, 2000) n;
"""


#: What grows with a shop.
LARGE = ("digest", "digest_value", "unit", "unit_version", "unit_words", "visit", "visit_event", "round_unit")


@pytest.mark.slow
def test_no_query_does_without_an_index_where_it_matters(database_url, monkeypatch):
    """Two thousand visits, laid in and taken out again; every statement of the pages that remember is
    asked for its plan. A plan that reads a whole table is the last resort: then an index is missing."""
    asked_of: list[tuple[str, object]] = []
    # A connection without the guard of those that wait: what is laid in takes its time.
    with Session(create_engine(database_url, poolclass=NullPool)) as session:
        for statement in MANY.split(";\n"):
            if statement.strip():
                session.execute(text(statement))
        for table in LARGE:
            session.execute(text(f"analyze {table}"))
        shop = session.scalar(text("select id from shop where name = 'Many'"))
        unit, visit = session.execute(
            text("select unit_id, id from visit where shop_id = :s limit 1"), {"s": shop}
        ).one()
        session.execute(text("set local enable_seqscan = off"))

        def ask(_connection, _cursor, statement, parameters, _context, _many):
            asked_of.append((statement, parameters))

        event.listen(session.bind, "before_cursor_execute", ask)
        monkeypatch.setattr("plentar.store.units.checked_plate", lambda _: None)
        monkeypatch.setattr("plentar.store.visits.checked_version", lambda *_: None)
        for asked in (
            Asked(),
            Asked("visit 123"),
            Asked(finding="element-dead"),
            Asked(mended="S1"),
            Asked(kind="amps", above=20.999),
            Asked(kind="amps", below=20.001),
        ):
            find_visits(session, shop, asked)
        find_units(session, shop, "marram")
        board_of(session, shop)
        calls_of(session, shop, datetime(2010, 3, 1, tzinfo=UTC))
        (round_, _, _), *_ = rounds_of(session, shop)
        assert len(stops_of(session, round_)) == 60 and minutes_of(session, round_)
        loose = units_off_round(session, shop, round_.id, 40)
        left_over(session, shop, loose)
        list_units(session, shop, loose)
        round_for(session, shop, unit)
        visits_of_unit(session, shop, unit)
        added_to(session, shop, unit, datetime.date)
        assert list(read_before(session, shop, unit, datetime(2030, 1, 1, tzinfo=UTC), "E1"))
        find_visit(session, shop, visit)
        event.remove(session.bind, "before_cursor_execute", ask)
        assert len(asked_of) > 20
        for statement, parameters in asked_of:
            lines = session.connection().exec_driver_sql(f"explain {statement}", parameters)
            plan = "\n".join(line for (line,) in lines)
            for large in LARGE:
                assert f"Seq Scan on {large} " not in plan, (statement, plan)
        session.rollback()


def test_a_search_leads_over_the_history_to_a_visit(finished):
    found = finished.page("/search?words=saltm").select_one("tbody tr")
    unit = found.select("td")[1].a["href"]
    history = finished.page(finished.page(unit).find("a", string="All readings over the years")["href"])
    assert history.select_one(".histories") is not None
    report = found.select("td")[0].a["href"]
    assert finished.page(report).h1


def test_how_long_parts_last_says_so_when_it_can_not(finished, session):
    page = finished.page("/how-long")
    rows = {row.th.text.strip(): row.text for row in page.select("tbody tr")}
    assert "too few replacements" in rows["sequencer"]
    kinds = parts_on_record(session, finished.shop_id)
    assert {k: len(v.watched) for k, v in kinds.items()} == {
        "sequencer": 4,
        "spdt blower relay": 2,
        "element": 4,
        "limit": 4,
        "link": 4,
    }
    assert "Fewer than 8 replacements in all" in page.text and not page.select("main form")


AGAIN = """
insert into visit (shop_id, unit_id, version_id, opened_by, started_at, closed_at, outcome, id)
 select shop_id, unit_id, version_id, opened_by, started_at - n * interval '200 days', closed_at,
 'in-service', md5(id::text || n)::uuid from visit cross join generate_series(1, 9) n where id = :id;
insert into digest (shop_id, unit_id, started_at, who, outcome, newest, findings, mended, work, words, visit_id)
 select shop_id, unit_id, started_at - n * interval '200 days', who, outcome, false, '{}', '{S1}', '[]',
 words, md5(visit_id::text || n)::uuid from digest cross join generate_series(1, 9) n where visit_id = :id
"""


def test_the_judge_begins_with_the_shops_own_frequencies_where_its_lead_says_so(finished, session):
    for statement in AGAIN.split(";"):
        session.execute(text(statement), {"id": finished.first.rsplit("/", 1)[1]})
    session.commit()
    own = [b.text for b in finished.page("/how-long").select("main form button")]
    assert own == ["Use shop rates"]
    finished.post("/how-long/use")
    rows = {row.th.text.strip(): row.text.split() for row in finished.page("/how-long").select("tbody tr")}
    factors = {kind: float(words[-1]) for kind, words in rows.items()}
    assert factors["sequencer"] > 1.1 and factors["element"] < 0.9
    finished.begin("no-heat")
    visit = json.loads(finished.client.get(f"{finished.bench}/visit.json").text)["visit"]
    assert visit["settings"]["frequencies"]["sequencer"] == pytest.approx(factors["sequencer"], abs=0.01)
    assert "your shop’s failure rates" in finished.page(f"{finished.bench}/judge").text
    finished.post("/account/judging", altitude_ft="1000", band="house")
    assert finished.page("/how-long").select("tbody tr")[0].text.split()[-1] != "—", "still its own"
    finished.post("/how-long/leave")
    assert finished.page("/how-long").select("tbody tr")[0].text.split()[-1] == "—"


def test_names_stand_in_their_natural_order(somebody, session):
    me = somebody()
    for label in ("10 Marsh Lane", "2 Marsh Lane", "9 Marsh Lane, attic", "10 Marsh Lane, attic"):
        unit = build_kit(Kit((5000.0,), 240, "contactors"), "u", label)
        make_unit(session, me.account.shop_id, unit)
    session.commit()
    found = [label for _, label in find_units(session, me.account.shop_id, "marsh")]
    assert found == ["2 Marsh Lane", "9 Marsh Lane, attic", "10 Marsh Lane", "10 Marsh Lane, attic"]
    assert sorted(["E10", "E2", "C1.l1", "E1.wire"], key=natural) == ["C1.l1", "E1.wire", "E2", "E10"]
