"""What is found of coils, contacts, control power, motor and air, each worked out by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.door import judge
from plentar.core.guided.one_call import one_call_test
from plentar.core.guided.rise import rise_test
from plentar.core.guided.sag import sag_test
from plentar.core.judge.diagnosis import diagnose
from plentar.core.judgement import FindingCode
from plentar.core.quantity import Band
from plentar.core.tables.devices import BLOWER_RELAYS
from plentar.core.unit.parts import BlowerRelay, Coil, Conductor, Interlock
from plentar.core.visit.events import Visit
from plentar.core.visit.evidence import Evidence
from plentar.store.demo.plates import plates
from tests.cases import DEAD, TWO, VOLTS, visit_of
from tests.conftest import words

CALLED = {"t": 5, "calls": ["W1"]}


def read(t: float, quantity: str, at: str, value: float | str) -> dict:
    return {"t": t, "read": quantity, "at": at, "value": value}


def dead(*readings: tuple[str, str, float | str]) -> list[dict]:
    return [*DEAD, *(read(600 + n, *one) for n, one in enumerate(readings))]


def blower(**more: object):
    return replace(TWO, blower=replace(TWO.blower, **more))


def levels(unit, *events: dict, settings: dict | None = None) -> dict[FindingCode, str]:
    visit = visit_of(*events, **({"settings": settings} if settings else {}))
    return {f.code: str(f.level) for f in judge(unit, visit).findings}


TWENTY = replace(TWO, controls=(replace(TWO.controls[0], coil=Coil(24, Band(20, 60), 6)),))


@pytest.mark.parametrize(
    ("ohms", "level"),
    [
        (20, None),
        (60, None),
        (19.9, "watch"),
        (60.1, "watch"),
        (10, "watch"),
        (9.99, "repair"),
        (600, "watch"),
        (601, "repair"),
        ("OL", "repair"),
    ],
)
def test_a_coil_of_20_to_60_ohms(ohms, level):
    """Under half of 20 turns are shorted; over ten times 60 it is open; the meter is not counted."""
    found = levels(TWENTY, *dead(("ohms", "S1.coil", ohms)))
    assert found.get(FindingCode.COIL_OHMS) == level


@pytest.mark.parametrize(
    ("volts", "level"),
    [(22.0, None), (29, None), (21.9, "watch"), (20.0, "watch"), (19.9, "repair"), (1.0, "repair")],
)
def test_the_secondary_under_load(volts, level):
    found = levels(TWO, read(1, "volts", "C1", 240), CALLED, read(300, "volts", "transformer", volts))
    assert found.get(FindingCode.CONTROL_VOLTS_LOW) == level


def test_no_volts_at_the_secondary_is_the_transformers_only_where_it_is_fed():
    code, nothing = FindingCode.CONTROL_VOLTS_LOW, read(300, "volts", "transformer", 0)
    assert levels(TWO, read(1, "volts", "C1", 240), nothing)[code] == "repair"
    assert code not in levels(TWO, read(1, "volts", "C1", 2), nothing)
    assert code not in levels(TWO, nothing)
    assert code not in levels(TWO, read(1, "volts", "C1", 240), read(300, "volts", "R", 0))
    missing = judge(TWO, visit_of(read(300, "volts", "R", 0))).not_judged
    assert any("read the secondary" in m.because for m in missing)


@pytest.mark.parametrize(
    ("uf", "level"),
    [(7.5, None), (7.05, None), (7.04, "watch"), (6.75, "watch"), (6.74, "repair"), (7.95, None)],
)
def test_a_capacitor_marked_7_5(uf, level):
    """6 % down are 7.05 µF, 10 % are 6.75."""
    unit = blower(capacitor_uf=7.5)
    assert levels(unit, *dead(("uf", "capacitor", uf))).get(FindingCode.CAPACITOR_WEAK) == level


def test_a_capacitor_under_load():
    """2652.6 × 0.83 A ÷ 350 V = 6.29 µF, 16 % below 7.5."""
    unit = blower(capacitor_uf=7.5)
    pair = read(300, "amps", "capacitor", 0.83), read(330, "volts", "capacitor", 350)
    assert levels(unit, CALLED, *pair)[FindingCode.CAPACITOR_WEAK] == "repair"
    good = read(300, "amps", "capacitor", 0.99), read(330, "volts", "capacitor", 350)
    assert FindingCode.CAPACITOR_WEAK not in levels(unit, CALLED, *good)
    apart = read(300, "amps", "capacitor", 0.83), read(430, "volts", "capacitor", 350)
    assert FindingCode.CAPACITOR_WEAK not in levels(unit, CALLED, *apart)


@pytest.mark.parametrize(("amps", "level"), [(3.4, None), (3.76, None), (3.8, "repair")])
def test_blower_amps_against_3_4(amps, level):
    """3.8 A may be 3.8 − .376 = 3.42 A."""
    found = levels(blower(fla=3.4), CALLED, read(300, "amps", "blower", amps))
    assert found.get(FindingCode.BLOWER_AMPS_HIGH) == level


@pytest.mark.parametrize(("amps", "found"), [(20.8, {"S1.1"}), (20.84, set()), (25, set()), (15, {"S1.1"})])
def test_a_contact_under_a_5_kw_strip(amps, found):
    """20.83 A; the tap carries the blower besides."""
    first, second = TWO.controls[0].switches
    rated = replace(TWO.controls[0], switches=(replace(first, contact_amps=amps), second))
    unit = replace(TWO, controls=(rated,), blower=replace(TWO.blower, interlock=Interlock("g-with-w")))
    parts = {f.component for f in judge(unit, Visit()).findings if f.code is FindingCode.CONTACT_RATING}
    assert parts == found


def test_a_relay_is_rated_for_its_motor():
    kind = BLOWER_RELAYS["spdt"]
    small = BlowerRelay("BR", "spdt", "G", Coil(), kind.on_s, kind.off_s, contact_amps=3.0)
    unit = blower(relay=small, fla=3.4, interlock=Interlock("g-with-w"))
    found = {f.component: f for f in judge(unit, Visit()).findings}
    assert found["BR"].code is FindingCode.CONTACT_RATING


def rise(unit, supply_f: float, t: float = 400, more: tuple[dict, ...] = (), settings=None, **amps):
    """Two strips of 20.8 A at 240 V are 9 984 W, 34 067 BTU/h; by 1.08 that is 31 543 CFM·°F."""
    return levels(
        unit,
        *more,
        CALLED,
        read(t - 6, "volts", "C1", 240),
        read(t - 5, "amps", "E1", amps.get("E1", 20.8)),
        read(t - 4, "amps", "E2", 20.8),
        read(t - 2, "temp_f", "return-air", 70),
        read(t, "temp_f", "supply-air", supply_f),
        settings=settings,
    )


THREE_TONS = blower(tons=3, rated_cfm=1200)


@pytest.mark.parametrize(
    ("supply_f", "level"),
    [(70 + 30, None), (70 + 30.2, "watch"), (70 + 35.0, "watch"), (70 + 35.2, "repair")],
)
def test_air_of_three_tons(supply_f, level):
    """350 a ton are 1 050 CFM, 30.04 °F; 300 are 900 CFM, 35.05 °F."""
    assert rise(THREE_TONS, supply_f).get(FindingCode.LOW_AIRFLOW) == level


def test_air_by_the_kits_own_least():
    """32 °F are 986 CFM: a watch by the ton; a kit that prints 1 000 asks for repair."""
    assert rise(THREE_TONS, 102)[FindingCode.LOW_AIRFLOW] == "watch"
    printed = blower(tons=3, rated_cfm=1200, min_cfm=1000)
    assert rise(printed, 102)[FindingCode.LOW_AIRFLOW] == "repair"


def test_thin_air_takes_up_less():
    """At 5 000 ft the same 32 °F are 986 ÷ .832 = 1 185 CFM."""
    assert FindingCode.LOW_AIRFLOW not in rise(THREE_TONS, 102, settings={"altitude_ft": 5000})


def test_air_that_cannot_be_judged_is_not():
    code = FindingCode.LOW_AIRFLOW
    assert code not in rise(THREE_TONS, 99, t=200), "before five minutes a rise may still grow"
    assert rise(THREE_TONS, 106, t=200)[code] == "repair", "and too much already is too much"
    assert code not in rise(blower(tons=None, rated_cfm=1200), 106)
    pump = {"t": 4, "calls": ["Y"]}
    under = rise(THREE_TONS, 120, more=(pump,))
    assert FindingCode.LOW_AIRFLOW in under, "the call is W1 alone by then"


def test_the_heat_pumps_own_rise_is_taken_off():
    """18 °F of the pump and 30 of the strips: 48 °F in all, 1 051 CFM by the strips."""
    both = [
        {"t": 1, "calls": ["Y", "G"]},
        read(400, "temp_f", "return-air", 70),
        read(402, "temp_f", "supply-air", 88),
        {"t": 410, "calls": ["Y", "G", "W1"]},
        read(800, "volts", "C1", 240),
        read(801, "amps", "E1", 20.8),
        read(802, "amps", "E2", 20.8),
        read(803, "temp_f", "return-air", 70),
        read(805, "temp_f", "supply-air", 118),
    ]
    assert FindingCode.LOW_AIRFLOW not in levels(THREE_TONS, *both)
    alone = [event for event in both if event.get("t", 0) not in (400, 402)]
    assert FindingCode.LOW_AIRFLOW not in levels(THREE_TONS, *alone), "not known: not judged"
    hot = [*both[:-1], read(805, "temp_f", "supply-air", 124)]
    assert levels(THREE_TONS, *hot)[FindingCode.LOW_AIRFLOW] == "repair"


def said(test) -> str:
    return words("; ".join(f"{label} {value}" for label, value in test.result))


def sag(idle: float, line: float, lugs: float) -> list[dict]:
    """The five readings of the sag test at 42.4 A; nothing is lost without heat."""
    return [
        read(1, "volts", "C1.line", idle),
        read(3, "volts", "C1", idle),
        CALLED,
        read(300, "amps", "C1", 42.4),
        read(310, "volts", "C1.line", line),
        read(330, "volts", "C1", lugs),
    ]


def test_the_sag_test_by_hand():
    """238.5 V and 232.4 V at 42.4 A through 35 ft of 6 AWG: 6.1 V; wire 1.457 V, poles .170 V;
    4.47 V left, 190 W; less .6 V and .3 % of 238.5 V, 134 W."""
    wired = replace(TWO.circuits[0], conductor=Conductor("6", "copper", length_ft=35, length_measured=True))
    unit = replace(TWO, circuits=(wired,))
    events = sag(241, 238.5, 232.4)
    test = sag_test(Evidence(unit, visit_of(*events)), 331, "C1")
    assert "2.50 V at 42.4 A: source of 0.059 Ω" in said(test)
    assert "6.10 V; wire and good poles explain 1.63 V" in said(test)
    assert "190 W as read, 134 W at least" in said(test)
    assert test.stop
    assert test.next is None
    [joint] = [f for f in judge(unit, visit_of(*events)).findings if f.code is FindingCode.JOINT_HEAT]
    assert joint.numbers["least_watts"] == pytest.approx(133.8, abs=0.1), "the check says the same"
    late = [*events[:-1], read(380, "volts", "C1", 232.4)]
    again = sag_test(Evidence(unit, visit_of(*late)), 381, "C1")
    assert again.next is not None
    assert "again" in again.next.note
    assert again.next.at == "C1.line"


def test_a_wire_of_which_nothing_is_known_is_a_usual_one():
    """10 mΩ a leg: .848 V; poles .170 V; 5.08 V left, 215 W; less 1.32 V of meter and .848 V of wire, 124 W."""
    events = sag(241, 238.5, 232.4)
    test = sag_test(Evidence(TWO, visit_of(*events)), 331, "C1")
    assert "215 W as read, 124 W at least" in said(test)
    found = {f.code: f for f in judge(TWO, visit_of(*events)).findings}
    assert found[FindingCode.JOINT_HEAT].numbers["least_watts"] == pytest.approx(123.7, abs=0.1)


def test_a_sag_ahead_of_the_breaker_is_the_services():
    """From 244 V to 234 V at the line side, and nothing lost behind it."""
    events = sag(244, 234, 233.9)
    test = sag_test(Evidence(TWO, visit_of(*events)), 331, "C1")
    assert "ahead of the breaker" in said(test)
    assert not test.stop


def test_a_device_that_another_passes_its_call_to_may_draw_or_not_yet():
    """Home 5 calls S1 by W1, which passes it on to S2: 6 VA or 12, .25 or .5 A; × .6 and × 1.4, and
    the clamp, ± (2 % + .03 A), on its upper end: .15 − .044 to .7 + .044 A."""
    test = one_call_test(Evidence(plates()[5], visit_of()), 1)
    due = next(step.due for step in test.steps if step.title == "Wire to R, W1 alone")
    assert due.text() == "0.106–0.744 A"


COLD = [
    ("ohms", "S1.coil", 40),
    ("ohms", "BR.coil", 30),
    *(("ohms", f"{call}:ground", "OL") for call in TWO.calls),
]


def test_nothing_is_driven_before_its_ohms():
    shorted = dead(("ohms", "S1.coil", 2.25))
    test = one_call_test(Evidence(TWO, visit_of(*shorted)), 700)
    assert "Sequencer S1: the coil reads 2.25 Ω. Let nothing drive it" in test.stop
    bare = dead(*COLD[:2], ("ohms", "W1:ground", 0.4))
    assert "W1 reads 0.400 Ω" in one_call_test(Evidence(TWO, visit_of(*bare)), 700).stop
    for number, (_, at, _) in enumerate(COLD):
        so_far = visit_of(*dead(*COLD[:number]))
        assert one_call_test(Evidence(TWO, so_far), 700).next.at == at


def warm(*amps: float) -> list[dict]:
    """R with nothing called, then each call alone, the fan first."""
    calls = [[], ["G"], *([c] for c in TWO.calls if c != "G")]
    found: list[dict] = [*dead(*COLD), {"t": 700, "power": "on"}]
    for n, (asked, value) in enumerate(zip(calls, amps, strict=False)):
        found += [{"t": 710 + 20 * n, "calls": asked}, read(715 + 20 * n, "amps", "R", value)]
    return found


def test_the_call_that_overloads_is_named_and_ends_it():
    """5 VA of the blower's relay at 24 V are .21 A, S1's 6 VA .25 A; the fuse is 3 A."""
    test = one_call_test(Evidence(TWO, visit_of(*warm(0.02, 0.22, 0.25))), 790)
    assert not test.stop
    assert test.next is not None
    high = one_call_test(Evidence(TWO, visit_of(*warm(0.02, 0.22, 1.9))), 790)
    assert [step.title for step in high.steps if step.worst] == ["Wire to R, W1 alone"]
    assert not high.stop
    over = one_call_test(Evidence(TWO, visit_of(*warm(0.02, 0.22, 4.6))), 790)
    assert "4.60 A with W1 called; the fuse is 3 A. End the call" in over.stop
    assert "S1" in over.stop
    assert "BR" not in over.stop


def test_the_rise_test_by_hand():
    """9 984 W, 31 543 CFM·°F: 31.5 °F over 1 000 CFM. Half the rise is one of two strips."""

    def test_of(supply_f: float, one: float = 20.8):
        return rise_test(
            Evidence(
                THREE_TONS,
                visit_of(
                    CALLED,
                    read(394, "volts", "C1", 240),
                    read(395, "amps", "E1", one),
                    read(396, "amps", "E2", 20.8),
                    read(397, "amps", "blower", 0.0),
                    read(398, "temp_f", "return-air", 70),
                    read(400, "temp_f", "supply-air", supply_f),
                ),
            ),
            401,
        )

    whole = test_of(101.5)
    assert "31.5 °F" in said(whole)
    assert "1001 CFM" in said(whole)
    assert "All elements heat this air to" in said(whole)
    half = test_of(83.2, one=0.0)
    assert "about 1 of 2 elements" in said(half)
    assert whole.next is None


def test_what_was_seen_weighs():
    """A poor filter makes too little air likelier, and a fine one less likely."""

    def chance(*looked: dict) -> float:
        said = diagnose(Evidence(TWO, visit_of(VOLTS, complaint="clicking", looked=list(looked))))
        return next(s.probability for s in said.suspects if s.fault == "airflow:low")

    poor, fine = ({"t": 2, "item": "filter", "state": state} for state in ("poor", "fine"))
    assert chance(poor) > 2 * chance() > 2 * chance(fine)
    assert chance(fine, poor) == pytest.approx(chance(poor)), "the newest word counts"
