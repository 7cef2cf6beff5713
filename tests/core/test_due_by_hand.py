"""Every rule's scale against numbers worked by hand: on which side of each end which word stands.

Two strips of 5 kW at 240 V behind one sequencer (called by W1) on one circuit; a PSC blower of 6 A
full load and 4 A running, tied through a normally-closed contact, with a 10 µF capacitor. Meters:
amps ±(2 % + 0.3 A), ohms ±(1 % + 0.2 Ω).
"""

from __future__ import annotations

import math
from dataclasses import replace

import pytest

from plentar.core.expected import Asked, Expected
from plentar.core.expected.rules import expected_at
from plentar.core.quantity import Quantity
from plentar.core.unit.points import resolve
from plentar.core.unit.ratings import Tolerance
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event, Power, Reading, Visit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import state_at
from tests.cases import TWO
from tests.conftest import words
from tests.kits import Kit, build_kit

UNIT = replace(TWO, blower=replace(TWO.blower, fla=6.0, typical_amps=4.0, capacitor_uf=10.0))
LINE = Reading(t_s=1, quantity=Quantity.VOLTS, at="C1", value=240.0)
HEAT = (LINE, Calls(t_s=5, calls=frozenset({"W1"})))
IDLE = (LINE,)
FAN = (LINE, Calls(t_s=5, calls=frozenset({"G"})))
OFF = (LINE, Power(t_s=5, state="off"))
DEAD = (*OFF, Power(t_s=9, state="proved-dead"))
INF = math.inf


def due(events: tuple[Event, ...], at: str, quantity: str, unit: Unit = UNIT, **more: bool) -> Expected:
    """What is due ten minutes after the last switch: every window is over."""
    state = state_at(unit, events, 605.0)
    asked = Asked(resolve(unit, at), Quantity(quantity), state, **more)
    return expected_at(Evidence(unit, Visit(events=events)), asked)


