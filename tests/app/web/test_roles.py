"""The one table of who may ask for what, walked over all routes as nobody, a technician and a lead."""

from __future__ import annotations

import uuid
from collections.abc import Iterator

from werkzeug.routing import Rule

from plentar.store.accounts import make_account
from plentar.web.roles import EVERYBODY, LEADS
from tests.app.conftest import PASSWORD

#: What ends the session by which it is asked.
LAST = ("auth.sign_out", "auth.end_session", "auth.end_others")


def routes(app) -> Iterator[tuple[Rule, str]]:
    rules = sorted(app.url_map.iter_rules(), key=lambda rule: rule.endpoint in LAST)
    for rule in rules:
        for method in sorted(rule.methods & {"GET", "POST"}):
            yield rule, method


def asked(app, client, rule: Rule, method: str):
    """The answer where nothing is there: roles are looked at before."""
    values = {name: str(uuid.uuid4()) if name.endswith("_id") else "E1" for name in rule.arguments} | (
        {"event_id": 1} if "event_id" in rule.arguments else {}
    )
    with app.test_request_context():
        path = app.url_for(rule.endpoint, **values)
    return client.open(path, method=method, buffered=True)


def test_every_route_is_for_whom_the_table_says(app, somebody, session):
    me = somebody()
    login = f"tech-{me.account.login}"
    make_account(session, me.account.shop, login, "A Technician", PASSWORD)
    session.commit()
    technician = app.test_client()
    technician.post("/sign-in", data={"login": login, "password": PASSWORD})
    endpoints = set()
    for rule, method in routes(app):
        endpoint = rule.endpoint
        endpoints.add(endpoint)
        out = asked(app, app.test_client(), rule, method)
        to_sign_in = out.status_code == 302 and out.location.startswith("/sign-in")
        assert to_sign_in == (endpoint not in EVERYBODY), (endpoint, method, out.status_code)
        barred = asked(app, technician, rule, method).status_code == 403
        assert barred == (endpoint in LEADS), (endpoint, method)
        assert asked(app, me.client, rule, method).status_code != 403, (endpoint, method)
    assert endpoints >= EVERYBODY | LEADS, "no row of the table is of no route"
    assert len(endpoints - EVERYBODY - LEADS) > 80


def test_what_the_people_page_says_of_a_lead_is_what_the_table_has(somebody):
    me = somebody()
    said = me.client.get("/shop/people").text
    assert "lead: people, settings, lessons and data of the shop; reopens visits" in said
    of = {name.partition(".")[0] for name in LEADS}
    assert of == {"auth", "handover", "parts", "people", "practice", "shop"}
    assert {name for name in LEADS if name.startswith("handover.")} == {"handover.reopen"}
