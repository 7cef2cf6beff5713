"""Days of no year of ours, numbers that are none, archives with flipped bits: each is a complaint at its field."""

from __future__ import annotations

import io
import random
import uuid

import pytest

from tests.app.web.test_archive import sent

DAYS = ("0001-01-01", "0026-01-01", "1969-12-31", "2300-01-01", "9999-12-31")
NUMBERS = ("inf", "-inf", "nan", "1e999", "1e308", "-1", "9" * 40)


@pytest.fixture
def bench(hands):
    """A visit with a reading; what fails answers 500, as it would to a browser."""
    hands.kit("72 Saltmarsh Lane")
    hands.begin("check-up")
    hands.read("C1", "volts", 240)
    hands.client.application.config["PROPAGATE_EXCEPTIONS"] = False
    yield hands.bench
    hands.client.application.config["PROPAGATE_EXCEPTIONS"] = None


def entry(**form):
    return form | {"client_id": str(uuid.uuid4())}


@pytest.mark.parametrize("day", DAYS)
def test_a_day_of_no_year_of_ours_is_complained_of(hands, bench, day):
    line = hands.client.post(f"{bench}/lines", data=entry(when="now", text="new lug", due_on=day))
    route = hands.client.post("/rounds", data={"title": "x", "words": "Saltmarsh", "due_on": day})
    assert line.status_code == route.status_code == 422
    assert "1970" in line.text and "2200" in route.text
    for path in ("/search", "/search.csv", "/board"):
        for key in ("since", "until", "before"):
            assert hands.client.get(f"{path}?{key}={day}").status_code < 500, (path, key)
    assert hands.client.get("/search?until=2199-12-31").status_code == 200


@pytest.mark.parametrize("number", NUMBERS)
def test_a_number_that_is_none_is_no_crash(hands, bench, number):
    asked = (
        *(f"{bench}?{at}after={number}" for at in ("", "at=C1&")),
        *(
            f"{bench}/preview?at=C1&value={value}&turns={turns}"
            for value, turns in ((number, 1), (5, number))
        ),
        f"{bench}/judge?again={number}",
        f"{hands.unit}/clamp.csv?minutes={number}",
        *(
            f"/search?kind={kind}&{end}={number}"
            for kind in ("amps", "ground", "rise")
            for end in ("above", "below")
        ),
        f"/search?skipped={number}",
        *(f"/quick/{form}?kw={number}&volts={number}&run={number}" for form in ("element", "circuit")),
    )
    assert not [path for path in asked if hands.client.get(path).status_code >= 500]
    typed = (
        ("take", {"at": "C1", "quantity": "volts", "after_s": number}),
        ("readings", {"at": "C1", "quantity": "volts", "value": number}),
        ("readings", {"at": "supply-air", "quantity": "temp_f", "value": number}),
        ("tried", {"acted": "true", "after_s": number}),
        ("lines", {"when": "now", "text": "new lug", "minutes": number, "price": number}),
    )
    assert not [
        form
        for path, form in typed
        if hands.client.post(f"{bench}/{path}", data=entry(**form)).status_code >= 500
    ]
    assert (
        hands.client.post("/account/judging", data={"altitude_ft": number, "band": "plate"}).status_code < 500
    )


def test_an_archive_with_flipped_bits_is_refused_or_taken_and_never_a_crash(hands, bench):
    hands.close("left-off", "for the test")
    whole = sent(hands.client)
    draw, answers = random.Random(5), []
    for _ in range(60):
        bent = bytearray(whole)
        for _ in range(20):
            bent[draw.randrange(len(bent))] ^= 1 << draw.randrange(8)
        answer = hands.client.post("/shop/archive", data={"archive": (io.BytesIO(bytes(bent)), "a.zip")})
        answers.append(answer.status_code)
    assert set(answers) <= {200, 302, 422} and answers.count(422) > 40
