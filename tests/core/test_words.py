"""What the judge says: every fault in words, every reason from the visit's own readings."""

from __future__ import annotations

import re

import pytest

from plentar.core.door import faults_in_words
from plentar.core.judge.diagnosis import chance_in_words, diagnose, reads_in_words
from plentar.core.judgement import Meaning
from plentar.core.quantity import Quantity
from plentar.core.visit.evidence import Evidence
from plentar.store.demo.plates import plates
from tests.cases import CALL, TWO, VOLTS, amps, visit_of
from tests.kits import Kit, build_kit

UNITS = [*plates().values(), build_kit(Kit((5000.0,) * 4, 240, "relays-dc", 2), "four", "")]


@pytest.mark.parametrize("unit", UNITS, ids=lambda unit: unit.id)
def test_every_fault_has_words_of_its_own(unit):
    told = faults_in_words(unit)
    assert len({words for _, words in told}) == len(told), "two faults are called the same"
    for fault, words in told:
        assert words == words.strip() and not words.endswith("."), fault
        assert not re.search(r"[_{}<>]|None|\bnan\b", str(words)), words


def reasons(*events: dict) -> dict[str, tuple[str, ...]]:
    diagnosis = diagnose(Evidence(TWO, visit_of(*events, complaint="not-enough-heat")))
    return {suspect.fault: suspect.because for suspect in diagnosis.suspects}


def test_a_reason_names_the_point_the_reading_and_what_was_due():
    because = reasons(VOLTS, CALL, amps(310, "E1", 20.5), amps(320, "E2", 0.0))
    (reason,) = [r for r in because["E2:open"] if "at element E2" in r]
    assert reason.startswith("0 A at element E2"), reason
    assert "with no fault" in reason
    assert "20" in reason, "what a sound element draws stands beside it"


def test_without_a_reading_nobody_gives_a_reason():
    assert not any(reasons().values())


def test_reasons_speak_of_nothing_that_was_not_read():
    because = reasons(VOLTS, CALL, amps(310, "E1", 20.5), amps(320, "E2", 0.0))
    spoken = " ".join(str(reason) for some in because.values() for reason in some)
    for point in ("sequencer", "limit", "fusible link", "blower", "transformer"):
        assert f" at {point}" not in spoken


@pytest.mark.parametrize(
    ("low", "high", "quantity", "said"),
    [
        (0.0, 0.23, Quantity.VOLTS, ("about 0 V",)),
        (0.0, 60.0, Quantity.VOLTS, ("up to 60.0 V",)),
        (233.0, 245.0, Quantity.VOLTS, ("233–245 V",)),
    ],
)
def test_outcomes_are_said_as_a_meter_shows_them(low, high, quantity, said):
    words = reads_in_words(Meaning(low, high, "", 0.5), quantity)
    assert all(part in words for part in said), words


def test_chances_are_said_to_two_figures():
    spoken = [chance_in_words(chance) for chance in (0.5, 0.12, 0.014, 0.0005)]
    assert spoken == ["50 %", "12 %", "1.4 %", "under 0.1 %"]
