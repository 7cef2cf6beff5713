"""Jumper, bench supply, clamp and a meter set otherwise on the simulated unit; wires that are lost; ways through."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest

from plentar.core.errors import BadInput
from plentar.core.judge.diagnosis import diagnose
from plentar.core.judgement import Diagnosis, Sureness, Suspect
from plentar.core.quantity import Quantity
from plentar.core.said import NOTHING, say
from plentar.core.visit.evidence import Evidence
from plentar.files.unit_json import unit_to_json
from plentar.practice.bench import MARKING_S, MENDING_S, Bench
from plentar.practice.coach import customary_path, judges_path
from plentar.practice.debrief import Path, by_custom, by_the_judge, decides, hidden_in, in_vain, lost_in
from plentar.practice.difficulty import Difficulty, Grade, chosen, of_answer
from plentar.practice.own_acts import may_lose
from plentar.practice.scene import Scene, draw
from plentar.stand_ins.wider.specimen import faults_of, filled
from plentar.stand_ins.wider.world import HiddenUnit
from plentar.store.demo.plates import plates
from tests.practice.test_practice import codes, hidden

A, V, OHM, TONE, UF = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TONE, Quantity.UF


def dead(bench: Bench) -> Bench:
    return bench.power("off").power("proved-dead")


def shown(bench: Bench) -> float:
    value = bench.acts[-1]["value"]
    return math.inf if value == "OL" else float(value)


def test_a_jumper_tells_the_thermostat_from_the_unit() -> None:
    """The call does not come through: by jumper it does, and the strip draws its 20.8 A."""
    bench = hidden("W1:no-call").call("G").call("W1").wait(120).measure("E1", A)
    assert shown(bench) < 0.5
    assert codes(bench.wires("lifted")) == ["wires-live"]
    off = bench.power("off").wires("lifted")
    assert not off.state.calls, "nothing is called until a jumper does"
    on = off.power("on").call("G").call("W1").wait(120).measure("E1", A)
    assert 0.85 * 20.8 < shown(on) < 1.12 * 20.8
    with pytest.raises(BadInput):
        off.wires("lifted")


def test_a_contact_closes_while_its_coil_is_fed_and_only_with_its_wires_off() -> None:
    bench = dead(hidden()).measure("S1.1", OHM)
    assert math.isinf(shown(bench))
    backwards = bench.drive("S1.1", OHM)
    assert (codes(backwards), len(backwards.acts)) == (["fed-backwards"], len(bench.acts))
    off = bench.wires("lifted", "S1.coil")
    fed = off.drive("S1.1", OHM)
    assert shown(fed) < 1.0
    assert fed.acts[-1]["driven_s"] == off.unit.switch_by_id["S1.1"].on_s.high
    assert fed.now_s == off.now_s + fed.acts[-1]["driven_s"] + 20
    assert math.isinf(shown(dead(hidden("S1:coil-open")).wires("lifted", "S1.coil").drive("S1.1", OHM)))
    assert codes(hidden().drive("S1.1", OHM)) == ["ohms-live"]
    with pytest.raises(BadInput):
        fed.power("on")
    with pytest.raises(BadInput):
        fed.drive("E1", OHM)
    back = fed.wires("restored", "S1.coil").power("on").call("G").call("W1").wait(120).measure("E1", A)
    assert shown(back) > 15


def test_a_coil_whose_wires_are_off_does_not_act() -> None:
    bench = dead(hidden()).wires("lifted", "S1.coil")
    on = {"t": bench.now_s, "power": "on"}, {"t": bench.now_s + 1, "calls": ["G", "W1"]}
    assert bench.inside.read("amps", "E1", [*bench.switches(), *on], bench.now_s + 300) < 0.5


@pytest.mark.parametrize(
    ("way", "at", "dead_first", "least", "most"),
    [
        # 240 V, 20.8 A and 11.5 Ω stand there.
        ("dc-on-ac", "C1", False, 0.0, 0.0),
        ("two-wires", "E1", False, 0.0, 0.0),
        ("kilohms", "E1", True, 0.01, 0.02),
    ],
)
def test_a_meter_set_otherwise_shows_what_a_real_one_shows(way, at, dead_first, least, most) -> None:
    bench = hidden().call("G").call("W1").wait(120)
    bench = (dead(bench) if dead_first else bench).misread(at, way)
    assert least <= float(bench.acts[-1]["shows"]) <= most
    assert len(bench.visit.events) == len(bench.acts) - 1, "it is no reading"
    if dead_first:
        assert codes(hidden().misread(at, way)) == ["ohms-live"]
    with pytest.raises(BadInput):
        bench.misread("supply-air", way)


def test_a_capacitor_is_discharged_before_anybody_puts_a_meter_or_hands_on_it() -> None:
    """The printed µF within a twentieth, once it is discharged; whoever had the power on since discharges it again."""
    unit = next(u for u in plates().values() if u.blower and u.blower.capacitor_uf)
    rated = unit.blower.capacitor_uf
    at_rest = dead(hidden(plate=unit_to_json(unit)))
    for act in (lambda b: b.measure("capacitor", UF), lambda b: b.replace("blower")):
        refused = act(at_rest)
        assert (codes(refused), refused.acts) == (["charged"], at_rest.acts)
    read = at_rest.discharge().measure("capacitor", UF)
    assert (read.harms, 0.93 * rated < read.acts[-1]["value"] < 1.07 * rated) == ((), True)
    assert read.replace("blower").harms == ()
    again = dead(read.power("on")).measure("capacitor", UF)
    assert codes(again) == ["charged"]
    assert codes(hidden(plate=unit_to_json(unit)).discharge()) == ["hands-live"]
    plate = unit_to_json(unit)
    without = plate | {"blower": {k: v for k, v in plate["blower"].items() if k != "capacitor_uf"}}
    with pytest.raises(BadInput):
        dead(hidden(plate=without)).discharge()


def test_whoever_goes_leaves_no_jumper_and_no_wire_off() -> None:
    off = dead(hidden())
    coil = f"{off.unit.controls[0].id}.coil"
    for bench, left in (
        (off, []),
        (off.wires("lifted").wires("restored"), []),
        (off.wires("lifted"), [("wires-left", "R")]),
        (off.wires("lifted", coil), [("wires-left", off.unit.controls[0].id)]),
        (off.wires("lifted").power("on").call("W1"), [("jumper-left", "R")]),
    ):
        assert [(harm.code, harm.at) for harm in bench.leave().harms if "left" in harm.code] == left


def test_a_tone_sounds_across_what_is_whole() -> None:
    """11.5 Ω sounds, an open element does not."""
    bench = dead(hidden("E2:open"))
    assert bench.measure("E1", TONE).acts[-1]["value"] is True
    assert bench.measure("E2", TONE).acts[-1]["value"] is False


def test_a_clamp_left_on_the_feed_shows_each_strip_come_and_go() -> None:
    """Two strips behind one sequencer, 20.8 A each: on within its windows of the call, off within those of its end."""
    bench = hidden(complaint="check-up").call("G").clamp("C1")
    called_s = bench.now_s
    bench = bench.call("W1").wait(200)
    ended_s = bench.now_s
    bench = bench.call("W1").wait(200)
    steps = [(t_s, amps) for t_s, amps in bench.trace]
    motor = steps[0][1]
    assert 0 < motor < 5
    rises = [t_s for (_, before), (t_s, after) in pairwise(steps) if after > before + 15]
    falls = [t_s for (_, before), (t_s, after) in pairwise(steps) if after < before - 15]
    assert (len(rises), len(falls)) == (2, 2)
    first, second = (switch.on_s for switch in bench.unit.control_by_id["S1"].switches)
    assert first.low - 1 <= rises[0] - called_s <= first.high + 4
    assert second.low - 1 <= rises[1] - called_s <= second.high + 4
    assert all(0 <= t_s - ended_s <= 130 for t_s in falls)
    assert max(amps for _, amps in steps) == pytest.approx(2 * 20.8 + motor, rel=0.12)
    assert bench.clamp("C1").trace == ()


def test_wires_moved_all_at_once_may_lose_one_and_marked_ones_never() -> None:
    plate = filled(hidden().scene.plate)
    assert may_lose(hidden().unit, plate, "S1") == ["E1.wire:open", "E2.wire:open"]
    assert may_lose(hidden().unit, plate, "TL1") == []
    lost = 0
    for seed in map(str, range(12)):
        bench = dead(Bench(Scene(plate, ("S1:stuck-open",), seed, "no-heat")))
        marked = bench.replace("S1")
        assert (marked.left, marked.now_s - bench.now_s) == ((), MENDING_S + MARKING_S)
        loose = bench.replace("S1", marked=False)
        assert loose.now_s - bench.now_s == MENDING_S
        lost += bool(loose.lost)
        if not loose.lost:
            continue
        assert loose.left == loose.lost
        strip = loose.lost[0].partition(".")[0]
        on = loose.power("on").call("G").call("W1").wait(200).measure(strip, A)
        assert shown(on) < 0.5
        assert [h.fault for h in lost_in(loose)] == list(loose.lost)
        again = dead(on.call("W1").call("G")).replace(f"{strip}.wire")
        assert (again.left, in_vain(again)) == ((), ())
        assert len(again.visit.events) == len(again.acts) - 1, "what was lost is no act of a visit"
    assert 3 <= lost <= 9


def test_a_still_blower_is_noted_where_it_stands_still() -> None:
    assert hidden("blower:locked").call("G").wait(5).note_still().acts[-1]["observe"] == "off"
    with pytest.raises(BadInput):
        hidden().call("G").wait(5).note_still()


def answer(state: Sureness, parts: tuple[str, ...] = (), *shares: float) -> Diagnosis:
    suspects = tuple(Suspect(f"E{n}:open", share, say("nothing"), ()) for n, share in enumerate(shares))
    return Diagnosis(suspects, (), (), "", (NOTHING,), state=state, parts=parts)


def test_the_customary_way_is_counted_up_to_the_reading_that_decides() -> None:
    """A judge that is clear from the fifth reading on. Two readings are 40 s; the fan's call and ten seconds 12, its
    amps 20; the heat's call and its last window, settled, 2 + 95; two strips 40: 209 s."""

    def judge(evidence: Evidence) -> Diagnosis:
        return answer(Sureness.CLEAR, ("E2",)) if len(evidence.taken) >= 5 else answer(Sureness.OPEN)

    bench = hidden("E2:open")
    path = by_custom(bench.scene, judge)
    assert (path.readings, path.decided, path.harms) == (5, True, ())
    after = list(customary_path(bench))[4]
    assert [act["at"] for act in after.acts if "read" in act] == ["C1", "R", "blower", "E1", "E2"]
    assert (after.now_s, path.minutes) == (209, 3)
    never = by_custom(bench.scene, lambda _: answer(Sureness.OPEN))
    assert not never.decided
    assert never.readings > 10


