"""Wires put on terminals: what lies right changes nothing, what lies wrong does what another program says it does."""

from __future__ import annotations

from itertools import product
from random import Random

import pytest

from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.relay_bench.proof import Wrong
from plentar.core.unit.unit import Unit
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.practice.bench import Bench
from plentar.practice.scene import Scene
from plentar.practice.transfer import Transfer, transfer
from plentar.stand_ins.wider.clock import Standing
from plentar.stand_ins.wider.plates import plate
from plentar.stand_ins.wider.specimen import Plate, filled
from plentar.stand_ins.wider.world import HiddenUnit
from plentar.store.demo.plates import plates
from tests.practice.test_practice import codes

A, V = Quantity.AMPS, Quantity.VOLTS
CALLS = ((), ("G",), ("W1",), ("G", "W1"), ("G", "W1", "W2"))
HOME = filled(unit_to_json(plates()[9]))


def units() -> list[tuple[Plate, Unit]]:
    every = [filled(unit_to_json(unit)) for unit in plates().values()] + [filled(plate(n)) for n in range(12)]
    return [(one, UnitJson.model_validate(dict(one)).to_core()) for one in every]


def right(moved: Transfer) -> dict[str, str]:
    return {wire.id: wire.terminal for wire in moved.wires}


def standing(unit: Unit, hidden: HiddenUnit, calls: tuple[str, ...]) -> Standing:
    return hidden.at([{"t": 0.0, "calls": [call for call in calls if call in unit.calls]}], 240.0)


@pytest.mark.slow
def test_wires_where_they_belong_change_nothing() -> None:
    kinds = set()
    for one, unit in units():
        plain = HiddenUnit(one, (), "ash")
        for device in unit.device_by_id:
            moved = transfer(unit, one, device, "ash")
            on = right(moved)
            moved.check(on)
            assert (moved.wrong(on), moved.wrongs(on)) == ([], [])
            kinds.add(moved.kind.name)
            landed = HiddenUnit(one, (), "ash", landings=[moved.landing(on)])
            for calls in CALLS[:4]:
                was, now = standing(unit, plain, calls), standing(unit, landed, calls)
                assert (now.closed, now.air) == (was.closed, was.air), (one["id"], device, calls)
                for element in one["elements"]:
                    amps = abs(was.solved.amp(element["id"]))
                    assert abs(now.solved.amp(element["id"])) == pytest.approx(amps, rel=0.005, abs=0.01)
    assert len(kinds) >= 10, kinds


@pytest.mark.slow
def test_wires_astray_do_what_the_relay_bench_says() -> None:
    """The proof runs every position of a circuit of its own; the simulated unit is switched on. A dead short there
    opens a breaker here, what burns here is told there, and where nothing is wrong nothing happens."""
    dice, seen = Random(11), set()
    for (one, unit), _ in product(units()[::2], range(3)):
        for device in unit.device_by_id:
            moved = transfer(unit, one, device, "ash")
            on = right(moved)
            first, second = dice.sample(sorted(on), 2)
            on[first], on[second] = on[second], on[first]
            wrongs = set(moved.wrongs(on))
            landed = HiddenUnit(one, (), "ash", landings=[moved.landing(on)])
            after = [standing(unit, landed, calls) for calls in CALLS]
            tripped, burnt = any(now.tripped for now in after), any(now.burnt for now in after)
            where = one["id"], device, on, wrongs
            if Wrong.SHORT in wrongs:
                assert tripped, where
            if tripped or burnt:
                assert wrongs & {Wrong.SHORT, Wrong.LINE_ON_COIL}, where
            if wrongs:
                assert moved.wrong(on), where
            seen |= {*wrongs, "tripped" if tripped else "burnt" if burnt else "neither"}
    assert {"tripped", "burnt", "neither", Wrong.LINE_ON_COIL, Wrong.NO_BLOWER_ON_G} <= seen


def mended(**astray: str) -> Bench:
    """Home 9's blower relay replaced, proved dead, some of its wires elsewhere than they belong."""
    bench = Bench(Scene(HOME, ("BR:no-stuck-open",), "kiln", "blower-will-not-run"))
    bench = bench.power("off").power("proved-dead")
    moved = bench.transfer_to("BR", marked=True)
    by_end = {wire.to: wire.id for wire in moved.wires}
    on = right(moved) | {by_end[end.replace("_", "-")]: at for end, at in astray.items()}
    return bench.replace("BR", on=on)


