"""How a visit ends: work decided, what was mended read again, sheets, photos; over HTTP."""

from __future__ import annotations

import base64
import gc
import hashlib
import io
import json
import re
import uuid
import warnings

import pypdf
from icalendar import Calendar
from PIL import Image

from plentar.files.handover_json import MOST_PHOTOS
from plentar.store.models import ShopPhoto
from plentar.store.photos import stored_bytes
from plentar.web import showing
from tests.app.hands import Posting


def picture(shade: int = 60, size: tuple[int, int] = (320, 240)) -> bytes:
    """A photo as a camera writes it."""
    made = io.BytesIO()
    Image.new("RGB", size, (120, shade % 256, shade // 256)).save(made, "PNG")
    return made.getvalue()


def send_photo(hands: Posting, raw: bytes, name: str = "a.jpg", **form):
    data = {"client_id": str(uuid.uuid4()), "photo": (io.BytesIO(raw), name)} | form
    return hands.client.post(f"{hands.bench}/photos", data=data)


def mended(hands: Posting) -> None:
    """E2 dead by its sequencer, which is replaced; nothing is read again yet."""
    hands.kit("61 Saltmarsh Lane", control="double-sequencers")
    hands.begin("not-enough-heat")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(700)
    hands.amps(E1=20.5, E2=0.0)
    hands.calls()
    hands.dead()
    hands.did("replaced", "S1", note="second switch does not close")


def refused(hands: Posting, outcome: str = "in-service", **form) -> str:
    answer = hands.client.post(f"{hands.bench}/close", data={"outcome": outcome} | form)
    assert answer.status_code == 422
    return hands.soup(answer).select_one(".complaint").text


def pdf_text(hands: Posting, path: str) -> str:
    answer = hands.client.get(path)
    assert answer.status_code == 200 and answer.mimetype == "application/pdf"
    return " ".join(
        " ".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(answer.data)).pages).split()
    )


def test_in_service_only_when_what_was_mended_is_read_again_or_answered(hands):
    mended(hands)
    assert "4 lines of the retest not done" in refused(hands)
    hands.on()
    hands.calls("W1", "G")
    hands.wait(700)
    hands.amps(E1=20.5, E2=0.0)
    for at, volts in (("S1.1", 0.1), ("S1.2", 0.1), ("C1", 239)):
        hands.read(at, "volts", volts)
    page = hands.page(f"{hands.bench}/close")
    rows = {row.th.a.text.strip(): row.text for row in page.select("#retest tbody tr")}
    assert "not as expected" in rows["Element E2, amps"] and "as expected" in rows["Element E1, amps"]
    hands.amps(E2=20.4)
    hands.calls()
    hands.wait(700)
    assert "1 line of the retest not done" in refused(hands)
    for form in ({"reason": "no time"}, {"line": "amps C1", "reason": " "}, {"line": "x", "reason": "why"}):
        sent = {"client_id": str(uuid.uuid4())} | form
        assert hands.client.post(f"{hands.bench}/leave-out", data=sent).status_code == 422, form
    assert hands.leave_out("the owner had to go") == ["amps C1"]
    report = hands.close(note="Second stage works.").text
    assert "left out: the owner had to go" in report and "0 A 20.4 A" in " ".join(report.split())
    left = hands.file()["visit"]["left_out"]
    assert [(one["line"], one["by"]) for one in left] == [("amps C1", "A Lead")]


