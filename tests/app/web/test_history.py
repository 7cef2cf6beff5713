"""Drift found on the pad during a visit, told on the report; one touch to the visit behind a value."""

from __future__ import annotations

YEAR_S = 365.25 * 86400


def test_drift_is_found_on_the_pad_and_told_on_the_report(hands, earlier):
    hands.kit("91 Saltmarsh Lane", control="relays-ac")
    benches = []
    for years, amps in ((3, 20.8), (2, 19.9), (1, 19.1)):
        hands.begin("check-up")
        hands.read("C1", "volts", 240)
        hands.heat(E1=amps, E2=20.6)
        hands.close()
        earlier(hands.bench, years * YEAR_S)
        benches.append(hands.bench)
    hands.begin("not-enough-heat")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(700)
    pad = hands.page(f"{hands.bench}?at=E1&quantity=amps").select_one(".pad .past").text
    assert "last time 19.1 A" in pad and "▲ falls by 0.8" in pad
    assert "falls" not in hands.page(f"{hands.bench}?at=E2&quantity=amps").select_one(".past").text
    assert not hands.page(f"{hands.bench}?at=K1.coil").select(".past")
    hands.amps(E1=18.2)
    report = hands.close("left-off", "The strip is worn.").text
    assert "Element E1, amps at rated volts: ▲ falls by 0.8" in " ".join(report.split())
    page = hands.page(f"{hands.unit}/history")
    first = page.select_one(".histories section")
    assert ("E1" in first.h2.text and "leaves its range" in first.text) or "left its range" in first.text
    hrefs = [a["href"] for a in first.select("svg a")]
    assert hrefs[:3] == [f"{bench}/report" for bench in benches]
    assert "steady" in page.select_one(".histories section:not(.moves)").text