#: Where, in which state; then (reading, word, whether a good part gives it) around every end.
SCALES = {
    # I = 5000/240 = 20.83 A; 0.90 … 1.05 of it 18.75 … 21.875; the clamp makes 18.075 … 22.6125.
    # Dead below the larger of 0.5 A and 5 %: 1.0417 A.
    ("amps", "E1", HEAT): [
        (1.04, "dead", False),
        (1.05, "low", False),
        (18.07, "low", False),
        (18.08, "in-band", True),
        (22.61, "in-band", True),
        (22.62, "high", False),
    ],
    # Nothing asks: none need flow, and from the dead limit on something is wrong.
    ("amps", "E1", IDLE): [(1.04, "not-judged", None), (1.05, "high", False)],
    # 80 % of 240 V is the line's: 192 V.
    ("volts", "E1", HEAT): [(191.9, "low", False), (192.0, "in-band", True)],
    # 240²/5000 = 11.52 Ω hot; cold 0.90 × 11.52/1.05 = 9.874 … 11.52/0.90 = 12.8; with the meter
    # 9.576 … 13.128.
    ("ohms", "E1", DEAD): [
        (9.57, "low", False),
        (9.58, "in-band", True),
        (13.12, "in-band", True),
        (13.13, "high", False),
        (1e5, "high", False),
        (1.01e5, "open", False),
    ],
    # Printed 20 … 80 Ω: with the meter 19.6 … 81.0; shorted below half of 20, open over ten times 80.
    ("ohms", "S1.coil", DEAD): [
        (9.99, "dead", False),
        (10.0, "low", False),
        (19.59, "low", False),
        (19.61, "in-band", True),
        (80.99, "in-band", True),
        (81.01, "high", False),
        (800.0, "high", False),
        (800.1, "open", False),
    ],
    ("ohms", "FL1", DEAD): [
        (0.30, "closed", True),
        (0.31, "high", False),
        (1000.0, "high", False),
        (1001.0, "open", False),
    ],
    ("ohms", "S1.1", DEAD): [
        (0.30, "closed", False),
        (0.31, "unclear", False),
        (1000.0, "unclear", False),
        (1001.0, "open", True),
    ],
    ("ohms", "BR.nc", DEAD): [(0.30, "closed", True), (0.31, "unclear", False), (1001.0, "open", False)],
    ("ohms", "E1.in:ground", DEAD): [(0.999e6, "low", False), (1e6, "in-band", True), (INF, "in-band", True)],
    ("tone", "E1", DEAD): [(1, "closed", True), (0, "open", False)],
    ("tone", "FL1", DEAD): [(1, "closed", True), (0, "open", False)],
    ("tone", "S1.1", DEAD): [(1, "closed", False), (0, "open", True)],
    ("tone", "BR.nc", DEAD): [(1, "closed", True), (0, "open", False)],
    ("tone", "E1.in:ground", DEAD): [(1, "low", False), (0, "in-band", None)],
    # ANSI C84.1: 228 … 252 usual, 216 the lowest at equipment; under a tenth nothing arrives.
    ("volts", "C1", IDLE): [
        (23.9, "dead", False),
        (24.0, "low", False),
        (215.9, "low", False),
        (216.0, "low", None),
        (227.9, "low", None),
        (228.0, "in-band", True),
        (252.0, "in-band", True),
        (252.1, "high", False),
    ],
    ("volts", "C1", OFF): [(3.0, "in-band", True), (3.1, "high", False)],
    ("volts", "C1", DEAD): [(3.0, "in-band", True), (3.1, "high", False)],
    ("volts", "C1.line", OFF): [(23.9, "dead", False), (240.0, "in-band", True)],
    ("volts", "R", IDLE): [
        (1.0, "dead", False),
        (1.1, "low", False),
        (19.9, "low", False),
        (20.0, "low", None),
        (21.9, "low", None),
        (22.0, "in-band", True),
        (29.0, "in-band", True),
        (29.1, "high", False),
    ],
    ("volts", "W1", HEAT): [(1.0, "dead", False), (22.0, "in-band", True), (29.1, "high", False)],
    ("volts", "W1", IDLE): [(3.0, "in-band", True), (3.1, "high", False)],
    ("volts", "S1.1", HEAT): [
        (3.0, "closed", True),
        (3.1, "unclear", False),
        (191.9, "unclear", False),
        (192.0, "open", False),
    ],
    ("volts", "S1.1", IDLE): [(3.0, "closed", False), (3.1, "unclear", False), (192.0, "open", True)],
    # Full load 6 A reads up to 6.42 A; it stands still below 0.500 A.
    ("amps", "blower", FAN): [
        (0.49, "dead", False),
        (0.5, "in-band", True),
        (6.42, "in-band", True),
        (6.43, "high", False),
    ],
    ("amps", "blower", OFF): [(0.49, "in-band", True), (0.5, "high", False), (6.43, "high", False)],
    # 6 % either way is good, down to 10 % is watched.
    ("uf", "capacitor", DEAD): [
        (8.99, "low", False),
        (9.01, "low", None),
        (9.39, "low", None),
        (9.41, "in-band", True),
        (10.59, "in-band", True),
        (10.61, "high", False),
    ],
    # Two strips 37.5 … 43.75 A and the blower: at least the 0.5 A below which it stands, at most
    # its 6 A. 38.0 … 49.75, with the clamp 36.94 … 51.045.
    ("amps", "C1", HEAT): [
        (36.93, "low", False),
        (36.95, "in-band", True),
        (51.04, "in-band", True),
        (51.05, "high", False),
    ],
    # The fan alone: from 0.5 × 0.98 − 0.3 to 6.42 A.
    ("amps", "C1", FAN): [
        (0.18, "low", False),
        (0.2, "in-band", True),
        (6.42, "in-band", True),
        (6.43, "high", False),
    ],
    # No rule of the plate: as the model shows it, ±(15 % + 1.00 V). 240 − 36 − 1 … 240 + 36 + 1.
    ("volts", "C1.l1:C1.l2", IDLE): [
        (202.9, "low", False),
        (203.1, "in-band", True),
        (276.9, "in-band", True),
        (277.1, "high", False),
    ],
}


@pytest.mark.parametrize(("quantity", "at", "events"), SCALES, ids=lambda v: str(v)[:12])
def test_a_scale_by_hand(quantity, at, events):
    asked = due(events, at, quantity)
    for value, word, good in SCALES[quantity, at, events]:
        verdict = asked.judge(value)
        assert (verdict.word, verdict.good) == (word, good), (value, asked.text())


