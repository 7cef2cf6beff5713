"""Scenes that are the same by their word, acts on the unit's own clock, each harm noticed, figures worked by hand."""

from __future__ import annotations

from collections.abc import Mapping
from random import Random
from typing import Any

import pytest
from hypothesis import given, settings

from plentar.core.door import prediction_of
from plentar.core.errors import BadInput
from plentar.core.judgement import Diagnosis, Sureness, Suspect
from plentar.core.quantity import Quantity
from plentar.core.said import NOTHING, say
from plentar.core.unit.points import points
from plentar.core.unit.unit import Unit
from plentar.files.unit_json import unit_to_json
from plentar.practice.bench import Bench
from plentar.practice.debrief import before_each_reading, doubt_bits, hidden_in, in_vain, named_right, told
from plentar.practice.scene import THEMES, Scene, draw
from plentar.stand_ins.wider.meter import GHOST_V
from plentar.stand_ins.wider.specimen import DC, SIZES, faults_of
from plentar.store.demo.plates import plates
from tests.kits import Kit, build_kit
from tests.strategies import any_units

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS


def two_strips() -> Mapping[str, Any]:
    return unit_to_json(build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "Two strips"))


def hidden(*faults: str, complaint: str = "not-enough-heat", plate: Mapping[str, Any] | None = None) -> Bench:
    return Bench(Scene(plate or two_strips(), faults, "oak", complaint))


def codes(bench: Bench) -> list[str]:
    return [harm.code for harm in bench.harms]


def test_the_same_word_is_the_same_scene_and_a_theme_keeps_to_itself() -> None:
    for unit in list(plates().values())[:6]:
        plate = unit_to_json(unit)
        for theme, fits in THEMES.items():
            for count in range(3):
                scene = draw(plate, theme, count, "elm")
                assert scene == draw(plate, theme, count, "elm")
                assert len(scene.faults) <= count
                for fault in scene.faults:
                    component, _, mode = fault.partition(":")
                    assert fault in faults_of(plate)
                    assert fits(plate, component, mode), (theme, fault)
    words = {draw(two_strips(), "any", 1, str(n)).faults for n in range(30)}
    assert len(words) > 10
    assert {draw(two_strips(), "any", 0, str(n)).faults for n in range(5)} == {()}


def test_a_strip_that_is_open_draws_nothing_and_the_other_its_amps() -> None:
    """20.8 A by 5000 W at 240 V; of a real one 0.9 to 1.05, the service and the meter a few in a hundred."""
    bench = hidden("E2:open").call("G").call("W1").wait(120)
    assert "air" in bench.seen
    bench = bench.measure("E1", A).measure("E2", A).measure("E2", V)
    one, two, volts = (act["value"] for act in bench.acts if "read" in act)
    assert 0.85 * 20.8 < one < 1.12 * 20.8
    assert two < 0.5
    assert 225 < volts < 255
    # Cold, proved dead: no path; replaced, it draws.
    bench = bench.call("W1").call("G").power("off").power("proved-dead").measure("E2", OHM)
    assert bench.acts[-1]["value"] == "OL"
    bench = bench.replace("E2")
    assert not bench.left
    bench = bench.power("on").call("G").call("W1").wait(120).measure("E2", A)
    assert 0.85 * 20.8 < bench.acts[-1]["value"] < 1.12 * 20.8
    assert not bench.harms
    # A reading, a breaker, proving dead and a repair take their time: all by the unit's clock.
    assert bench.now_s == 5 * 20 + 2 * 30 + 180 + 900 + 120 + 6 * 2 + 240


def test_a_sound_unit_reads_as_the_model_says_within_its_parts_spread() -> None:
    """Elements and lugs under heat: a specimen's power 0.9 to 1.05, its service ±4 %, a meter ±2 %."""
    for unit in list(plates().values())[:5]:
        bench = hidden(plate=unit_to_json(unit))
        for call in ("G", *sorted(unit.heat_calls)):
            bench = bench.call(call)
        bench = bench.wait(900)
        due = prediction_of(unit, bench.visit.events, bench.now_s)
        for element in unit.elements:
            shown = bench.measure(element.id, A).acts[-1]["value"]
            nominal = due.read(A, element.id)
            assert nominal is not None
            assert 0.82 * nominal.value - 0.4 < shown < 1.14 * nominal.value + 0.4, (unit.id, element.id)


