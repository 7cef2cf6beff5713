"""Each slip on both sides of where it begins, worked by hand; and when a blower may come late."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.unit.unit import Unit
from tests.cases import CALL, DEAD, TWO, VOLTS, amps, codes, judged
from tests.kits import Kit, build_kit

BLOWN = replace(TWO, blower=replace(TWO.blower, fla=6.0, rated_cfm=1000.0))
DC = build_kit(Kit((5000.0,), 240, "relays-dc"), "dc", "")
COIL = f"{DC.controls[0].id}.coil"


def read(t: float, quantity: str, at: str, value: float) -> dict:
    return {"t": t, "read": quantity, "at": at, "value": value}


APART = replace(
    BLOWN,
    circuits=(BLOWN.circuits[0], replace(BLOWN.circuits[0], id="C2")),
    blower=replace(BLOWN.blower, circuit="C2"),
)
BACK = read(390, "temp_f", "return-air", 70)
SLIPS = [
    # S1.1 has 20 s from the call at 5 s.
    (TWO, [VOLTS, CALL, amps(24.9, "E1", 0)], "before-window", True),
    (TWO, [VOLTS, CALL, amps(25.1, "E1", 0)], "before-window", False),
    # E2 may draw 21.875 A and the blower 6; half of E1's 20.83 besides are 38.29 A. The clamp may
    # have read 2 % and 0.3 A too much: from 39.38 A on E1 must draw.
    (BLOWN, [VOLTS, CALL, amps(310, "E1", 0), amps(320, "C1", 39.3)], "clamp-around-two", False),
    (BLOWN, [VOLTS, CALL, amps(310, "E1", 0), amps(320, "C1", 39.5)], "clamp-around-two", True),
    (BLOWN, [VOLTS, CALL, amps(310, "E1", 0), amps(320, "C1.l2", 39.5)], "clamp-around-two", True),
    # With the blower on another circuit its 6 A are not in this feed: 32.29 A, read 33.25.
    (APART, [VOLTS, CALL, amps(310, "E1", 0), amps(320, "C1", 33.2)], "clamp-around-two", False),
    (APART, [VOLTS, CALL, amps(310, "E1", 0), amps(320, "C1", 33.3)], "clamp-around-two", True),
    # 80 % of 240 V stand across it: fed, and it draws nothing.
    (TWO, [VOLTS, CALL, amps(310, "E1", 0), read(320, "volts", "E1", 191.9)], "clamp-around-two", False),
    (TWO, [VOLTS, CALL, amps(310, "E1", 0), read(320, "volts", "E1", 192)], "clamp-around-two", True),
    # Under 5 % of 20.83 A it does not draw.
    (TWO, [VOLTS, CALL, amps(310, "E1", 1.05), read(320, "volts", "E1", 240)], "clamp-around-two", False),
    (DC, [VOLTS, CALL, read(310, "volts", COIL, 0.99)], "ac-on-dc", True),
    (DC, [VOLTS, CALL, read(310, "volts", COIL, 1.0)], "ac-on-dc", False),
    (DC, [VOLTS, read(310, "volts", COIL, 0.1)], "ac-on-dc", False),
    # 10 kW are 34 121 BTU/h; 30 % of 1000 CFM take them up with 34 121 / 1.08 / 300 = 105.3 °F.
    (BLOWN, [CALL, BACK, read(400, "temp_f", "supply-air", 175.2)], "glow-in-sight", False),
    (BLOWN, [CALL, BACK, read(400, "temp_f", "supply-air", 175.5)], "glow-in-sight", True),
    (TWO, [CALL, amps(310, "E1", 20)], "volts-not-measured", True),
    (TWO, [VOLTS, CALL, amps(310, "E1", 20)], "volts-not-measured", False),
    # 9.58 … 13.12 Ω are due: a thousand times up or down.
    (TWO, [*DEAD, read(600, "ohms", "E1", 13_000)], "kilo-ohm", True),
    (TWO, [*DEAD, read(600, "ohms", "E1", 0.00958)], "kilo-ohm", True),
    (TWO, [*DEAD, read(600, "ohms", "E1", 13_300)], "kilo-ohm", False),
    (TWO, [read(600, "ohms", "E1", 11.5)], "ohms-live", True),
    (TWO, [*DEAD, read(600, "ohms", "E1", 11.5)], "ohms-live", False),
    # No volts across S1.1 say that it is closed only where its rung is shown to be fed.
    (TWO, [VOLTS, CALL, read(310, "volts", "S1.1", 3.0)], "zero-volts-dead-rung", True),
    (TWO, [VOLTS, CALL, read(310, "volts", "S1.1", 3.1)], "zero-volts-dead-rung", False),
    (TWO, [VOLTS, CALL, amps(305, "E1", 1.04), read(310, "volts", "S1.1", 0)], "zero-volts-dead-rung", True),
    (TWO, [VOLTS, CALL, amps(305, "E1", 1.05), read(310, "volts", "S1.1", 0)], "zero-volts-dead-rung", False),
    (
        TWO,
        [VOLTS, CALL, read(305, "volts", "E1", 191), read(310, "volts", "S1.1", 0)],
        "zero-volts-dead-rung",
        True,
    ),
    (
        TWO,
        [VOLTS, CALL, read(305, "volts", "E1", 192), read(310, "volts", "S1.1", 0)],
        "zero-volts-dead-rung",
        False,
    ),
    # Five minutes energised, or the off time does not count.
    (
        TWO,
        [
            CALL,
            {"t": 25, "observe": "on", "part": "S1.1"},
            {"t": 304, "calls": []},
            {"t": 350, "observe": "off", "part": "S1.1"},
        ],
        "off-test-too-early",
        True,
    ),
    (
        TWO,
        [
            CALL,
            {"t": 25, "observe": "on", "part": "S1.1"},
            {"t": 306, "calls": []},
            {"t": 350, "observe": "off", "part": "S1.1"},
        ],
        "off-test-too-early",
        False,
    ),
]


@pytest.mark.parametrize(
    ("unit", "events", "code", "said"), SLIPS, ids=[f"{n}-{row[2]}" for n, row in enumerate(SLIPS)]
)
def test_a_slip_begins_where_it_is_due(unit: Unit, events, code, said):
    assert (code in codes(judged(*events, unit=unit))) is said


@pytest.mark.parametrize(("after_s", "stops"), [(60, False), (99, False), (101, True)])
def test_a_blower_on_a_switch_of_its_own_may_come_after_the_first_strip(after_s, stops):
    """S1.2 closes within 90 s and carries the blower; 10 s are left for its start."""
    stacked = build_kit(Kit((5000.0, 5000.0), 240, "single-sequencers", tie="sequencer-switch"), "tied", "")
    switch = next(s for s in stacked.controls[0].switches if s.role == "blower")
    slow = replace(switch, on_s=replace(switch.on_s, low=1.0, high=90.0))
    first = replace(
        stacked.controls[0], switches=tuple(slow if s is switch else s for s in stacked.controls[0].switches)
    )
    unit = replace(stacked, controls=(first, *stacked.controls[1:]))
    seen = (VOLTS, CALL, amps(30, "E1", 20.5), {"t": 5 + after_s, "observe": "off", "part": "blower"})
    found = {finding.code for finding in judged(*seen, unit=unit).stops}
    assert ("heat-without-blower" in found) is stops