def test_work_is_decided_carried_out_and_taken_over(hands):
    hands.kit("62 Saltmarsh Lane", control="single-sequencers")
    hands.begin("no-heat")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(700)
    hands.amps(E1=0.0, E2=20.5)
    page = hands.page(f"{hands.bench}/close")
    offered = page.find("input", value="repair element-dead E1").find_parent("form")
    form = {i["name"]: i["value"] for i in offered.select("input[type=hidden]")}
    ways = [o["value"] for o in offered.select("option")]
    assert "E1 off: its wire off S1.1, capped; the others then draw 20.8 A at circuit C1" in ways
    hands.post(f"{hands.bench}/lines", **form | {"meanwhile": ways[1]})
    hands.post(
        f"{hands.bench}/lines",
        when="soon",
        text="new filter",
        due_on="2027-01-15",
        minutes="20",
        price="18.5",
    )
    for bad in ({"line": "nobody"}, {"part": "E9"}, {"text": ""}, {"when": "never"}, {"due_on": "x"}):
        sent = {"client_id": str(uuid.uuid4()), "when": "now", "text": "some work"} | bad
        assert hands.client.post(f"{hands.bench}/lines", data=sent).status_code == 422, bad
    page = hands.page(f"{hands.bench}/close")
    assert len(page.select("#work > .todo:not(.suggested) > li")) == 2
    assert "20 min · 18.50" in page.select_one("#work").text
    source = "input[value='repair element-dead E1']"
    assert page.select(source) and not page.select(f".suggested {source}"), "among the lines now"
    assert "To do now and not done" in refused(hands)
    line = page.select_one("#work .when-now")
    unwanted = line.find("button", string="Owner declined").find_parent("form")
    hands.post(f"{hands.bench}/lines", **{i["name"]: i["value"] for i in unwanted.select("input")})
    form = {"outcome": "in-service", "left_note": "One strip is out.", "told": "M. Somebody"}
    report = hands.page(hands.post(f"{hands.bench}/close", **form).location).text
    assert "declined by the owner" in report and "M. Somebody" in report
    owner = hands.page(f"{hands.bench}/owner").text
    assert "Found, and not wanted now: Heating element E1 gave no heat." in " ".join(owner.split())
    dates = Calendar.from_ical(hands.client.get(f"{hands.bench}/follow-ups.ics").data)
    (event,) = dates.walk("VEVENT")
    assert event["summary"] == "62 Saltmarsh Lane: new filter" and str(event["dtstart"].dt) == "2027-01-15"
    file = hands.file()
    assert file["visit"]["told"][0]["name"] == "M. Somebody"
    assert file["visit"]["closed"]["outcome"] == "in-service"
    hands.begin("no-heat")
    over = hands.page(f"{hands.bench}/close").select("#work > .todo:not(.suggested) > li")
    assert ["E1 draws 0 A" in line.text for line in over] == [True, False], "both are taken over"
    assert all("open" in line["class"] for line in over), "what was not wanted is asked again"


def test_nothing_wrong_found_is_a_short_report(hands):
    hands.kit("63 Saltmarsh Lane", control="relays-ac")
    hands.begin("check-up")
    hands.read("C1", "volts", 240)
    hands.heat(E1=20.5, E2=20.4)
    page = hands.page(f"{hands.bench}/close")
    assert not page.select("#retest, #again"), "nothing was mended"
    report = hands.close()
    assert not report.select(".findings .level-repair, .findings .level-stop-now")
    text = pdf_text(hands, f"{hands.bench}/owner.pdf")
    assert "The unit is in service." in text and "Nothing was found wrong with what was read." in text
    assert "What we did" not in text and "What is left" not in text


def test_an_easy_repair_is_asked_its_reason_once(hands):
    hands.kit("64 Saltmarsh Lane")
    hands.begin("no-power")
    hands.post(f"{hands.bench}/look", seen="filter:poor")
    hands.did("switched-on", "C1")
    asked = hands.page(f"{hands.bench}/close").select_one("#again")
    assert "Circuit C1 was off: what tripped it" in asked.text and "filter" in asked.text
    back = hands.post(f"{hands.bench}/note", part="C1", text="painter switched it off", back="again")
    assert back.location.endswith("/close#again")
    hands.post(f"{hands.bench}/look", seen="filter:fine", back="again")
    assert not hands.page(f"{hands.bench}/close").select("#again")


def test_a_lead_opens_a_visit_again_within_a_day(hands, session, earlier):
    hands.kit("65 Saltmarsh Lane")
    hands.begin("check-up")
    hands.close(note="All well.")
    assert hands.client.post(f"{hands.bench}/reopen", data={"reason": " "}).status_code == 422
    hands.post(f"{hands.bench}/reopen", reason="the wrong unit was closed")
    hands.read("C1", "volts", 240)
    report = hands.close(note="Now all well.").text
    assert "reopened by A Lead: the wrong unit was closed" in report
    assert hands.client.post(f"{hands.bench}/reopen", data={"reason": "once more"}).status_code == 302
    hands.close()
    old = hands.bench
    hands.begin("check-up")
    for begun_s in (0, 7200):  # since; and by a clock that was set back, before
        earlier(hands.bench, begun_s)
        again = hands.client.post(f"{old}/reopen", data={"reason": "too late"})
        assert again.status_code == 409 and "Another visit has begun" in again.text