#: The same on other plates: a DC relay's coil while called and not, a 208 V service, a 27 V secondary.
DC = build_kit(Kit((5000.0,), 240, "relays-dc"), "dc", "")
AT_208 = replace(UNIT, circuits=(replace(UNIT.circuits[0], rated_volts=208.0),))
AT_27 = replace(UNIT, control_power=replace(UNIT.control_power, volts=27.0))
OTHERS = [
    (
        DC,
        "volts_dc",
        f"{DC.controls[0].id}.coil",
        HEAT,
        [
            (1.0, "dead", False),
            (1.1, "low", False),
            (19.9, "low", False),
            (20.0, "in-band", True),
            (34.0, "in-band", True),
            (34.1, "high", False),
        ],
    ),
    # Without its call the model's 0 V, ±1 V.
    (DC, "volts_dc", f"{DC.controls[0].id}.coil", IDLE, [(1.0, "in-band", True), (1.1, "high", False)]),
    (
        AT_208,
        "volts",
        "C1",
        (),
        [
            (20.7, "dead", False),
            (20.8, "low", False),
            (186.9, "low", False),
            (187.0, "low", None),
            (196.9, "low", None),
            (197.0, "in-band", True),
            (218.0, "in-band", True),
            (218.1, "high", False),
        ],
    ),
    # 27/24 of 20, 22 and 29 V: 22.5, 24.75, 32.625.
    (
        AT_27,
        "volts",
        "R",
        IDLE,
        [
            (1.1, "low", False),
            (22.49, "low", False),
            (22.5, "low", None),
            (24.74, "low", None),
            (24.75, "in-band", True),
            (32.62, "in-band", True),
            (32.63, "high", False),
        ],
    ),
]


NO_FLA = replace(UNIT, blower=replace(UNIT.blower, fla=None))
OTHERS += [
    # The plate gives no full load: how much it draws is not judged, that it draws uncalled is.
    (NO_FLA, "amps", "blower", FAN, [(0.49, "dead", False), (0.5, "not-judged", None)]),
    (NO_FLA, "amps", "blower", OFF, [(0.49, "in-band", True), (0.5, "high", False)]),
]


@pytest.mark.parametrize(("unit", "quantity", "at", "events", "rows"), OTHERS)
def test_a_scale_of_another_plate_by_hand(unit, quantity, at, events, rows):
    asked = due(events, at, quantity, unit)
    for value, word, good in rows:
        verdict = asked.judge(value)
        assert (verdict.word, verdict.good) == (word, good), (value, asked.text())


@pytest.mark.parametrize(
    ("quantity", "at", "events", "nominal", "steps"),
    [
        (
            "amps",
            "E1",
            HEAT,
            20.8333,
            ["circuit C1: 240 V", "= 20.83 A", "18.75–21.88 A", "18.08–22.61 A", "No current below 1.04 A"],
        ),
        ("ohms", "E1", DEAD, 10.944, ["= 11.52 Ω", "9.874–12.80 Ω", "9.576–13.13 Ω"]),
        ("ohms", "S1.coil", DEAD, None, ["By its plate: 20.0–80.0 Ω", "19.6–81.0 Ω"]),
        ("ohms", "FL1", DEAD, 0.0, ["up to 0.301 Ω"]),
        ("ohms", "S1.1", DEAD, None, ["at rest should be open", "Up to 0.301 Ω closed"]),
        ("volts", "C1", IDLE, 240.0, ["usual 228–252 V", "lowest at equipment 216 V"]),
        ("volts", "R", IDLE, 24.0, ["should read 22.0–29.0 V"]),
        ("volts", "W1", IDLE, 0.0, ["W1 to C is not called"]),
        ("volts", "E1", HEAT, 240.0, ["Fed from 192 V"]),
        ("volts", "S1.1", IDLE, 240.0, ["shows 240 V here now", "Up to 3.00 V closed; from 192 V"]),
        ("amps", "blower", FAN, 4.0, ["Full-load amps 6.00 A", "6.42 A", "turning below 0.500 A"]),
        ("uf", "capacitor", DEAD, 10.0, ["Marked 10.0 µF"]),
        # 2 × 20.83 and the motor's typical 4 A.
        ("amps", "C1", HEAT, 45.6667, ["E1 + E2: 45.67 A nominal", "adds up to 6.00 A"]),
        ("amps", "C1", IDLE, 0.0, ["No element of this circuit is called"]),
        ("amps", "C1", FAN, 4.0, ["No element of this circuit is called", "adds up to 6.00 A"]),
        ("volts", "C1.l1:C1.l2", IDLE, 240.0, ["shows 240 V here now, ±(15 % + 1.00 V)"]),
    ],
)
def test_the_arithmetic_is_written_out_with_its_numbers(quantity, at, events, nominal, steps):
    found = due(events, at, quantity)
    assert found.nominal == (None if nominal is None else pytest.approx(nominal, abs=2e-3))
    said = "\n".join(map(words, found.steps))
    assert [step for step in steps if step not in said] == [], said
    assert not found.provisional


