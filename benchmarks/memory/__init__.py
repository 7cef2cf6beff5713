"""The pages that remember, beside themselves: a shop of 200,000 visits and one of 2,000, in turns.

Both are laid in once, in a cluster of their own, and found there again. A page's time is the server's
whole work for it, as the middle of many; its ratio is what a hundred times the visits cost.
"""

from __future__ import annotations

import os
import time
import uuid
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from statistics import median

from flask.testing import FlaskClient
from sqlalchemy import create_engine, select, text
from sqlalchemy.orm import Session

from benchmarks.memory.lay import PASSWORD, lay_in
from plentar.core.visit.events import Calls, Power
from plentar.store.accounts import find_account
from plentar.store.cluster import Cluster, project_cluster
from plentar.store.database import ensure_database, migrate
from plentar.store.models import Account, Digest, DigestValue, Shop, Unit, Visit
from plentar.store.rounds import plan_round
from plentar.store.units import find_unit
from plentar.store.visits import append_event, find_visit, start_visit
from plentar.web.config import Config
from plentar.web.factory import create_app

SMALL, LARGE = 2_000, 200_000
#: How often each page is asked for, after a few that don't count.
TIMES, UNCOUNTED = 31, 5
#: A visit's place among others that a search by value asks beyond, and units of the measured round.
BEYOND, ON_ROUND = 40, 50
LOGIN = "memory"


def measure(large: int = LARGE) -> Iterator[str]:
    """Lay in what is missing, and measure every page on both shops in turns."""
    cluster = project_cluster(Path(os.environ.get("PLENTAR_HOME", Path.cwd())), "memory-postgres")
    cluster.start()
    try:
        shops = [_shop(cluster, visits) for visits in (SMALL, large)]
        for shop in shops:
            yield f"{shop.visits:>9,} visits, {shop.events:,} events, {shop.units:,} units"
        for page in shops[0].addresses:
            few, many = _in_turns(shops, page)
            yield f"{page:<28} {few:6.1f} ms {many:6.1f} ms   {many / few:4.2f} times"
    finally:
        cluster.stop()


def _in_turns(shops: list[_Shop], page: str) -> list[float]:
    took: list[list[float]] = [[], []]
    for number in range(TIMES + UNCOUNTED):
        for shop, times in zip(shops, took, strict=True):
            started_s = time.perf_counter()
            answer = shop.client.get(shop.addresses[page])
            if number >= UNCOUNTED:
                times.append(1000 * (time.perf_counter() - started_s))
            assert answer.status_code == 200, (page, answer.status)
    return [median(times) for times in took]


@dataclass(frozen=True, slots=True)
class _Shop:
    """One shop with somebody signed in, and the address of each page."""

    client: FlaskClient
    addresses: Mapping[str, str]
    units: int
    visits: int
    events: int


def _shop(cluster: Cluster, visits: int) -> _Shop:
    name = f"memory_{visits}"
    ensure_database(cluster.url("postgres"), name)
    migrate(cluster.url(name))
    # An engine without the guards of the program's own: laying in takes minutes.
    with Session(create_engine(cluster.url(name))) as session:
        if session.scalar(select(Shop.id).limit(1)) is None:
            lay_in(session, LOGIN, visits)
            _begin(session)
        counted = [
            session.scalar(text(f"select count(*) from {table}")) or 0
            for table in ("unit", "visit", "visit_event")
        ]
        addresses = _addresses(session)
    app = create_app(Config(cluster.url(name), "x" * 40))
    app.config["WTF_CSRF_ENABLED"] = False
    client = app.test_client()
    client.post("/sign-in", data={"login": LOGIN, "password": PASSWORD})
    return _Shop(client, addresses, *counted)


def _begin(session: Session) -> None:
    """A round with a visit under way, its unit visited for ten years before."""
    account = session.scalars(select(Account)).one()
    me = find_account(session, account.id)
    assert me is not None
    round_ = plan_round(session, me.shop_id, "Autumn", None, "street")
    session.execute(
        text(
            "delete from round_unit where unit_id not in"
            " (select unit_id from round_unit order by unit_id limit :n)"
        ),
        {"n": ON_ROUND},
    )
    unit_id = session.scalars(
        text("select unit_id from round_unit order by unit_id limit 1").columns(Unit.id)
    ).one()
    visit = start_visit(session, find_unit(session, me.shop_id, unit_id), me, "no-heat", round_.id)
    for event in (Power(t_s=1.0, state="on"), Calls(t_s=5.0, calls=frozenset({"W1", "G"}))):
        record = find_visit(session, me.shop_id, visit.id, to_write=True)
        append_event(session, record, event, uuid.uuid4(), me.id)
    session.commit()


def _addresses(session: Session) -> dict[str, str]:
    opened = session.scalars(select(Visit).where(Visit.closed_at.is_(None))).one()
    mended = session.scalars(
        select(Digest.mended[1]).where(Digest.mended != []).order_by(Digest.visit_id).limit(1)
    ).one()
    beyond = session.scalars(
        select(DigestValue.value)
        .where(DigestValue.kind == "amps")
        .order_by(DigestValue.value.desc())
        .offset(BEYOND)
        .limit(1)
    ).one()
    return {
        "first page": "/",
        "search: newest": "/search",
        "search: an address": "/search?words=1+street+1",
        "search: a word of many": "/search?words=contactor",
        "search: a note’s words": "/search?words=replaced+like",
        "search: a finding": "/search?finding=element-dead",
        "search: a part mended": f"/search?mended={mended}",
        "search: a value beyond": f"/search?kind=amps&above={beyond}",
        "board": "/board",
        "round": f"/rounds/{opened.round_id}",
        "unit": f"/units/{opened.unit_id}",
        "history": f"/units/{opened.unit_id}/history",
        "pad": f"/visits/{opened.id}?at=E1&quantity=amps",
    }
