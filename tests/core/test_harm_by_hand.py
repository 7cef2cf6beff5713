"""What a setting would do under a fault, what a fault is complained of as, and how a stop is made safe."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.circuit.faults import find_faults
from plentar.core.judge.shown.complaints import complaints_by_hypothesis
from plentar.core.judge.shown.workspace import workspace_of
from plentar.core.judgement import Finding, FindingCode, Level, Setting
from plentar.core.safety.acts import LICENSED, QUALIFIED, make_safe
from plentar.core.safety.harm import harm_of_setting, ran_without_air
from plentar.core.unit.parts import Interlock
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence
from tests.cases import TWO, visit_of

W1, G, BOTH = frozenset({"W1"}), frozenset({"G"}), frozenset({"G", "W1"})
UNTIED = replace(TWO, blower=replace(TWO.blower, interlock=Interlock("none")))
UNFUSED = replace(TWO, control_power=replace(TWO.control_power, fuse_amps=None))
ALONE = "an element would draw without the blower"
FUSE = "the control fuse would blow"
RELAY = "element current would flow through the blower relay"


def heat(calls=W1, after_s=100.0, **more):
    return Setting(calls=calls, after_s=after_s, **more)


@pytest.mark.parametrize(
    ("setting", "faults", "harm"),
    [
        (heat(), [], ""),
        (heat(G), [], ""),
        (heat(BOTH), [], ""),
        (heat(), ["S1.2:stuck-open"], ""),
        # No blower: off, locked, or its tie burnt open; with the fan called it runs by its own relay.
        (heat(), ["blower:open"], ALONE),
        (heat(), ["blower:locked"], ALONE),
        (heat(), ["BR:nc-stuck-open"], ALONE),
        (heat(BOTH), ["BR:nc-stuck-open"], ""),
        (heat(BOTH), ["blower:open"], ALONE),
        # The switch that feeds the tie stays open: the second strip would be alone.
        (heat(), ["S1.1:stuck-open"], ALONE),
        # A short on the control side, behind the call that is made or that stands.
        (heat(), ["W1:to-ground"], FUSE),
        (heat(G), ["G:to-ground"], FUSE),
        (heat(G), ["W1:to-ground"], ""),
        (heat(), ["S1:coil-shorted"], FUSE),
        # The set that is welded ties the strip to the fan.
        (heat(G), ["BR:nc-welded"], RELAY),
        # The frame: as soon as a rung closes or a breaker does, not by the fan alone.
        (heat(), ["E1:grounded"], "the cabinet may become live"),
        (Setting(power=ON), ["E1:grounded"], "the cabinet may become live"),
        # Nothing is brought about by what cuts off, or by reading as it stands.
        (Setting(power="proved-dead"), ["E1:grounded"], ""),
        (Setting(), ["blower:open"], ""),
        (
            Setting(driven=True),
            ["S1:coil-shorted"],
            "the bench supply would drive a shorted coil: read its ohms first",
        ),
        (Setting(driven=True), ["S1:coil-open"], ""),
    ],
)
def test_what_a_setting_would_do(setting, faults, harm):
    assert harm_of_setting(TWO, (), 0.0, setting, find_faults(TWO, faults)) == harm


def test_an_element_may_draw_alone_for_ten_seconds_and_not_longer():
    """Untied, the heat called for ever so short a while leaves it alone until the switch lets go."""
    assert harm_of_setting(UNTIED, (), 0.0, heat(), ()) == ALONE
    assert harm_of_setting(UNTIED, (), 0.0, heat(BOTH), ()) == ""


def test_a_transformer_without_a_fuse_carries_the_short_itself():
    faults = find_faults(UNFUSED, ["W1:to-ground"])
    harm = harm_of_setting(UNFUSED, (), 0.0, heat(), faults)
    assert harm == "the transformer, which has no fuse, would carry a short"


def test_what_stood_so_before_no_setting_brings_about():
    """Drawing without the blower already: going on in it is no new harm, and the fan is none."""
    events = visit_of({"t": 5, "calls": ["W1"]}).events
    faults = find_faults(UNTIED, [])
    assert harm_of_setting(UNTIED, events, 400.0, Setting(after_s=500.0), faults) == ""
    assert harm_of_setting(UNTIED, events, 400.0, heat(BOTH), faults) == ""


def test_when_an_element_last_drew_alone():
    """W1 from 5 s on: S1.1 closes at its window's middle, 10.5 s later, and draws until asked."""
    events = visit_of({"t": 5, "calls": ["W1"]}).events
    assert ran_without_air(UNTIED, events, 10.0, ()) is None
    assert ran_without_air(UNTIED, events, 300.0, ()) == 300.0
    assert ran_without_air(TWO, events, 300.0, ()) is None
    ended = visit_of({"t": 5, "calls": ["W1"]}, {"t": 100, "calls": []}).events
    # E1's limit has opened by then, 108 s after it got hot: the last to draw is E2, until S1.2 lets go.
    off_s = TWO.switch_by_id["S1.2"].off_s
    last_s = ran_without_air(UNTIED, ended, 900.0, ())
    assert last_s == pytest.approx(100 + (off_s.low + off_s.high) / 2)


