"""The states that a unit can be brought into for a reading, what that takes, and what reads alike there."""

from __future__ import annotations

import numpy as np
import pytest

from plentar.core.judge.plan.readable import needs_air, readable_states
from plentar.core.judge.plan.survivors import outcomes_of, survivors_of
from plentar.core.judge.weigh.posterior import posterior
from plentar.core.visit.evidence import Evidence
from tests.cases import CALL, DEAD, TWO, VOLTS, amps, visit_of
from tests.core.test_survivors import survivors

OFF = {"t": 400, "calls": []}
RUNS = amps(310, "blower", 2.2)
JUMPER = {"t": 5, "calls": ["W1"], "lifted": True}


def states(*events):
    """Power, calls, by jumper, waiting since the last change, s, afresh, and minutes."""
    said = posterior(Evidence(TWO, visit_of(*events, complaint="not-enough-heat")))
    for one in readable_states(said, survivors_of(said)):
        s = one.setting
        calls = None if s.calls is None else "+".join(sorted(s.calls))
        yield s.power, calls, s.lifted, s.after_s, s.fresh, round(one.minutes, 3)


@pytest.mark.parametrize(
    ("events", "expected"),
    [
        # Every stage is on by 95 s, off by 115 s, and what draws in the minute after that is no evidence; a call takes 0.3 min, a jumper two more, power one.
        # The blower was not seen to run on heat alone: heat is called with the fan.
        (
            [VOLTS],
            [
                (None, None, None, None, False, 0.0),
                (None, "G+W1", None, 95, False, 1.883),
                (None, "G+W1", True, 95, False, 3.883),
                (None, "G", None, 5, False, 0.383),
            ],
        ),
        # 60 s into the call: 35 s until the windows are over; the fan alone is the end of the heat.
        (
            [VOLTS, CALL, amps(45, "C1", 22.5)],
            [
                (None, None, None, 95, False, 0.583),
                (None, "G+W1", None, 95, False, 1.883),
                (None, "G", None, 175, False, 3.217),
                (None, "G+W1", True, 95, False, 3.883),
            ],
        ),
        # It was seen: heat alone, afresh too, (115 + 95) s and two calls; a quarter of an hour of it.
        (
            [VOLTS, CALL, RUNS],
            [
                (None, None, None, None, False, 0.0),
                (None, "W1", None, 95, True, 4.1),
                (None, None, None, 900, False, 9.593),
                (None, "", None, 175, False, 3.217),
                (None, "W1", True, 95, False, 3.883),
            ],
        ),
        (
            # 120 s after the end of the heat: 55 are left.
            [VOLTS, CALL, RUNS, OFF, amps(500, "E1", 0.0)],
            [
                (None, None, None, 175, False, 0.917),
                (None, "W1", None, 95, False, 1.883),
                (None, "W1", True, 95, False, 3.883),
                (None, "G", None, 5, False, 0.383),
            ],
        ),
        # Proved dead, nothing is read live as it is; power comes first.
        (
            [VOLTS, *DEAD],
            [
                ("on", "G+W1", None, 95, False, 2.883),
                ("on", "G+W1", True, 95, False, 4.883),
                ("on", "G", None, 5, False, 1.383),
            ],
        ),
        # Wires that are lifted go back by an act of their own; just landed, all of 95 s are to wait.
        ([VOLTS, JUMPER], [(None, None, None, 95, False, 1.583), (None, "G+W1", True, 95, False, 3.883)]),
    ],
)
def test_how_to_get_there_and_what_it_takes(events, expected):
    assert list(states(*events)) == expected


@pytest.mark.parametrize(
    ("events", "needed"),
    [
        ([], True),
        ([CALL, RUNS], False),
        ([CALL, amps(310, "blower", 0.1)], True),
        ([{"t": 5, "calls": ["G"]}, amps(60, "blower", 2.2)], True),
        ([{"t": 5, "calls": ["G", "W1"]}, amps(310, "blower", 2.2)], True),
        ([CALL, {"t": 40, "observe": "on", "part": "blower"}], False),
        ([CALL, {"t": 40, "observe": "off", "part": "blower"}], True),
        ([{"t": 5, "calls": ["G"]}, {"t": 40, "observe": "on", "part": "blower"}], True),
    ],
)
def test_until_the_blower_was_seen_on_heat_alone_the_fan_is_called(events, needed):
    assert needs_air(Evidence(TWO, visit_of(*events))) is needed


def test_readings_that_can_not_be_told_apart_are_one_outcome():
    """Two scales either way: 18 to 20 and 20.3 to 22 meet at ±0.2; 0 stands alone, and nothing is below."""
    field = survivors([0.5, 0.3, 0.2], [0, 1, 0])
    ends = [np.array([18.0, 20.3, 0.0]), np.array([20.0, 22.0, 0.05]), np.array([0.1, 0.1, 0.1])]
    found = outcomes_of(field, *ends, np.array([1.0, 1.0, 1.0]), np.array([0, 1, 2]))
    assert [(o.low, o.high) for o in found] == [
        (0.0, pytest.approx(0.25)),
        (pytest.approx(17.8), pytest.approx(22.2)),
    ]
    assert [o.probability for o in found] == pytest.approx([0.2, 0.8])
    assert found[1].decisions == (("0", pytest.approx(0.625)), ("1", pytest.approx(0.375)))
    assert found[0].decisions == (("0", 1.0),)


def rests(events, complaint):
    """How long after the end of heat the next reading has to wait, nothing else being switched, s."""
    said = posterior(Evidence(TWO, visit_of(*events, complaint=complaint)))
    return next(readable_states(said, survivors_of(said))).setting.after_s


def test_a_weld_is_sought_once_it_would_count_and_a_sound_unit_is_not_kept_waiting():
    """A current typed in the minute after the 115 s may have been seen before they were over; 0 A counts at once."""
    good = [VOLTS, CALL, RUNS, amps(320, "E1", 20.8), amps(330, "E2", 20.8), OFF]
    assert rests(good, "check-up") == 115
    assert rests(good, "heat-will-not-stop") == 175
    early = amps(530, "E1", 20.8)
    assert not Evidence(TWO, visit_of(*good, early)).taken[-1].counts
    assert rests([*good, early], "check-up") == 175
    assert Evidence(TWO, visit_of(*good, amps(576, "E1", 20.8))).taken[-1].counts