def test_common_and_closed_contact_exchanged_bring_heat_with_the_fans_call() -> None:
    """Common to the heat's side, NC to the motor, L1 on NO: G joins L1 to the heat's side, behind the sequencer, and
    lets go of the motor. On W1 alone the motor runs."""
    bench = mended(blower="NC", heat="COM")
    assert [wire.to for _, wire, _ in bench.astray] == ["heat", "blower"]
    proved = bench.prove("BR")
    assert {str(Wrong.NO_BLOWER_ON_G), str(Wrong.HEAT_WITH_G)} <= set(proved.acts[-1]["wrong"])
    alone = proved.power("on").call("G").wait(60)
    assert "still" in alone.seen
    assert codes(alone) == ["heat-alone"]
    assert "air" in proved.power("on").call("W1").wait(40).seen
    moved = proved.move("BR", right(proved.transfer_of("BR")))
    assert (moved.astray, moved.now_s - proved.now_s) == ([], 120.0), "two wires, a minute each"
    assert moved.prove("BR").acts[-1]["wrong"] == []
    assert "air" in moved.power("on").call("G").wait(10).seen


def test_line_on_the_coil_burns_it_and_l1_on_c_opens_the_breaker() -> None:
    burnt = mended(G="NO", L1="A").power("on").call("G").wait(60)
    assert "line-on-24" in codes(burnt)
    assert burnt.left == ("BR:coil-open",), "it was replaced, and is burnt now"
    dead = burnt.call("G").power("off").power("proved-dead")
    again = dead.replace("BR", on=right(dead.transfer_to("BR", marked=True)))
    assert (again.left, again.astray) == ((), [])
    short = mended(C="NO").power("on")
    assert codes(short) == ["short"]
    assert short.measure("C1", V).acts[-1]["value"] < 60, "the breaker is open, whatever the record says"


def test_a_wire_is_not_forgotten_and_a_terminal_holds_what_it_holds() -> None:
    bench = mended()
    on = right(bench.transfer_of("BR"))
    with pytest.raises(BadInput, match="every wire"):
        bench.move("BR", dict(list(on.items())[1:]))
    with pytest.raises(BadInput, match="More wires than COM takes: 2"):
        bench.move("BR", dict.fromkeys(on, "COM"))
    with pytest.raises(BadInput, match="no such terminal"):
        bench.move("BR", on | {"w1": "Z9"})
    with pytest.raises(BadInput):
        bench.move("S1", on)
    assert codes(bench.power("on").prove("BR")) == ["hands-live"]
    left_off = bench.move("BR", on | {"w3": ""})
    assert "still" in left_off.power("on").call("G").wait(10).seen


def test_a_lost_wire_is_missed_by_the_proof_until_it_is_put_back() -> None:
    """The tie's wire is none of those in hand: without it no heat brings the blower; put back, all is right."""
    every = [Bench(Scene(HOME, ("BR:no-stuck-open",), str(n), "blower-will-not-run")) for n in range(12)]
    dead = [bench.power("off").power("proved-dead") for bench in every]
    loses = next(bench for bench in dead if bench.transfer_to("BR", marked=False).gone)
    bench = loses.replace("BR", marked=False, on=right(loses.transfer_to("BR", marked=False)))
    assert bench.left == bench.lost == ("tie.wire:open",)
    assert str(Wrong.NO_BLOWER_ON_HEAT) in bench.prove("BR").acts[-1]["wrong"]
    back = bench.replace("tie.wire").prove("BR")
    assert (back.left, back.astray, back.acts[-1]["wrong"]) == ((), [], [])


def test_a_clamp_that_was_left_on_times_what_a_sequencer_does() -> None:
    """Its strip comes on inside 1–20 s of the call, and goes off inside the off window of the end of it."""
    bench = Bench(Scene(HOME, (), "kiln", "check-up")).clamp("E1").call("G")
    called_s = bench.now_s
    on = bench.call("W1").wait(60)
    seen = [act for act in on.acts if "observe" in act]
    assert [(act["observe"], act["part"]) for act in seen] == [("on", "S1.1")]
    assert 0 <= seen[0]["t"] - called_s <= 24
    off = on.call("W1").wait(180)
    ended = next(act for act in reversed(off.acts) if act.get("observe") == "off")
    assert ended["part"] == "S1.1"
    assert 0 <= ended["t"] - on.now_s <= 130
    assert not [
        act for act in off.clamp("E1").call("W1").wait(60).acts[len(off.acts) + 1 :] if "observe" in act
    ]
    assert not [act for act in Bench(off.scene).clamp("E1").wait(60).acts if "observe" in act]
