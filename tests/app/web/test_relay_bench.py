"""The relay bench over HTTP: what is stored, what is refused, and calls gone through to their end."""

from __future__ import annotations

import io
import uuid

from PIL import Image

from tests.app.hands import Posting


def bench(hands: Posting, device: str = "BR", what: str = "") -> str:
    return f"{hands.bench}/devices/{device}{what}"


def test_pair(hands: Posting, pair: str, tone: bool, driven: bool = False, **more: str):
    form = {"pair": pair, "tone": str(tone).lower()} | ({"driven": "yes"} if driven else {})
    return hands.post(bench(hands, what="/tested"), (200, 302, 422), **form | more)


test_pair.__test__ = False


def said(hands: Posting, face: str, device: str = "BR", **more: str) -> str:
    query = "".join(f"&{name}={value}" for name, value in more.items())
    return " ".join(hands.page(bench(hands, device, f"?face={face}{query}")).main.text.split())


def findings(hands: Posting) -> dict[str, str]:
    """What the bench has noted, by the words in front."""
    return " ".join(hands.page(hands.bench).text.split())


def test_a_mis_wired_tie_is_found_on_a_unit_that_looks_healthy_and_put_right(hands):
    """Everything reads as it should, and the fan's call heats: common on the heat side."""
    hands.kit("31 Saltmarsh Lane", control="relays-ac", elements="1")
    hands.begin("check-up")
    hands.read("C1", "volts", 240)
    hands.heat(E1=20.6)
    wrong = {"part": "relay-spdt", "on": ["A:G", "B:C", "1:heat", "2:L1", "3:blower"]}
    shown = hands.page(bench(hands, what="?face=wiring&" + "&".join(f"on={o}" for o in wrong["on"])))
    assert "brings the elements on, through the relay" in shown.main.text
    assert shown.select(".housing .lit"), "the way of the harm is lit"
    hands.post(bench(hands, what="/wired"), **wrong)
    assert "wired wrong" in findings(hands), "a stop on the bench, once it is on the plate"
    relay = hands.plate()["blower"]["relay"]
    assert relay["wires"] == {"common": "heat", "no": "L1", "nc": "blower"}
    assert {w["terminal"]: w["to"] for w in relay["wired"]}["COM"] == "heat"
    hands.off()
    refused = hands.post(f"{hands.bench}/power", (422,), state="on")
    assert "while this is open" in refused.text
    right = ["A:G", "B:C", "1:blower", "2:L1", "3:heat"]
    hands.post(bench(hands, what="/wired"), part="relay-spdt", on=right)
    assert "wired wrong" not in findings(hands) and "Right." in said(hands, "wiring")
    hands.on()
    exported = hands.file()
    assert exported["unit"]["blower"]["relay"]["part"] == "relay-spdt"


def test_an_erratic_time_delay_relay_is_found_by_starting_it_again_and_again(hands):
    hands.kit("32 Saltmarsh Lane", relay="time-delay", tie="g-with-w")
    hands.begin("blower-will-not-run")
    for start in range(20):
        acted = "false" if start in (4, 9, 15) else "true"
        hands.post(bench(hands, what="/tried"), acted=acted, after_s="1.5" if acted == "true" else "")
    shown = said(hands, "contacts")
    assert "20 starts." in shown and "it fails in 5 to 36 % of all" in shown
    assert "3 of 20 starts failed" in findings(hands)
    report = hands.close("left-off", "relay on order").text
    assert "3 of 20 starts failed" in report and report.count("Blower relay started: did not act") == 3
    again = [e for e in hands.file()["visit"]["events"] if "tried" in e]
    assert len(again) == 20 and sum(not e["acted"] for e in again) == 3