def test_how_hard_a_scene_is_by_hand() -> None:
    """Four alike at a quarter: two bits; one for sure: none; what is under a twentieth looks like nothing."""
    found = of_answer(answer(Sureness.OPEN, (), 0.25, 0.25, 0.25, 0.25))
    assert (found.bits, found.look_alikes, found.grade) == (pytest.approx(2.0), 4, Grade.MIDDLING)
    assert of_answer(answer(Sureness.CLEAR, (), 1.0)).grade is Grade.EASY
    assert of_answer(answer(Sureness.OPEN, (), 0.9, 0.04, 0.04)).look_alikes == 1
    assert Difficulty(2.5, 6).grade is Grade.HARD
    scenes = [hidden(f"E{n}:open").scene for n in (1, 2)]
    by_part = {"E1": answer(Sureness.OPEN, (), *[0.125] * 8), "E2": answer(Sureness.OPEN, (), 1.0)}

    def judge(evidence: Evidence) -> Diagnosis:
        dead_strip = next(
            t.reading.at for t in evidence.taken if t.reading.quantity is A and t.reading.value < 0.5
        )
        return by_part[dead_strip]

    assert chosen(scenes, Grade.EASY, judge) is scenes[1]
    assert chosen(scenes, Grade.HARD, judge) is scenes[0]
    assert chosen(scenes[1:], Grade.HARD, judge) is scenes[1], "the nearest, where there is none"