def test_the_owner_reads_it_in_the_shops_language_and_scale(hands):
    for bad in ({"language": "xx"}, {"scale": "K"}, {"phone": "1" * 61}):
        assert hands.client.post("/account/sheets", data=bad).status_code == 422, bad
    settings = {"language": "es", "scale": "C", "phone": "555 0100", "currency": "€"}
    hands.post("/account/sheets", **settings)
    mended(hands)
    hands.on()
    hands.calls("W1", "G")
    hands.wait(700)
    hands.amps(E1=20.5, E2=20.4)
    hands.close("left-off", "Falta una pieza.")
    text = pdf_text(hands, f"{hands.bench}/owner.pdf")
    assert "La unidad está apagada en su interruptor. Por favor, déjela apagada." in text
    assert (
        "Resistencia E2 no dio calor." in text and "Resistencia E2 calefacción encendida 0 A 20.4 A" in text
    )
    assert "Secuenciador de calefacción S1: cambiado por uno nuevo" in text
    assert "555 0100" in text and re.search(r"\d+ de \w+ de \d{4}", text), "the day too"
    assert "What we found" not in text
    assert "What" not in hands.page(f"{hands.bench}/owner").main.text
    technician = pdf_text(hands, f"{hands.bench}/report.pdf")
    assert "Element E2, amps" in technician and "Found" in technician, "his sheet stays as it is"


def test_photos_are_kept_once_shown_exported_and_taken_out(hands, session, newcomer, earlier):
    hands.kit("66 Saltmarsh Lane")
    hands.begin("check-up")
    raw = picture()
    for _ in range(2):
        assert send_photo(hands, raw, shows="plate", part="E1", text="its plate").status_code == 302
    (shown,) = hands.page(f"{hands.bench}/close").select(".photos img")
    jpeg = hands.client.get(shown["src"])
    assert jpeg.mimetype == "image/jpeg" and jpeg.headers["X-Content-Type-Options"] == "nosniff"
    assert Image.open(io.BytesIO(jpeg.data)).size == (320, 240)
    assert hands.client.get(shown["src"].replace(shown["src"][-20:-4], "0" * 16)).status_code == 404
    file = json.dumps(hands.file())
    other = newcomer()
    data = {"client_id": str(uuid.uuid4()), "file": (io.BytesIO(file.encode()), "visit.json")}
    taken = other.client.post("/units/import", data=data)
    assert taken.status_code == 302, taken.text
    bench = taken.location.removesuffix("/report")
    again = json.loads(other.client.get(f"{bench}/visit.json").text)["visit"]["photos"]
    first = json.loads(file)["visit"]["photos"]
    written_anew = {"jpeg": "", "key": ""}
    assert [p | written_anew for p in again] == [p | written_anew for p in first]
    came = base64.b64decode(again[0]["jpeg"])
    assert again[0]["key"] == hashlib.sha256(came).hexdigest() != first[0]["key"], "worked out there"
    assert Image.open(io.BytesIO(came)).size == (320, 240)
    broken = file.replace(first[0]["jpeg"], "bm90IGEgcGhvdG8=")
    data = {"client_id": str(uuid.uuid4()), "file": (io.BytesIO(broken.encode()), "visit.json")}
    answer = newcomer().client.post("/units/import", data=data)
    assert answer.status_code == 422 and "visit.photos[0].jpeg" in answer.text
    key = first[0]["key"]
    hands.post(f"{hands.bench}/photos/take-out", key=key)
    assert not hands.page(f"{hands.bench}/close").select(".photos img")
    assert session.get(ShopPhoto, (hands.shop_id, key)) is None
    assert session.get(ShopPhoto, (other.account.shop_id, again[0]["key"])), "another shop’s stays"
    nameless = json.loads(file)
    del nameless["visit"]["photos"][0]["jpeg"]
    nameless["visit"]["photos"][0]["key"] = again[0]["key"]
    data = {"client_id": str(uuid.uuid4()), "file": (io.BytesIO(json.dumps(nameless).encode()), "visit.json")}
    report = other.client.post("/units/import", data=data).location
    (photo,) = json.loads(other.client.get(f"{report.removesuffix('/report')}/visit.json").text)["visit"][
        "photos"
    ]
    assert "jpeg" not in photo and photo["key"] != again[0]["key"], "a key that a file names opens no picture"