def test_nothing_is_tested_live_and_no_coil_is_driven_before_its_ohms(hands):
    hands.kit("33 Saltmarsh Lane", relay="dpdt")
    hands.begin("check-up")
    assert "dead" in test_pair(hands, "1:2", False).text
    hands.dead()
    assert test_pair(hands, "1:2", False).status_code == 302
    assert "coil’s ohms first" in test_pair(hands, "1:2", True, driven=True).text
    hands.post(bench(hands, what="/tested"), pair="A:B", ohms="2,1")
    assert "shorted turns. Let nothing drive it" in said(hands, "contacts")
    assert "coil’s ohms first" in test_pair(hands, "1:2", True, driven=True).text
    hands.post(bench(hands, what="/tested"), pair="A:B", ohms="31")
    assert "Both wires of BR.coil off first" in test_pair(hands, "1:2", True, driven=True).text
    hands.post(bench(hands, what="/coil-wires"), state="lifted")
    assert test_pair(hands, "1:2", True, driven=True).status_code == 302
    assert "The wires of BR.coil are off" in hands.post(f"{hands.bench}/power", (422,), state="on").text
    hands.post(bench(hands, what="/coil-wires"), state="restored")
    reads = [e for e in hands.file()["visit"]["events"] if e.get("read") in ("tone", "ohms")]
    assert [(e["at"], e.get("driven", False)) for e in reads] == [
        ("BR.no", False),
        ("BR.coil", False),
        ("BR.coil", False),
        ("BR.no", True),
    ], "the set in use is read where the judge looks"
    assert hands.post(bench(hands, what="/tested"), (422,), pair="1:99", tone="true")
    assert hands.post(bench(hands, what="/felt"), (302,), what="stiff")
    hands.on()
    assert hands.post(bench(hands, what="/felt"), (422,), what="stiff")
    assert hands.client.get(bench(hands, "S9")).status_code in (404, 422)


def test_power_waits_for_a_swap_and_a_wire_is_moved_dead_and_alone(hands):
    hands.kit("34 Saltmarsh Lane", control="stacked-sequencer", elements="3")
    hands.begin("no-heat")
    page = hands.page(bench(hands, "S1", "?face=swap&part=sequencer-3"))
    lines = [i["value"] for i in page.select("[name=wire]")]
    news = [s.select_one("[selected]").text for s in page.select("select[name=new]")]
    hands.post(bench(hands, "S1", "/swap"), (422,), part="sequencer-3", wire=lines[:-1], new=news[:-1])
    hands.post(bench(hands, "S1", "/swap"), part="sequencer-3", wire=lines, new=news)
    move = bench(hands, "S1", "/wire")
    assert "Open the breakers first" in hands.post(move, (422,), wire=lines[0], act="off").text
    hands.dead()
    hands.post(move, wire=lines[0], act="off")
    assert "One wire at a time" in hands.post(move, (422,), wire=lines[1], act="off").text
    assert "is not finished" in hands.post(f"{hands.bench}/power", (422,), state="on").text
    hands.post(move, wire=lines[0], act="on", at=news[0])
    # All but the last: the third strip's wire stays off.
    for name, new in list(zip(lines, news, strict=True))[1:-1]:
        hands.post(move, wire=name, act="off")
        hands.post(move, wire=name, act="on", at=new, renewed="10 AWG, burnt" if new == "N1" else "")
    assert "is still on" in hands.post(f"{hands.bench}/power", (422,), state="on").text
    assert "Not finished" in hands.post(bench(hands, "S1", "/finish"), (422,)).text
    assert hands.file()["visit"]["events"][-1]["is"] == "on", "nothing was lost on the way"
    hands.post(move, wire=lines[-1], act="off")
    hands.post(move, wire=lines[-1], act="on", at=news[-1])
    assert "Wires off = wires on" in said(hands, "swap", "S1")
    hands.post(bench(hands, "S1", "/finish"))
    hands.on()
    assert [w["to"] for w in hands.plate()["controls"][0]["wired"]].count("L1") == 3
    assert "end renewed: 10 AWG, burnt" in hands.log()


def test_a_part_of_the_shops_own_is_laid_out_used_and_carried_by_the_file(hands, newcomer, earlier):
    grid = ["7", "8", "9", "", "X", "P*", "Y", *[""] * 17]
    form = {
        "title": "Blue relay",
        "device": "spdt",
        "grid": grid,
        "coil": "X Y",
        "sets": ["7 8 9"],
        "motor_amps": "12",
        "blade": "3/16",
    }
    bad = hands.post("/parts", (422,), **form | {"coil": "X Z"})
    assert "No terminal" in bad.text and 'value="Blue relay"' in bad.text
    hands.post("/parts", **form)
    assert "Blue relay" in hands.page("/parts").text
    other = Posting(earlier, client=newcomer().client)
    assert "Blue relay" not in other.page("/parts").text, "a drawer is its shop's"
    hands.kit("35 Saltmarsh Lane")
    hands.begin("check-up")
    on = ["X:G", "Y:C", "7:blower", "8:L1", "9:heat"]
    hands.post(bench(hands, what="/wired"), part="own-blue-relay", on=on)
    exported = hands.file()["unit"]
    assert exported["part_kinds"][0]["title"] == "Blue relay"
    assert "Blue relay" in said(hands, "contacts")
    hands.post("/parts/own-blue-relay/remove")
    assert "Blue relay" not in hands.page("/parts").text and "Blue relay" in said(hands, "contacts")


