"""The retest on the bench: offered after a repair, gone through to its end, in the report."""

from __future__ import annotations


def test_what_was_mended_is_read_again_before_and_after(hands):
    hands.kit("51 Saltmarsh Lane", control="double-sequencers")
    hands.begin("not-enough-heat")
    offered = 'button[name="test"][value="retest"]'
    assert not hands.page(hands.bench).select(offered), "nothing was mended yet"
    hands.calls("W1", "G")
    hands.wait(700)
    hands.amps(E1=20.5, E2=0.0)
    hands.dead()
    hands.did("replaced", "S1")
    assert hands.page(hands.bench).select(offered)
    hands.post(f"{hands.bench}/test", test="retest")
    hands.calls()
    hands.on()
    hands.calls("W1", "G")
    hands.wait(700)
    hands.amps(E1=20.5, E2=0.0)
    stopped = hands.page(f"{hands.bench}/test").text
    assert "Element E2, amps: not in range" in stopped and "0 A → 0 A" in stopped
    hands.amps(E2=20.4)
    for at, volts in (("S1.1", 0.1), ("S1.2", 0.1), ("C1", 239)):
        hands.read(at, "volts", volts)
    hands.calls()
    hands.wait(700)
    hands.read("C1", "amps", 0)
    over = hands.page(f"{hands.bench}/test").text
    assert "All read" in over and "0 A → 20.4 A" in over
    report = hands.close().text
    assert "Retest" in report and "0 A → 20.4 A" in report


def test_a_repaired_stop_is_proved_by_the_card_of_the_bench_and_nothing_is_typed(hands):
    """E1 draws uncalled; off, proved dead, its relay replaced: the card asks for the proof, obeyed word for word."""
    hands.kit("52 Saltmarsh Lane", control="relays-ac")
    hands.begin("heat-will-not-stop")
    hands.read("E1", "amps", 20.5)
    hands.dead()
    hands.did("replaced", "K1", note="welded")
    bench = hands.page(hands.bench)
    stop = bench.select_one("#stops .stop")
    assert "Repaired, not proved yet" in stop.text and not stop.select("input[name=how]")
    card = hands.page(f"{hands.bench}/judge").select_one(".next.first")
    assert "Read again" in card.text and card["data-at"] == "E1" and "call G" in card.text
    assert "wait" not in card.select_one(".steps").text, "ten seconds at most"
    fields = {
        i["name"]: i["value"] for i in card.select("form input[type=hidden]") if i["name"] != "csrf_token"
    }
    hands.post(f"{hands.bench}/take", **fields)
    hands.read("E1", "amps", 0)
    assert not hands.page(hands.bench).select("#stops .stop")
    after = hands.page(f"{hands.bench}/judge").select_one(".next.first")
    assert "Read again" in after.text and "W1" in after.select_one(".steps").text, (
        "the stop is over, and heat is called"
    )


def test_a_guarded_step_that_proved_nothing_is_over_and_says_how_to_go_on(hands):
    hands.kit("53 Saltmarsh Lane", control="relays-ac")
    hands.begin("heat-will-not-stop")
    hands.read("E1", "amps", 20.5)
    hands.dead()
    hands.did("replaced", "K1", note="welded")
    hands.wait(5)
    hands.on()
    hands.wait(5)
    hands.off()
    hands.wait(5)
    stop = hands.page(hands.bench).select_one("#stops .stop")
    assert "Stop now" in stop.text and "Prove it" not in stop.text
    assert stop.select_one("input[name=how]")["value"].startswith("breaker of circuit C1 off since")
    hands.post(f"{hands.bench}/power", (422,), state="on")
    form = stop.select_one("form[action$='/answer']")
    hands.post(
        f"{hands.bench}/answer",
        **{i["name"]: i["value"] for i in form.select("input") if i["name"] != "client_id"},
    )
    hands.on()
