"""Small things that much rests on: each once, by hand."""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest

from plentar.core.judge.plan.often import _jumper_tells
from plentar.core.judge.plan.round import makes_round, round_readings, sound_leads
from plentar.core.judge.plan.rules import _patience
from plentar.core.judge.plan.survivors import survivors_of
from plentar.core.judge.shown.history import history_of
from plentar.core.judge.weigh.likelihood import as_weighed
from plentar.core.judge.weigh.observation import dead_density
from plentar.core.judge.weigh.posterior import posterior
from plentar.core.quantity import Quantity
from plentar.core.safety.ends import _clear_of_frame
from plentar.core.safety.table import STOPS
from plentar.core.unit.points import resolve
from plentar.core.visit.events import Reading
from plentar.core.visit.evidence import Evidence
from tests.cases import CALL, DEAD, TWO, VOLTS, amps, visit_of


def said(*events, complaint="check-up"):
    return posterior(Evidence(TWO, visit_of(*events, complaint=complaint)))


def test_a_sound_unit_leads_until_a_strip_is_dead():
    assert sound_leads(said(VOLTS, CALL, amps(310, "E1", 20.4)))
    dead = said(VOLTS, CALL, amps(310, "E1", 20.4), amps(320, "E2", 0.0), complaint="not-enough-heat")
    assert dead.hypotheses[dead.leader].id < "none", "the ids of parts come before it in order"
    assert not sound_leads(dead)


def test_a_round_is_made_while_all_fits_a_sound_unit_and_no_longer():
    assert makes_round(said(VOLTS, CALL, amps(310, "E1", 20.4)))
    assert not makes_round(said(VOLTS, CALL, amps(310, "E1", 0.0)))
    assert not makes_round(said(VOLTS, CALL, amps(310, "E1", 20.4), complaint="no-heat"))


def test_time_counts_from_the_first_switch_and_from_nothing_without_one():
    assert history_of(TWO, ()).time(5.0) == 5.0
    assert history_of(TWO, visit_of(CALL).events).time(65.0) == 60.0


@pytest.mark.parametrize(
    ("ohms", "sounds"), [(0.0, 1.0), (30.0, 1.0), (31.0, 0.5), (49.0, 0.5), (50.0, 0.0), (1e6, 0.0)]
)
def test_a_tone_sounds_up_to_thirty_ohms_and_is_silent_from_fifty(ohms, sounds):
    band = np.array([ohms])
    assert dead_density(Quantity.TONE, 1.0, band, band)[0] == sounds
    assert dead_density(Quantity.TONE, 0.0, band, band)[0] == 1.0 - sounds


def test_what_stands_by_the_plate_alone_goes_with_it():
    """Stops of the plate, of its load and of the relay bench end where they are worked out anew; all else is kept up."""
    assert {str(code) for code, rule in STOPS.items() if not rule.latched} == {
        "conductor-under-load",
        "breaker-over-conductor",
        "breaker-over-plate",
        "no-blower-tie",
        "run-on-short",
        "relay-wiring",
    }


@pytest.mark.parametrize(("at", "volts", "weighed"), [("C1", 5.0, 0.0), ("C1", 5.1, 5.1), ("S1.1", 3.0, 3.0)])
def test_up_to_five_volts_of_a_feed_are_as_good_as_none_and_across_a_switch_they_may_be_a_joint(
    at, volts, weighed
):
    reading = Reading(t_s=1.0, quantity=Quantity.VOLTS, at=at, value=volts)
    assert as_weighed(resolve(TWO, at), reading) == weighed


@pytest.mark.parametrize(
    ("at", "ohms", "clear"),
    [("E1.in:ground", 900_000.0, False), ("E1.in:ground", 2e6, True), ("E2.in:ground", 2e6, False)],
)
def test_a_strip_on_the_frame_is_cleared_by_a_million_ohms_at_itself_and_no_less(at, ohms, clear):
    evidence = Evidence(TWO, visit_of(VOLTS, *DEAD, {"t": 700, "read": "ohms", "at": at, "value": ohms}))
    tried = SimpleNamespace(stop=SimpleNamespace(component=resolve(TWO, "E1.in:ground").component))
    assert _clear_of_frame(tried, evidence.taken[-1]) is clear


def test_patience_wears_from_the_sixth_reading_on_and_six_times_later_with_two_faults():
    def patience(readings, faults):
        leads = SimpleNamespace(faults=(None,) * faults)
        return _patience(SimpleNamespace(hypotheses=[leads], leader=0, items=[None] * readings))

    assert [patience(n, 1) for n in (0, 5, 10)] == [1.0, 1.0, 4.0]
    assert patience(10, 0) == 4.0, "a sound unit has no fault, and no more patience than one"
    assert [patience(n, 2) for n in (30, 60)] == [1.0, 4.0]


@pytest.mark.parametrize(
    ("mode", "chance", "tells"), [("no-call", 0.5, True), ("no-call", 0.01, False), ("open", 0.5, False)]
)
def test_a_jumper_tells_while_a_thermostat_s_wire_is_suspected(mode, chance, tells):
    suspect = SimpleNamespace(faults=(SimpleNamespace(mode=mode),))
    posterior_ = SimpleNamespace(hypotheses=[suspect], probabilities=[chance, 1 - chance])
    assert _jumper_tells(posterior_) is tells


def test_a_round_ends_with_the_capacitor_and_reads_it_once():
    unit = replace(TWO, blower=replace(TWO.blower, capacitor_uf=10.0))

    def asked(*events):
        answer = posterior(Evidence(unit, visit_of(*events, complaint="check-up")))
        return [p.at for p in round_readings(answer, survivors_of(answer)) if p.quantity is Quantity.UF]

    assert asked(VOLTS) == ["capacitor"]
    assert asked(VOLTS, *DEAD, {"t": 700, "read": "uf", "at": "capacitor", "value": 10.1}) == []