def test_the_motors_tree_leads_to_its_end(hands):
    hands.kit("36 Saltmarsh Lane")
    hands.part("blower", fla="3.4", typical_amps="2.2")
    hands.part("capacitor", capacitor_uf="7.5")
    hands.begin("blower-will-not-run")
    hands.calls("G")
    hands.read("blower", "volts", 240)
    hands.read("blower", "amps", 11.8)
    assert "read this next" in said(hands, "motor")
    hands.calls()
    hands.dead()
    hands.post(bench(hands, what="/felt"), what="spins")
    hands.read("capacitor", "uf", 4.1)
    tree = hands.page(bench(hands, what="?face=motor"))
    assert "does not start it" in tree.select_one(".node.finding").text
    assert "does not start it" in findings(hands)


def swapped(hands: Posting, device: str, part: str) -> None:
    """Every wire over, one at a time, and the part recorded."""
    page = hands.page(bench(hands, device, f"?face=swap&part={part}"))
    lines = [i["value"] for i in page.select("[name=wire]")]
    news = [s.select_one("[selected]").text for s in page.select("select[name=new]")]
    hands.post(bench(hands, device, "/swap"), part=part, wire=lines, new=news)
    for name, new in zip(lines, news, strict=True):
        hands.post(bench(hands, device, "/wire"), wire=name, act="off")
        hands.post(bench(hands, device, "/wire"), wire=name, act="on", at=new)
    hands.post(bench(hands, device, "/finish"))


def test_a_part_of_another_kind_stands_on_the_plate_as_what_it_is(hands):
    """2 kW on a relay made for motors, as a heat relay; a contactor where a DC relay was; and what is
    not acceptable does not begin."""
    hands.kit("37 Saltmarsh Lane", control="relays-ac", elements="1")
    hands.part("E1", rated_kw="2")
    hands.begin("no-heat")
    hands.dead()
    hands.post(bench(hands, "K1", "/swap"), (422,), part="sequencer-5", wire=["w1"], new=["H1"])
    swapped(hands, "K1", "relay-spdt")
    device = hands.plate()["controls"][0]
    assert (device["type"], device["part"]) == ("relay-ac", "relay-spdt")
    assert "K1 replaced by AC heat relay" in hands.log()
    hands.on()
    swapped_wires = {wire["to"] for wire in device["wired"]}
    assert {"W1", "C", "L1", "E1"} <= swapped_wires


def test_the_photo_of_the_old_part_is_taken_at_its_swap_and_prints_stand_at_its_terminals(hands):
    hands.kit("38 Saltmarsh Lane", elements="1")
    hands.begin("blower-will-not-run")
    page = hands.page(bench(hands, what="?face=swap&part=relay-spdt"))
    sheet = {"wire": [i["value"] for i in page.select("[name=wire]")]}
    sheet["new"] = [s.select_one("[selected]").text for s in page.select("select[name=new]")]
    hands.post(bench(hands, what="/swap"), part="relay-spdt", **sheet)
    form = {"client_id": str(uuid.uuid4()), "shows": "wiring", "part": "BR", "swap": "BR"}
    raw = io.BytesIO()
    Image.new("RGB", (40, 30), "teal").save(raw, "jpeg")
    left = {"Referer": f"http://localhost{bench(hands, what='?face=swap')}"}
    wrong = form | {"photo": (io.BytesIO(b"no picture"), "a.jpg")}
    refused = hands.client.post(f"{hands.bench}/photos", data=wrong, headers=left)
    assert refused.status_code == 422 and hands.soup(refused).select("#refused")
    sent = form | {"photo": (io.BytesIO(raw.getvalue()), "a.jpg")}
    kept = hands.client.post(f"{hands.bench}/photos", data=sent, headers=left)
    assert kept.location.endswith("/devices/BR?face=swap")
    assert hands.page(kept.location).select_one("img.photo-place")
    hands.post(bench(hands, what="/printed"), (422,), printed="1 1 2")
    hands.post(bench(hands, what="/printed"), printed="1 3 2")
    shown = hands.page(bench(hands, what="?face=contacts"))
    assert "COM, printed 1 – NC, printed 2" in " ".join(shown.main.text.split())
    assert [t.text for t in shown.select(".housing .print")] == ["3", "1", "2"]
    assert hands.plate()["blower"]["relay"]["printed"] == {"COM": "1", "NO": "3", "NC": "2"}
    assert "was wrong all along" not in hands.log()
