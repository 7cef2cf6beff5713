"""What a proposal is worth: bits by the minute, a minute of hazard counting more."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.judge.plan.dead import cold_readings
from plentar.core.judge.plan.live import readings_at
from plentar.core.judge.plan.planner import next_readings, worth_behind
from plentar.core.judge.plan.proposal import Proposal, worth
from plentar.core.judge.plan.readable import readable_states
from plentar.core.judge.plan.rules import every_reading
from plentar.core.judge.plan.survivors import InformationGain, survivors_of
from plentar.core.judge.weigh.posterior import posterior
from plentar.core.judgement import Hazard, Setting
from plentar.core.quantity import Quantity
from plentar.core.visit.evidence import Evidence
from plentar.store.demo.plates import plates
from tests.cases import CALL, TWO, VOLTS, amps, visit_of

A, V = Quantity.AMPS, Quantity.VOLTS


SOME = InformationGain(0.5, 1.0, 0.1)


def proposal(hazard=Hazard.CLAMP, minutes=4.0, gain=SOME):
    return Proposal(Quantity.AMPS, "E1", Setting(), gain, minutes, hazard, tuple)


@pytest.mark.parametrize(
    ("hazard", "minutes", "expected"),
    [
        # 0.5 + 0.1 · 1.0 + 4 · 0.1 = 1.0 bits over (4 + 6) minutes
        (Hazard.CLAMP, 4.0, 1.0 / 10),
        (Hazard.CLAMP, 14.0, 1.0 / 20),
        (Hazard.LIVE, 4.0, 1.0 / (10 * 1.4)),
        (Hazard.DEAD, 4.0, 1.0 / (10 * 1.5)),
    ],
)
def test_worth_is_bits_by_the_minute_of_hazard(hazard, minutes, expected):
    assert worth(proposal(hazard, minutes)) == pytest.approx(expected)


@pytest.mark.parametrize(
    ("gain", "expected"), [((1, 0, 0), 1.0), ((0, 1, 0), 0.1), ((0, 0, 1), 4.0), ((0, 0, 0), 0.0)]
)
def test_what_a_bit_counts(gain, expected):
    assert 10 * worth(proposal(gain=InformationGain(*gain))) == pytest.approx(expected)


def test_what_the_trade_reads_last_is_worth_less():
    """A coil's wire in ten turns half, a node to the frame ÷ 1.4, a limit or one leg ÷ 1.1."""
    assert worth(replace(proposal(), late=2.0)) == pytest.approx(0.1 / 2)
    said = posterior(Evidence(TWO, visit_of(VOLTS, CALL, amps(310, "C1", 22.0))))
    as_it_is = next(iter(readable_states(said, survivors_of(said))))
    asked = {(A, "S1.coil"): 2.0, (A, "R"): 2.0, (V, "E2.in:ground"): 1.4, (V, "TL1"): 1.1, (A, "C1.l2"): 1.1}
    asked |= dict.fromkeys([(A, "E2"), (A, "blower"), (V, "S1.coil"), (V, "S1.2"), (V, "C1")], 1.0)
    found = readings_at(survivors_of(said), as_it_is, list(asked))
    assert {(p.quantity, p.at): p.late for p in found} == asked


@pytest.mark.parametrize(
    ("complaint", "first"),
    [
        # The fuse, the transformer, the breaker: one reading that hurts nobody, before four minutes of proving dead.
        ("no-heat", (V, "R")),
        # What draws is told by its coil before anything else is touched.
        ("heat-will-not-stop", (V, "S1.coil")),
    ],
)
def test_a_master_reads_the_usual_first(complaint, first):
    said = posterior(Evidence(plates()[8 if complaint == "no-heat" else 4], visit_of(complaint=complaint)))
    one = next_readings(said)[0]
    assert (one.quantity, one.at) == first


def test_what_unlocks_the_best_comes_where_both_together_are_worth_most():
    """A barred 1.0 bits in 10 + 6 minutes behind ohms of 6 + 6: 1.0/28 each minute, so 0.05 goes first."""
    barred, ohms = proposal(minutes=10.0), proposal(Hazard.DEAD, minutes=6.0)
    assert worth_behind(barred, ohms) == pytest.approx(1.0 / (16 + 12))


@given(st.floats(0.01, 5), st.floats(0, 60))
def test_of_two_that_tell_the_same_the_safer_is_worth_more(bits, minutes):
    same = InformationGain(bits, bits, 0.0)
    clamp, live, dead = (worth(proposal(h, minutes, same)) for h in (Hazard.CLAMP, Hazard.LIVE, Hazard.DEAD))
    assert clamp > live > dead


def test_the_safer_reading_is_proposed_first_and_a_dearer_hazard_turns_that(monkeypatch):
    """Proposals come by worth. Were a clamp's minute as dear as twenty, probes would come first."""
    said = posterior(Evidence(TWO, visit_of(VOLTS, CALL, amps(310, "C1", 22.0))))
    every = every_reading(said, survivors_of(said))
    assert {p.hazard for p in every} == {Hazard.CLAMP, Hazard.LIVE, Hazard.DEAD}
    first = next_readings(said)
    assert first[0].hazard is Hazard.CLAMP
    assert [worth(p) for p in first] == sorted(map(worth, first), reverse=True)
    dear = {"clamp": 20.0, "live": 1.0, "dead": 1.0}
    monkeypatch.setattr("plentar.core.judge.plan.proposal.SURCHARGE", dear)
    assert next_readings(said)[0].hazard is not Hazard.CLAMP


def test_the_minutes_of_a_reading_are_those_of_its_way_and_its_state():
    """A clamp half a minute on an element and one on a switch, probes one, a pair of nodes three and a
    half, a control wire in ten turns two, a pole one and a half; on top of what the state takes. Proving dead before ohms."""
    said = posterior(Evidence(TWO, visit_of(VOLTS, CALL, amps(310, "C1", 22.0))))
    survivors = survivors_of(said)
    as_it_is = next(iter(readable_states(said, survivors)))
    assert (as_it_is.setting, as_it_is.minutes) == (Setting(), 0.0)
    pole = "C1.line.l1:C1.l1"
    asked = [(A, "E2"), (A, "S1.2"), (V, "S1.2"), (V, "E2.in:ground"), (A, "S1.coil"), (V, pole)]
    found = [p.minutes for p in readings_at(survivors, as_it_is, asked)]
    assert found == pytest.approx([0.5, 1.0, 1.0, 3.5, 2.0, 1.5])
    [ohms] = cold_readings(survivors, frozenset({("E2", False)}))
    assert (ohms.minutes, ohms.setting.power) == (pytest.approx(2.0 + 4.0), "proved-dead")
    [driven] = cold_readings(survivors, frozenset({("BR.no", True)}))
    assert (driven.minutes, driven.setting.driven) == (pytest.approx(2.0 + 4.0 + 1.0), True)