def test_the_other_tolerance_and_volts_that_nobody_read():
    """0.90 … 1.10 of 20.83 A: 18.75 … 22.917, with the clamp 18.075 … 23.675. Without volts 0.95 …
    1.05 of rated are taken: 228/240 × 18.75 = 17.8125 and 252/240 × 21.875 = 22.96875, with the
    clamp 17.156 … 23.728; and the verdict is provisional."""
    house = expected_at(
        Evidence(UNIT, Visit(events=HEAT)),
        Asked(resolve(UNIT, "E1"), Quantity.AMPS, state_at(UNIT, HEAT, 605.0), tolerance=Tolerance.HOUSE),
    )
    assert [house.judge(v).good for v in (18.07, 18.08, 23.67, 23.68)] == [False, True, True, False]
    unread = due(HEAT[1:], "E1", "amps")
    assert unread.provisional
    assert unread.judge(20.0).provisional
    assert [unread.judge(v).good for v in (17.15, 17.16, 23.72, 23.73)] == [False, True, True, False]
    assert "not measured" in unread.steps[0]


@pytest.mark.parametrize(
    ("call", "after_s", "word"),
    [
        # Its relay and bearings have 5 s.
        ("G", 4.9, "not-judged"),
        ("G", 5.0, "dead"),
        # With heat alone it runs once every stage must be on: 90 s, and 5 s to settle.
        ("W1", 94.9, "not-judged"),
        ("W1", 95.0, "dead"),
    ],
)
def test_from_when_a_blower_at_a_stand_is_dead(call, after_s, word):
    events = (LINE, Calls(t_s=5, calls=frozenset({call})))
    state = state_at(UNIT, events, 5 + after_s)
    asked = Asked(resolve(UNIT, "blower"), Quantity.AMPS, state)
    assert expected_at(Evidence(UNIT, Visit(events=events)), asked).judge(0.1).word == word


@pytest.mark.parametrize(
    ("volts", "after_s", "word"),
    [
        # S1.1 has 20 s; its heater at 18 of 24 V takes (24/18)² as long, 35.6 s.
        (18.0, 35.5, "not-judged"),
        (18.0, 35.6, "dead"),
        # 15 V and less are no low coil but a dead one, and change nothing.
        (15.0, 19.9, "not-judged"),
        (15.0, 20.0, "dead"),
    ],
)
def test_a_coil_with_low_volts_warms_later(volts, after_s, word):
    coil = Reading(t_s=8, quantity=Quantity.VOLTS, at="S1.coil", value=volts)
    events = (*HEAT, coil)
    asked = Asked(resolve(UNIT, "E1"), Quantity.AMPS, state_at(UNIT, events, 5 + after_s))
    assert expected_at(Evidence(UNIT, Visit(events=events)), asked).judge(0.0).word == word


def test_a_call_that_ended_keeps_the_blower_for_the_longest_off_window():
    """S1.1 may hold the tie for 110 s, and 5 s are left to settle."""
    events = (*HEAT, Calls(t_s=600, calls=frozenset()))
    words = []
    for after_s in (114.9, 115.0):
        state = state_at(UNIT, events, 600 + after_s)
        asked = Asked(resolve(UNIT, "blower"), Quantity.AMPS, state)
        verdict = expected_at(Evidence(UNIT, Visit(events=events)), asked).judge(3.0)
        words.append((verdict.word, verdict.good))
    assert words == [("in-band", True), ("high", False)]


@pytest.mark.parametrize(
    ("quantity", "at", "events", "why"),
    [
        ("volts", "E1", OFF, "circuit C1 is off"),
        ("volts", "S1.1", OFF, "circuit C1 is off"),
        ("volts", "R", OFF, "no control power expected"),
        ("uf", "capacitor", IDLE, "proved dead and discharged"),
        ("ohms", "S1.1", IDLE, "proved dead"),
        ("amps", "C1", (LINE, Calls(t_s=600, calls=frozenset({"W1"}))), "every stage of this circuit"),
    ],
)
def test_what_is_not_due_says_why(quantity, at, events, why):
    found = due(events, at, quantity)
    assert not found.ranges
    assert why in found.absent
    assert found.judge(1.0).word == "not-judged"
