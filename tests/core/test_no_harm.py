"""Following the judge does no harm, watched by somebody who sees into the unit."""

from __future__ import annotations

from random import Random

import pytest

from benchmarks.safety import watched
from plentar.core.circuit.faults import find_faults
from plentar.core.circuit.model import model_at
from plentar.core.door import judge
from plentar.core.judgement import Level
from plentar.core.quantity import Quantity
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.visit.events import Calls, Power, Reading, Visit
from plentar.core.visit.evidence import Evidence
from plentar.stand_ins.onlooker import harm_in
from plentar.store.demo.plates import plates
from tests.cases import TWO
from tests.circuits import random_unit

LOW_RANGE_V = 0.02
HOMES = plates()


@pytest.mark.slow
def test_episodes_of_dangerous_faults_do_no_harm():
    """Some of the six hundred of ``plentar bench safety``."""
    found = watched(range(6))
    assert sum(one.steps for one in found) > 20
    assert [one for one in found if one.harm] == []


def test_the_onlooker_sees_harm_where_it_is_done():
    """It must be able to say no: heat without the blower, a blown fuse, a frame, a short cycle."""
    heat = (Calls(t_s=5, calls=frozenset({"W1"})),)
    burnt = find_faults(TWO, ["BR:nc-stuck-open"])
    assert "without the blower" in harm_in(TWO, burnt, heat, 5, 200)
    assert harm_in(TWO, (), heat, 5, 200) == ""
    shorted = find_faults(TWO, ["S1:coil-shorted"])
    assert "fuse" in harm_in(TWO, shorted, heat, 5, 60)
    on = (Power(t_s=1, state="off"), Power(t_s=50, state="on"))
    assert "frame" in harm_in(TWO, find_faults(TWO, ["E1:grounded"]), on, 50, 60)
    cooling = tuple(Calls(t_s=t, calls=frozenset(calls)) for t, calls in ((1, {"Y"}), (60, ()), (90, {"Y"})))
    assert "twice" in harm_in(TWO, (), cooling, 90, 100)


def edge_visit(unit, rng: Random) -> Visit:
    """A sound unit read with a meter that is as far off as it may be, either way."""
    fan = {unit.fan_call} if unit.fan_call else set()
    events: list = [Calls(t_s=60, calls=frozenset(unit.heat_calls | fan))]
    moments = [(20.0, ("circuit",)), (400.0, ("circuit", "element", "blower", "switch", "feed"))]
    readings = []
    for t_s, kinds in moments:
        shown = model_at(unit, events, t_s)
        for read in shown.readings:
            kind = (
                Evidence(unit, Visit())
                .take(Reading(t_s=0, quantity=read.quantity, at=read.at, value=1.0))
                .point.kind
            )
            if kind in kinds and read.quantity in (Quantity.AMPS, Quantity.VOLTS):
                # A few tenths of a volt are read on the meter's low range.
                low_range = read.quantity is Quantity.VOLTS and read.value < 3
                error = LOW_RANGE_V if low_range else ACCURACY[read.quantity].error(read.value)
                value = max(0.0, read.value + rng.choice((-0.95, 0.95)) * error)
                readings.append(Reading(t_s=t_s, quantity=read.quantity, at=read.at, value=value))
    return Visit(events=tuple(sorted([*events, *readings], key=lambda e: e.t_s)))


#: What the plate alone says of some units is true of them however well they read.
BY_PLATE = frozenset(
    {
        "no-blower-tie",
        "run-on-short",
        "breaker-over-plate",
        "breaker-over-conductor",
        "breaker-under-load",
        "conductor-under-load",
        "elements-over-48",
        "over-80-percent",
        "voltage-drop",
    }
)


@pytest.mark.parametrize("seed", range(140))
@pytest.mark.slow
def test_no_sound_unit_gets_a_finding_above_watch(seed: int):
    rng = Random(seed)
    unit = HOMES[rng.choice(sorted(HOMES))] if seed % 4 == 0 else random_unit(rng)
    found = judge(unit, edge_visit(unit, rng)).findings
    bad = [f for f in found if f.level in (Level.REPAIR, Level.STOP_NOW) and f.code not in BY_PLATE]
    assert not bad, (unit.id, [(f.code, f.component, f.text) for f in bad])
