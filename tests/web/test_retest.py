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
    assert "Amps of E2 is not as it should be" in stopped and "0 A → 0 A" in stopped
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