KINDS = ("coil-open", "no-call", "stuck-closed", "grounded", "nc-stuck-open", "locked", "burnt", "to-ground")


@pytest.mark.slow
@pytest.mark.parametrize("kind", KINDS)
def test_the_judges_cards_lead_to_what_is_hidden(kind: str) -> None:
    """Done as the cards say, jumper, bench supply and guarded steps among them: decided, or it leads where nothing is
    left that would tell more; and no card did harm."""
    felt = (
        (filled(unit_to_json(unit)), fault)
        for unit in list(plates().values())[1:]
        for fault in faults_of(filled(unit_to_json(unit)))
        if fault.endswith(f":{kind}")
    )
    plate, fault = next((p, f) for p, f in felt if HiddenUnit(p, [f], "elm").complaints)
    complaint = min(HiddenUnit(plate, [fault], "elm").complaints)
    bench, said = judges_path(Bench(Scene(plate, (fault,), "elm", complaint)), diagnose)
    wanted = frozenset(h.part.removesuffix(".supply") for h in hidden_in(bench))
    leads = said.suspects[0].fault == fault
    assert decides(said, wanted) or leads, (fault, said.suspects[:3], list(bench.acts))
    assert not bench.harms


@pytest.mark.slow
def test_the_ways_through_a_scene_are_its_own() -> None:
    """The same each time; and a judge that asks for nothing leads nowhere."""
    scene = draw(unit_to_json(list(plates().values())[3]), "strips", 1, "ash")
    assert by_the_judge(scene, diagnose) == by_the_judge(scene, diagnose)
    assert by_the_judge(scene, lambda _: answer(Sureness.OPEN)) == Path(0, 0, (), decided=False)
