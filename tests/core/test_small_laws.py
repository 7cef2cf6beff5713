"""Small things that much rests on: each once, by hand."""

from __future__ import annotations

import numpy as np
import pytest

from plentar.core.judge.plan.round import makes_round, sound_leads
from plentar.core.judge.shown.history import history_of
from plentar.core.judge.weigh.observation import dead_density
from plentar.core.judge.weigh.posterior import posterior
from plentar.core.quantity import Quantity
from plentar.core.safety.table import STOPS
from plentar.core.visit.evidence import Evidence
from tests.cases import CALL, TWO, VOLTS, amps, visit_of


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