@pytest.mark.parametrize("home", [2, 7, 10])
def test_a_broken_unit_reads_as_the_model_says_within_its_parts_spread(home: int) -> None:
    """Amps and volts at every point under heat and fan, for faults that have no size. Parts lie within a fifth, what is
    held within a seventh; a wire that nothing holds, and a rectified coil on AC, are the meter's own."""
    unit = plates()[home]
    plate = unit_to_json(unit)
    kinds = [f for f in faults_of(plate) if f.partition(":")[2] not in SIZES and f != "transformer:weak"]
    own = {f"{c['id']}.coil" for c in plate["controls"] if c["type"] in DC} | {"W1", "W2"} - {*unit.calls}
    for fault in Random(home).sample(kinds, 14):
        bench = hidden(fault, plate=plate)
        for call in ("G", *sorted(unit.heat_calls)):
            bench = bench.call(call)
        bench = bench.wait(900)
        due = prediction_of(unit, bench.visit.events, bench.now_s, [fault])
        held = {(r.quantity, r.at): r.value for r in due.readings if not r.cycling and r.at not in own}
        for (quantity, at), value in held.items():
            shown = bench.inside.meter.read(quantity.value, at, bench.standing)
            if quantity is A:
                assert 0.8 * value - 0.6 < shown < 1.2 * value + 0.6, (fault, at)
            elif quantity is V:
                ghost = value < GHOST_V and shown < 1.05 * GHOST_V
                assert ghost or 0.85 * value - 2 < shown < 1.15 * value + 2, (fault, at)


@pytest.mark.parametrize("quantity", [OHM, Quantity.TONE])
def test_a_meter_on_ohms_is_not_put_on_what_was_not_proved_dead(quantity: Quantity) -> None:
    on = hidden().call("G").call("W1").wait(60).measure("E1", quantity)
    assert codes(on) == ["ohms-live"]
    assert 225 < on.harms[0].value < 255
    assert not [act for act in on.acts if "read" in act]
    off = hidden().power("off").measure("E1", quantity)
    assert (codes(off), off.harms[0].value) == (["ohms-live"], 0)
    assert codes(hidden().power("off").power("proved-dead").measure("E1", quantity)) == []


def test_every_other_harm_is_noticed_once() -> None:
    assert codes(hidden().replace("E1")) == ["hands-live"]
    assert hidden().replace("E1").acts == ()
    # The blower's relay does not close, its tie is open: heat alone for a minute.
    alone = hidden("blower:open").call("W1").wait(60)
    assert codes(alone) == ["heat-alone"]
    # In steps of ten seconds, none of which is too long: told once, for all of it.
    steps = hidden("blower:open").call("W1")
    for _ in range(6):
        steps = steps.wait(10)
    assert (codes(steps), steps.harms) == (["heat-alone"], alone.harms)
    assert codes(hidden().call("W1").wait(60)) == []
    grounded = hidden("E1:grounded").power("off").power("on")
    assert [(harm.code, harm.at) for harm in grounded.harms] == [("frame-live", "E1")]
    assert codes(hidden().power("off").power("on")) == []
    two_feeds = next(unit for unit in plates().values() if len(unit.circuits) > 1)
    for element in two_feeds.elements:
        bench = hidden(f"{element.id}:grounded", plate=unit_to_json(two_feeds)).power("off")
        for circuit in two_feeds.circuits:
            closed = codes(bench.power("on", circuit.id))
            assert closed == (["frame-live"] if circuit.id == element.circuit else []), (
                element.id,
                circuit.id,
            )
    heat_pump = unit_to_json(next(unit for unit in plates().values() if "Y" in unit.calls))
    cooling = hidden(plate=heat_pump).call("G").call("Y").wait(30).call("Y").wait(30)
    assert codes(cooling) == []
    assert codes(cooling.call("Y")) == ["compressor-twice"]
    assert codes(cooling.wait(300).call("Y")) == []


