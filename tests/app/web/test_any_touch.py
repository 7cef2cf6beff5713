"""Hands that touch whatever a page shows: any link, any form, filled with anything a meter or a hurried
thumb may give. Nothing crashes, and no page shows what is no word of ours."""

from __future__ import annotations

import re
import uuid
from random import Random
from urllib.parse import urlencode, urljoin

import pytest
from sqlalchemy import text

from plentar.core.errors import BadInput
from plentar.core.unit.kits import KIT_CONTROLS, KIT_KINDS, KIT_RELAYS, KIT_TIES, KIT_VOLTS, Kit, build_kit
from plentar.store.units import make_unit

pytestmark = pytest.mark.slow
STEPS = 90
#: What ends the session or the account, leaves the application, or takes long for nothing.
LEFT_ALONE = re.compile(
    r"sign-out|/account|/shop/|/password/|/theme|/import|\.pdf|\.zip|\.csv|/clamp|/static"
)
NO_WORD = re.compile(r"\bnan\b|\binf\b|Undefined|<built-in|\{\{|frozenset\(|object at 0x|^None$")
NUMBERS = [
    "",
    "0",
    "OL",
    "0,2",
    "5",
    "12",
    "20.4",
    "24",
    "26.1",
    "75",
    "99",
    "140",
    "208",
    "241.5",
    "1.5M",
    "-3",
]
WORDS = ["", "word", "left as it was", "30", "E1"]


class Hands:
    """One pair of hands, on one page after another."""

    def __init__(self, me, rnd, soup):
        self.me, self.rnd, self.soup = me, rnd, soup
        self.done, self.answers, self.refused = [], {}, 0

    def open(self, method, path, form=None, htmx=False, of=""):
        """Ask from the page ``of``, and look at what comes: the page that it leads to, parsed, or None."""
        self.done = [*self.done[-12:], (method, path, form)]
        headers = {"HX-Request": "1"} if htmx else {}
        headers["Referer"] = f"http://localhost{of}"
        answer = self.me.client.open(path, method=method, data=form, headers=headers)
        self.answers[answer.status_code] = self.answers.get(answer.status_code, 0) + 1
        assert answer.status_code < 500, self.done
        if answer.mimetype != "text/html":
            return answer, None
        page = self.soup(answer)
        for said in page.find_all(string=NO_WORD):
            known = said.parent.name == "button" and said == "None"  # of a watch that was on time
            assert known or said.parent.name in ("script", "style"), (said, self.done)
        return answer, page

    def touch(self, path, page):
        """Some form or link of a page; where it leads."""
        for late in page.select("[data-hx-get][data-hx-trigger*=load]")[:2]:
            self.open("GET", urljoin(path, late["data-hx-get"]), htmx=True)
        forms = [
            (form, button, urljoin(path, (button or {}).get("formaction") or form["action"]))
            for form in page.find_all("form", action=True)
            for button in form.find_all("button") or [None]
        ]
        forms = [one for one in forms if not LEFT_ALONE.search(one[2])]
        links = [urljoin(path, a["href"]) for a in page.select("a[href]")]
        links = [one for one in links if one.startswith("/") and not LEFT_ALONE.search(one)]
        if not forms or (links and self.rnd.random() < 0.4):
            return self.rnd.choice(links or ["/"])
        form, button, to = self.rnd.choice(forms)
        filled = self.fill(form, button)
        if form.get("method", "get") == "get":
            return f"{to.split('?')[0]}?{urlencode(filled, doseq=True)}"
        htmx = form.has_attr("data-hx-post") and self.rnd.random() < 0.6
        answer, shown = self.open("POST", to, filled, htmx, of=path)
        if answer.status_code in (409, 422, 429) and not htmx:
            self.refused += 1
            self.is_kept(shown, path, filled)
        return answer.headers.get("Location", path)

    def is_kept(self, shown, path, filled):
        """A refusal says why on the page that was left, and what was typed is still in it."""
        assert shown.select(".complaint, .problem"), self.done
        assert not shown.select("#problem"), ("another page", path, self.done)
        typed = {v for values in filled.values() for v in values if isinstance(values, list)} - {""}
        there = {one.get("value", one.text) for one in shown.select("input, textarea, option[selected]")}
        assert {word for word in typed if word in WORDS} <= there, self.done

    def fill(self, form, button):
        """The form as somebody sends it who types what comes to mind."""
        sent, radios = {}, {}
        for field in form.select("input[name], select[name], textarea[name]"):
            name, kind = field["name"], field.get("type", field.name)
            if kind == "radio":
                radios.setdefault(name, []).append(field["value"])
            elif kind == "select":
                values = [one.get("value", one.text) for one in field.find_all("option")]
                sent[name] = self.rnd.choice(values or [""])
            elif kind == "checkbox":
                if field.has_attr("checked") or self.rnd.random() < 0.6:
                    sent.setdefault(name, []).append(field.get("value", "on"))
            elif kind == "hidden" or self.rnd.random() < 0.3:
                sent.setdefault(name, []).append(field.get("value", ""))
            elif kind != "file":
                some = NUMBERS if field.get("inputmode") in ("decimal", "numeric") else WORDS
                sent.setdefault(name, []).append(self.rnd.choice(some))
        sent |= {name: self.rnd.choice(values) for name, values in radios.items()}
        if button is not None and button.has_attr("name"):
            sent[button["name"]] = button.get("value", "")
        if "client_id" in sent:
            sent["client_id"] = str(uuid.uuid4())
        return sent


def any_unit(rnd):
    while True:
        watts = tuple(1000.0 * rnd.choice([3, 5, 7.5, 9.6]) for _ in range(rnd.randint(1, 4)))
        try:
            return build_kit(
                Kit(
                    watts,
                    rnd.choice(list(KIT_VOLTS)),
                    rnd.choice(list(KIT_CONTROLS)),
                    rnd.choice([1, 1, 2]),
                    rnd.choice(list(KIT_TIES)),
                    rnd.choice(list(KIT_KINDS)),
                    rnd.choice(list(KIT_RELAYS)),
                    rnd.choice([False, True]),
                ),
                "any",
                "Any",
            )
        except BadInput:
            continue  # these don't go together


@pytest.mark.parametrize("seed", [11])
def test_whatever_is_touched_the_application_stands(somebody, session, soup, seed):
    me, rnd = somebody(), Random(seed)
    units = [make_unit(session, me.account.shop_id, any_unit(rnd)).row.id for _ in range(3)]
    session.commit()
    hands, path = Hands(me, rnd, soup), "/"
    for _ in range(STEPS):
        if rnd.random() < 0.06:
            path = f"/units/{rnd.choice(units)}"
        if rnd.random() < 0.1:  # a while goes by
            session.execute(
                text(
                    "update visit set started_at = started_at - make_interval(secs => :s)"
                    " where shop_id = :shop and closed_at is null"
                ),
                {"s": rnd.choice([5, 40, 100, 300]), "shop": me.account.shop_id},
            )
            session.commit()
        answer, page = hands.open("GET", path)
        if answer.status_code in (301, 302, 303):
            path = answer.headers["Location"]
        elif page is None or answer.status_code != 200:
            path = "/"
        else:
            path = hands.touch(path, page)
    assert hands.answers[200] > STEPS
    assert hands.answers[302] > STEPS / 10
    assert hands.refused
