"""The judge on units that are not its own model: the wider world, by hand and by the card."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest

from benchmarks.sound import nobody_read, read_everywhere
from benchmarks.wider import Watched, wilson_high
from plentar.core.checks.registry import outcomes
from plentar.core.circuit.faults import effects_of, find_faults
from plentar.core.circuit.moments import moments_until
from plentar.core.circuit.wiring import wire_up
from plentar.core.door import judge
from plentar.core.judgement import Level, Sureness
from plentar.core.visit.events import Calls, Visit
from plentar.core.visit.evidence import Evidence
from plentar.stand_ins.hidden import Hidden, drawn_unit
from plentar.stand_ins.wider.nodal import GROUND, Net
from plentar.stand_ins.wider.plates import PLATES, plate
from plentar.stand_ins.wider.specimen import faults_of
from plentar.stand_ins.wider.telling import could_be
from plentar.stand_ins.wider.world import HiddenUnit

MOST_READINGS = 17
#: Plate, fault, complaint: each was named wrong, or not named, by an earlier judge.
REGRESSIONS = [
    (7, "C2:loose", "breaker-trips-or-burnt"),
    (19, "W2:always", "heat-in-cooling"),
    (32, "C1:loose", "breaker-trips-or-burnt"),
    (25, "blower:weak-capacitor", "check-up"),
    (27, "E2:open", "not-enough-heat"),
    (29, "R:to-ground", "blower-will-not-run"),
    (35, "C2:loose", "breaker-trips-or-burnt"),
    (48, "transformer:weak", "not-enough-heat"),
    (52, "BR:no-stuck-open", "not-enough-heat"),
    (58, "E2:high-resistance", "not-enough-heat"),
]


def hidden(number: int, *faults: str, seed: str = "1") -> Hidden:
    return Hidden(drawn_unit(number), HiddenUnit(plate(number), list(faults), seed))


def test_the_net_obeys_ohm_and_the_transformer_its_turns():
    net = Net()
    net.join("source", GROUND, "a", 0.48, 240.0)
    net.join("strip", "a", GROUND, 11.52)
    net.transformer("turns", "hot", GROUND, ("a", GROUND), 0.1, 1.0)
    net.join("coil", "hot", GROUND, 99.0)
    solved = net.solve()
    # 240 V behind 0.48 Ω into 11.52 Ω, beside 100 Ω seen through ten to one: 10 kΩ.
    seen = 1 / (1 / 11.52 + 1 / 10_000)
    assert solved.across("a", GROUND) == pytest.approx(240 * seen / (seen + 0.48), rel=1e-6)
    assert abs(solved.amp("strip")) == pytest.approx(solved.across("a", GROUND) / 11.52, rel=1e-6)
    assert abs(solved.amp("coil")) == pytest.approx(solved.across("a", GROUND) / 1000, rel=1e-6)
    assert solved.floats("nowhere", GROUND)
    assert not solved.floats("hot", GROUND)


@pytest.mark.parametrize("number", range(0, PLATES, 7))
def test_a_sound_specimen_reads_as_its_plate_says(number):
    unit = hidden(number)
    heat = [call for call in ("W1", "W2") if call in unit.unit.heat_calls]
    events = [{"t": 0, "calls": [*heat, "G"]}]
    now = unit.inside.at(events, 700.0)
    for element in unit.inside.plate["elements"]:
        volts = now.solved.across(f"{element['id']}.in", f"{element['id']}.out")
        due = volts * 1000 * element["rated_kw"] / element["rated_volts"] ** 2
        assert 0.899 <= abs(now.solved.amp(element["id"])) / due <= 1.051
    assert 20 < now.solved.across("R", "C") < 30
    ended = unit.inside.at([*events, {"t": 700, "calls": []}], 1100.0)
    assert all(abs(ended.solved.amp(e["id"])) < 0.1 for e in unit.inside.plate["elements"])


def test_a_ghost_is_nothing_or_below_sixty_volts():
    number = next(n for n in range(PLATES) if len(plate(n)["elements"][0]["rung"]) > 3)
    name = plate(number)["elements"][0]["id"]
    rung = plate(number)["elements"][0]["rung"]
    shown = [
        hidden(number, f"{name}:open", seed=str(seed)).inside.read(
            "volts", f"{rung[0]}.out:{rung[1]}.in", [], 10.0
        )
        for seed in range(12)
    ]
    assert all(0 <= volts < 62 for volts in shown)


def test_the_papers_faults_are_those_of_the_file():
    """Every fault that the wider world hides has a name that the judge knows too."""
    for number in range(PLATES):
        find_faults(drawn_unit(number), faults_of(plate(number)))


def test_a_board_that_pulls_down_what_it_acts_on_comes_to_an_end():
    """W raises G through the board, a shorted coil on G takes the volts away, and so on: no fuse."""
    number = next(
        n
        for n in range(PLATES)
        if plate(n)["blower"]["interlock"]["kind"] == "g-with-w"
        and "fuse_amps" not in plate(n)["control_power"]
    )
    unit = drawn_unit(number)
    wiring = wire_up(unit)
    effects = effects_of(wiring, find_faults(unit, ["BR:coil-shorted"]))
    *_, last = moments_until(wiring, effects, [Calls(t_s=0, calls=unit.heat_calls)], 600.0)
    assert last.t_s == 600.0


@pytest.mark.slow
@pytest.mark.parametrize(("number", "fault", "complaint"), REGRESSIONS)
def test_what_was_missed_is_found(number, fault, complaint):
    unit = hidden(number, fault)
    episode = Watched(unit, complaint)
    said = episode.follow()
    part = unit.inside.work_on(fault)
    named = {next(iter(said.decisions)), *episode.plan.sure.parts}
    assert named & {part, part.removesuffix(".supply")}
    assert episode.readings <= MOST_READINGS
    assert not episode.ohms_live
    assert episode.plan.sure.state is not Sureness.LIKELY


@pytest.mark.slow
@pytest.mark.parametrize("number", [4, 29])
def test_a_sound_unit_is_read_once_round_and_found_sound(number):
    unit = hidden(number, seed="sound")
    episode = Watched(unit, "check-up")
    said = episode.follow()
    assert said.hypotheses[said.leader].id == "none"
    read = {event.at for event in episode.visit.events if hasattr(event, "at")}
    assert {element.id for element in unit.unit.elements} <= read
    assert {f"{element.id}.in:ground" for element in unit.unit.elements} <= read
    loud = (Level.REPAIR, Level.STOP_NOW)
    found = [f for o in outcomes(Evidence(unit.unit, episode.visit)) for f in o.found]
    assert not [f.code for f in found if f.level in loud]


@pytest.mark.slow
def test_once_mended_the_sound_unit_leads():
    episode = Watched(hidden(4, "S2.1:stuck-open"), "not-enough-heat")
    episode.follow()
    episode.mend({"S2"})
    said = episode.follow()
    assert said.hypotheses[said.leader].id == "none"


def test_what_reads_alike_is_told_apart_by_nothing():
    unit = hidden(17, "TL1:weak")
    assert could_be(unit.inside, "TL1:weak")
    assert not could_be(unit.inside, "E1:open")
    assert not could_be(unit.inside, "none")


def test_the_interval_of_a_share():
    assert wilson_high([True] * 17 + [False] * 3) == pytest.approx(0.948, abs=0.001)
    assert math.isclose(wilson_high([True] * 10), 1.0)


@pytest.mark.slow
@pytest.mark.parametrize("known", [True, False], ids=["printed", "nobody read"])
@pytest.mark.parametrize("number", [3, 10, 34, 37, 41])
def test_a_sound_unit_read_everywhere_raises_no_stop(number, known):
    """Wire between panel and kit, coarse meters, a few volts on what is open, parts of any make: none of it
    is a stop."""
    unit, visit = drawn_unit(number), read_everywhere(number, "1")
    if not known:
        unit = nobody_read(unit)
        read = (e for e in visit.events if getattr(e, "at", "") != "tie.wire")
        visit = replace(visit, events=tuple(read))
    of_plate = {(f.code, f.component) for f in judge(unit, Visit()).findings}
    found = judge(unit, visit).findings
    loud = [f.text for f in found if f.level is Level.STOP_NOW and (f.code, f.component) not in of_plate]
    assert not loud
