"""Dues at every point: whole scales without gaps, and silence over a healthy unit."""

from __future__ import annotations

import math
from random import Random

import pytest

from plentar.core.circuit.predict import predict
from plentar.core.door import judge, judge_reading
from plentar.core.expected import Asked
from plentar.core.expected.rules import expected_at
from plentar.core.quantity import Quantity
from plentar.core.unit.points import points, resolve
from plentar.core.visit.events import Calls, Power, Reading, Visit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import state_at
from plentar.store.demo.plates import plates
from tests.circuits import random_events, random_unit

HOMES = plates()
STATES = {
    "idle": (),
    "heat": (Calls(t_s=5, calls=frozenset({"W1", "W2"})),),
    "fan": (Calls(t_s=5, calls=frozenset({"G"})),),
    "cooling": (Calls(t_s=5, calls=frozenset({"G", "Y"})),),
    "dead": (Power(t_s=5, state="off"), Power(t_s=9, state="proved-dead")),
}


@pytest.mark.parametrize("said", sorted(STATES))
def test_ranges_cover_the_scale_without_gap_or_overlap(said):
    for unit in HOMES.values():
        evidence = Evidence(unit, Visit(events=STATES[said]))
        state = state_at(unit, STATES[said], 900)
        for point in points(unit):
            for quantity in point.quantities:
                due = expected_at(evidence, Asked(point, quantity, state))
                assert due.ranges or due.absent, (unit.id, point.name, quantity)
                if not due.ranges:
                    continue
                assert due.ranges[0].band.low == 0
                assert math.isinf(due.ranges[-1].band.high)
                for one, two in zip(due.ranges, due.ranges[1:], strict=False):
                    assert two.band.low == math.nextafter(one.band.high, math.inf), point.name
                assert all(due.steps), point.name


@pytest.mark.parametrize("said", ["idle", "heat", "fan", "cooling"])
def test_every_healthy_reading_is_judged_healthy(said):
    """The model's own readings, put into a visit at every point, raise nothing at all."""
    events = STATES[said]
    for unit in HOMES.values():
        taken = [
            Reading(t_s=900, quantity=r.quantity, at=r.at, value=r.value)
            for r in predict(unit, (), events, 900).readings
            if not r.cycling  # home 13 has no blower tie: with heat alone its limits come and go
        ]
        judgement = judge(unit, Visit(events=(*events, *taken)))
        bad = [
            (t.reading.at, str(t.reading.quantity), t.reading.value)
            for t in judgement.evidence.taken
            if judge_reading(judgement.evidence, t).verdict.good is False
        ]
        assert not bad, unit.id
        # The AC range on a DC coil is among all points; it is the one slip in them.
        assert {slip.code for slip in judgement.slips} <= {"ac-on-dc"}, unit.id
        by_plate = {f.code for f in judge(unit, Visit()).findings}
        codes = {f.code for f in judgement.findings} - by_plate
        assert not codes, unit.id


@pytest.mark.parametrize(
    ("name", "driven", "closed_is_right"),
    [
        ("S1.1", False, False),
        ("S1.1", True, True),
        ("BR.no", False, False),
        ("BR.no", True, True),
        ("BR.nc", False, True),
        ("BR.nc", True, False),
    ],
)
def test_a_contact_by_ohms_at_rest_and_driven(name, driven, closed_is_right):
    dead = (Power(t_s=5, state="proved-dead"),)
    evidence = Evidence(HOMES[2], Visit(events=dead))
    state = state_at(HOMES[2], dead, 60)
    due = expected_at(evidence, Asked(resolve(HOMES[2], name), Quantity.OHMS, state, driven=driven))
    shut, parted = due.judge(0.1), due.judge(math.inf)
    assert (shut.good, parted.good) == (closed_is_right, not closed_is_right)
    assert due.judge(40.0).good is False
    wrong = parted if closed_is_right else shut
    assert ("burnt open" if closed_is_right else "welded") in wrong.meaning
    assert ("with its coil driven" if driven else "at rest") in wrong.meaning


def test_random_states_never_crash_a_due():
    rng = Random(7)
    for _ in range(40):
        unit = random_unit(rng)
        events = random_events(rng, unit)
        t_s = rng.uniform(0, 1500)
        evidence = Evidence(unit, Visit(events=events))
        state = state_at(unit, events, t_s)
        for point in points(unit):
            for quantity in point.quantities:
                due = expected_at(evidence, Asked(point, quantity, state))
                due.judge(rng.uniform(0, 300))
                assert str(due.text()) is not None


def test_volts_while_a_stage_is_on_its_way_are_not_held_against_anybody():
    unit, events = HOMES[2], STATES["heat"]
    evidence = Evidence(unit, Visit(events=events))
    for t_s, open_is_bad in [(20, None), (60, None), (120, False)]:
        point, state = resolve(unit, "S1.2"), state_at(unit, events, t_s)
        due = expected_at(evidence, Asked(point, Quantity.VOLTS, state))
        assert due.judge(239).good is open_is_bad