def test_what_is_no_photo_is_refused_and_nothing_is_stored(hands, session, app):
    hands.kit("67 Saltmarsh Lane")
    hands.begin("check-up")
    for name, raw in {
        "page.jpg": b"<html><script>1</script></html>",
        "../../etc/passwd.jpg": b"\x7fELF",
        "a.heic": b"\0\0\0\x18ftypheic" + b"\0" * 400,
        "empty.jpg": b"",
    }.items():
        answer = send_photo(hands, raw, name)
        assert answer.status_code == 422, name
        assert "photo" in hands.soup(answer).select_one("#photo-error").text
    assert send_photo(hands, picture(), part="E9").status_code == 422
    assert send_photo(hands, picture(), shows="anything").status_code == 422
    with warnings.catch_warnings():  # what was cut off in the middle is closed by the collector
        warnings.simplefilter("ignore", ResourceWarning)
        large = send_photo(hands, b"\xff\xd8\xff" + b"\0" * 16_000_000)
        assert large.status_code == 413 and "too large" in large.text
        del large
        gc.collect()
    app.config["PLENTAR_PHOTO_MB"] = 0.001
    try:
        full = [send_photo(hands, picture(n)) for n in range(3)]
        assert [answer.status_code for answer in full][-1] == 422
        assert "No room left" in full[-1].text
    finally:
        app.config["PLENTAR_PHOTO_MB"] = 500.0
    assert stored_bytes(session, hands.shop_id) <= 1000
    kept = len(hands.page(f"{hands.bench}/close").select(".photos img"))
    for n in range(100, 100 + MOST_PHOTOS - kept):
        assert send_photo(hands, picture(n, (16, 16))).status_code == 302
    answer = send_photo(hands, picture(999, (16, 16)))
    assert answer.status_code == 422 and f"at most {MOST_PHOTOS} photos" in answer.text


def test_a_line_is_written_anew_as_a_whole(hands):
    """Whatever its fields hold, the empty ones among them, is sent back as a browser sends it."""
    hands.kit("68 Saltmarsh Lane")
    hands.begin("check-up")
    hands.post(f"{hands.bench}/look", seen="lugs:burnt")
    page = hands.page(f"{hands.bench}/close")
    offered = page.select_one(".suggested .when-now form")
    hands.post(f"{hands.bench}/lines", **{i["name"]: i["value"] for i in offered.select("input")})
    form = hands.page(f"{hands.bench}/close").select_one("#work > .todo details form")
    sent = {i["name"]: i.get("value", "") for i in form.select("input")}
    sent |= {s["name"]: s.select_one("[selected]")["value"] for s in form.select("select")}
    hands.post(f"{hands.bench}/lines", **sent | {"text": "Electrician: new lugs", "parts": "ordered"})
    (line,) = hands.page(f"{hands.bench}/close").select("#work > .todo:not(.suggested) > li")
    assert "Electrician: new lugs" in line.text and "part on order" in line.text
    assert len(hands.file()["visit"]["work"]) == 2, "what it said before stays on record"


def test_a_suggested_line_is_read_in_the_language_of_its_reader(hands, monkeypatch):
    """Taken over by who works in Spanish, read in English; in the file as code and words; changed, it
    is what somebody wrote."""
    hands.kit("69 Saltmarsh Lane")
    hands.begin("check-up")
    hands.post(f"{hands.bench}/look", seen="lugs:burnt")
    with monkeypatch.context() as spanish:
        spanish.setattr(showing, "_asked_for", lambda: "es")
        form = hands.page(f"{hands.bench}/close").select_one(".suggested .when-now form")
        sent = {i["name"]: i["value"] for i in form.select("input")}
        hands.post(f"{hands.bench}/lines", **sent | {"meanwhile": form.select("option")[-1]["value"]})
    (written,) = hands.file()["visit"]["work"]
    assert (
        "quemad" in written["text"] and written["text_said"]["code"] == "checks.look.burnt-or-melted-scorched"
    )
    (line,) = hands.page(f"{hands.bench}/close").select("#work > .todo:not(.suggested) > li")
    assert "burnt or melted" in line.text and "breaker" in line.text and "quemad" not in line.text
    form = line.select_one("details form")
    sent = {i["name"]: i.get("value", "") for i in form.select("input")}
    sent |= {s["name"]: s.select_one("[selected]")["value"] for s in form.select("select")}
    hands.post(f"{hands.bench}/lines", **sent | {"text": "Electrician: new lugs"})
    newest = hands.file()["visit"]["work"][-1]
    assert newest["text"] == "Electrician: new lugs" and not newest.get("text_said")
    odd = {"text_said": '{"code": "checks.look.burnt-or-melted-scorched"}', "text": "checks"}
    hands.post(f"{hands.bench}/lines", **sent | odd)
    assert not hands.file()["visit"]["work"][-1].get("text_said"), "a suggestion with empty places is none"
