"""A link for the owner: it shows its sheet and nothing else, until its day, unaltered, unless revoked."""

from __future__ import annotations

import io
import uuid
from urllib.parse import urlsplit

import pdfua
import pikepdf
import pytest
from bs4 import BeautifulSoup
from itsdangerous import URLSafeSerializer
from sqlalchemy import text


@pytest.fixture
def linked(hands):
    """A visit that is over, with a link to it: the hands, and the link’s path."""
    hands.kit("71 Saltmarsh Lane")
    hands.begin("not-enough-heat")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(700)
    hands.amps(E1=20.5, E2=0.0)
    hands.close("heat-disabled", "Part on order.")
    hands.post(f"{hands.bench}/owner/links", days="7")
    (link,) = hands.page(f"{hands.bench}/owner").select("#links p a")
    return hands, urlsplit(link["href"]).path


def test_whoever_holds_it_reads_the_sheet_and_can_go_nowhere_from_it(linked, app):
    hands, path = linked
    anybody = app.test_client()
    answer = anybody.get(path)
    assert answer.status_code == 200 and "Heating element E2 gave no heat." in answer.text
    assert answer.headers["Referrer-Policy"] == "no-referrer"
    assert "Set-Cookie" not in answer.headers and "Set-Cookie" not in anybody.get(f"{path}/sheet.pdf").headers
    assert answer.headers["Cache-Control"] == "no-store" and "noindex" in answer.headers["X-Robots-Tag"]
    page = BeautifulSoup(answer.text, "html.parser")
    assert [a["href"] for a in page.select("a[href]")] == [f"{path}/sheet.pdf"]
    assert not page.select("form, script, iframe")
    for tag in page.select("[src], link[href]"):
        address = tag.get("src") or tag["href"]
        assert address.startswith(("data:", "/static/sheet.css")), address
    assert anybody.get(f"{path}/sheet.pdf").data.startswith(b"%PDF")
    for other in (hands.bench, f"{hands.bench}/report", f"{hands.bench}/visit.json", hands.unit, "/"):
        assert anybody.get(other).status_code == 302, "to the sign-in page"
    assert anybody.post(path).status_code in (400, 405)


def test_altered_guessed_ended_and_revoked_links_show_nothing(linked, app, session):
    hands, path = linked
    anybody, token = app.test_client(), path.rsplit("/", 1)[1]
    id_part, _, signature = token.partition(".")
    forged = URLSafeSerializer("another secret", salt="owner's sheet").dumps(str(uuid.uuid4()))
    never = URLSafeSerializer(app.secret_key, salt="owner's sheet").dumps(str(uuid.uuid4()))
    elsewhere = URLSafeSerializer(app.secret_key, salt="another use").dumps(str(uuid.uuid4()))
    flipped = signature[:-2] + ("A" if signature[-2] != "A" else "B") + signature[-1]
    for bad in (
        f"{id_part}.{flipped}",
        id_part,
        f"{id_part}.",
        "x",
        forged,
        never,
        elsewhere,
        token + "x",
        token[1:],
        "%00",
        "a" * 3000,
        URLSafeSerializer(app.secret_key, salt="owner's sheet").dumps(["x"]),
    ):
        for end in ("", "/sheet.pdf"):
            answer = anybody.get(f"/sheet/{bad}{end}")
            assert answer.status_code in (400, 404), bad
            assert "71 Saltmarsh" not in answer.text
    assert anybody.get(path).status_code == 200
    session.execute(text("update owner_link set ends_at = now() - interval '1 second'"))
    session.commit()
    assert anybody.get(path).status_code == 404, "past its day"
    session.execute(text("update owner_link set ends_at = now() + interval '1 day'"))
    session.commit()
    assert anybody.get(path).status_code == 200
    hands.post(f"{hands.bench}/owner/revoke")
    assert anybody.get(path).status_code == 404
    assert anybody.get(f"{path}/sheet.pdf").status_code == 404


def test_both_sheets_are_tagged_small_and_hold_their_fonts(linked, tmp_path):
    """By a validator that knows nothing of what made them."""
    hands, _ = linked
    for sheet in ("owner", "report"):
        raw = hands.client.get(f"{hands.bench}/{sheet}.pdf").data
        assert len(raw) < 300_000
        (tmp_path / "sheet.pdf").write_bytes(raw)
        found = pdfua.validate(tmp_path / "sheet.pdf").findings
        # Tables carry their heads by id from each cell, which this rule does not look at.
        left = [f for f in found if f.rule_id != "UA-15-003"]
        assert not left, [(f.rule_id, f.message) for f in left]
        assert b"/FontFile" in _unpacked(raw)


def _unpacked(raw: bytes) -> bytes:

    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(raw)) as pdf:
        pdf.save(out, object_stream_mode=pikepdf.ObjectStreamMode.disable)
    return out.getvalue()