# --- complaints -------------------------------------------------------------------------------

ALL_HEAT = {"no-heat", "not-enough-heat"}


@pytest.mark.parametrize(
    ("fault", "complaints"),
    [
        ("none", set()),
        ("E2:open", {"not-enough-heat"}),
        ("E1:low-resistance", set()),
        ("S1:coil-open", {*ALL_HEAT, "blower-will-not-run"}),
        ("S1.1:burnt", {"breaker-trips-or-burnt"}),
        ("C1:loose", {"breaker-trips-or-burnt"}),
        ("C1:no-supply", {*ALL_HEAT, "no-power", "blower-will-not-run"}),
        ("control-fuse:open", {*ALL_HEAT, "no-power", "blower-will-not-run"}),
        ("W1:to-ground", {*ALL_HEAT, "control-fuse-blows", "blower-will-not-run"}),
        ("W1:always", {"heat-will-not-stop", "heat-in-cooling", "blower-will-not-stop"}),
        ("S1.2:stuck-closed", {"heat-will-not-stop", "heat-in-cooling", "clicking"}),
        # One that takes longer than a quarter of an hour gives no heat, and the blower hangs on it.
        (
            "S1:slow",
            {*ALL_HEAT, "blower-will-not-run", "slow-to-start", "heat-will-not-stop", "blower-will-not-stop"},
        ),
        ("airflow:low", {"clicking", "not-enough-heat"}),
        ("blower:open", {"blower-will-not-run", "clicking", "not-enough-heat"}),
        ("BR:no-welded", {"blower-will-not-stop"}),
        ("BR:no-stuck-open", {"blower-will-not-run"}),
        ("BR:nc-welded", {"heat-in-cooling"}),
        ("TL1:weak", {"clicking", "not-enough-heat"}),
        ("transformer:weak", {"not-enough-heat", "slow-to-start", "blower-will-not-run"}),
    ],
)
def test_what_a_fault_is_complained_of_as(fault, complaints):
    workspace = workspace_of(TWO)
    assert complaints_by_hypothesis(workspace)[workspace.by_id[fault]] == complaints


# --- acts -------------------------------------------------------------------------------------


def stop(code, component="E1"):
    return Finding(code, Level.STOP_NOW, component, "")


def asked(*events, t=400.0):
    """How a stop is made safe as these events have left the unit."""
    evidence = Evidence(TWO, visit_of(*events))
    return lambda found: make_safe(evidence, evidence.state_at(t), found)


HEATING = {"t": 5, "calls": ["W1"]}
WITH_FAN = {"t": 5, "calls": ["W1", "G"]}


def test_heat_without_air_ends_the_heat_and_opens_the_breaker_for_amps_that_stay():
    safe = asked(WITH_FAN)(stop(FindingCode.HEAT_WITHOUT_BLOWER, "blower"))
    assert safe.acts == (
        "End the call: W1. Keep G called for two minutes.",
        "If amps stay after 10 s, open the elements’ breaker; lock and tag it.",
    )
    assert (safe.ends, safe.opens, safe.who) == ({"W1"}, (), QUALIFIED)
    ended = {"t": 100, "calls": []}
    stays = {"t": 111, "read": "amps", "at": "E1", "value": 20.5}
    after = stop(FindingCode.HEAT_WITHOUT_BLOWER, "blower")
    assert asked(HEATING, ended, stays)(after).opens == ("C1",)
    assert not asked(HEATING, ended, {**stays, "value": 0.0})(after).opens
    assert not asked(HEATING, ended, {**stays, "t": 109})(after).opens, "it may still drop out"


def test_a_joint_opens_its_breaker_first():
    safe = asked(HEATING)(stop(FindingCode.JOINT_HEAT, "S1.1"))
    assert safe.acts == ("Open the breaker of circuit C1; lock and tag it.",)
    assert (safe.ends, safe.opens) == (frozenset(), ("C1",))


def test_what_is_off_by_the_record_is_left_so():
    safe = asked({"t": 5, "power": "off"})(stop(FindingCode.ELEMENT_TO_GROUND))
    assert (safe.acts, safe.opens, safe.ends) == (("Already done, as logged. Leave it so.",), (), frozenset())
    assert asked()(stop(FindingCode.ELEMENT_TO_GROUND)).acts == (
        "Open the breaker of circuit C1; lock and tag it.",
    )


def test_the_plate_alone_opens_no_breaker():
    safe = asked()(stop(FindingCode.NO_BLOWER_TIE, "blower"))
    assert safe.acts == ("Call heat only with G. Heat ends first, G two minutes later.",)
    assert safe.opens == ()


def test_an_overload_ends_every_call_and_a_breaker_is_an_electricians():
    overload = stop(FindingCode.CONTROL_OVERLOAD, "transformer")
    assert asked({"t": 5, "calls": ["G"]})(overload).acts == ("End the call: G.",)
    assert asked(WITH_FAN)(overload).ends == {"G", "W1"}
    assert asked()(stop(FindingCode.BREAKER_OVER_CONDUCTOR, "C1")).who == LICENSED