def test_a_fuse_that_blows_is_the_call_that_blew_it() -> None:
    fused = next(
        unit
        for unit in plates().values()
        if unit.control_power.fuse_amps and "W1:to-ground" in faults_of(unit_to_json(unit))
    )
    bench = hidden("W1:to-ground", plate=unit_to_json(fused))
    assert codes(bench.call("G").wait(10)) == []
    assert codes(bench.call("W1").wait(10)) == ["fuse-blew"]


@pytest.mark.parametrize(
    "act",
    [
        lambda bench: bench.measure("E1", Quantity.UF),
        lambda bench: bench.measure("attic", A),
        lambda bench: bench.power("proved-dead"),
        lambda bench: bench.power("off", "C9"),
        lambda bench: bench.call("W9"),
        lambda bench: bench.wait(0),
        lambda bench: bench.wait(5000),
        lambda bench: bench.replace("attic"),
    ],
)
def test_what_cannot_be_done_is_complained_of(act: Any) -> None:
    with pytest.raises(BadInput):
        act(hidden())


def answer(state: Sureness, parts: tuple[str, ...], *shares: float) -> Diagnosis:
    suspects = tuple(Suspect(f"E{n}:open", share, say("nothing"), ()) for n, share in enumerate(shares))
    return Diagnosis(suspects, (), (), "", (NOTHING,), state=state, parts=parts)


def test_the_figures_of_the_debrief() -> None:
    """Eight alike are three bits, two are one, and one for sure none; a reading may point elsewhere."""
    assert doubt_bits([0.125] * 8) == pytest.approx(3.0)
    assert doubt_bits([0.5]) == pytest.approx(1.0)  # the other half is not listed
    bench = hidden("E1:open")
    answers = [
        answer(Sureness.OPEN, (), *[0.125] * 8),
        answer(Sureness.OPEN, (), 0.5, 0.5),
        answer(Sureness.LIKELY, ("E1",), 0.25, 0.25, 0.25, 0.25),
        answer(Sureness.CLEAR, ("E1",), 1.0),
    ]
    found = told(answers, bench)
    assert found.bits == pytest.approx((2.0, -1.0, 2.0))
    assert found.decidable_after == 3
    wrong = [*answers[:3], answer(Sureness.CLEAR, ("E2",), 1.0)]
    assert told(wrong, bench).decidable_after is None
    dead = bench.power("off").power("proved-dead")
    assert in_vain(dead.replace("E2").replace("E1")) == ("E2",)


def test_what_is_named_is_right_by_the_part_or_its_device_and_nothing_more() -> None:
    stuck = hidden("S1.2:stuck-open")
    assert named_right(stuck, ["S1"])
    assert named_right(stuck, ["S1.2"])
    assert not named_right(stuck, ["S1", "E1"])
    assert not named_right(stuck, [])
    assert named_right(hidden(), [])
    assert not named_right(hidden(), ["E1"])
    both = hidden("E1:open", "E2:open")
    assert not named_right(both, ["E1"])
    assert named_right(both, ["E2", "E1"])


def test_a_weak_limit_is_seen_to_come_and_go() -> None:
    weak = hidden("TL1:weak").call("G").call("W1").wait(1800).watch("E1")
    sound = hidden().call("G").call("W1").wait(1800).watch("E1")
    assert [bench.acts[-1]["observe"] for bench in (weak, sound)] == ["cycling", "steady"]


@given(any_units())
@settings(max_examples=15)
def test_any_legal_plate_can_be_practised_on(unit: Unit) -> None:
    """A scene, every call, some readings on it and proved dead, and what is told at the end."""
    bench = Bench(draw(unit_to_json(unit), "any", 1, "oak"))
    for call in unit.calls:
        bench = bench.call(call)
    bench = bench.wait(60)
    for point in list(points(unit))[:3]:
        bench = bench.measure(point.name, point.quantities[0])
    assert bench.seen & {"air", "still"}
    assert len(before_each_reading(bench)) == 1 + sum("read" in act for act in bench.acts)
    assert named_right(bench, [h.part for h in hidden_in(bench)])
