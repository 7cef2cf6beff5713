"""Work lines, what is safe meanwhile, and what is asked once, by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.guided.retest import retest_lines
from plentar.core.handover.asked_once import reasons_to_ask, to_look_at_again
from plentar.core.handover.meanwhile_ways import ways_meanwhile
from plentar.core.handover.suggest import suggested
from plentar.core.handover.work import WorkLine, standing, taken_over
from plentar.core.quantity import Quantity
from plentar.core.visit.events import Calls, Did, LeftOut, Looked, Power, Reading, Replaced, Visit
from tests.cases import CALL, VOLTS, amps, judged
from tests.core.test_retest import after
from tests.kits import Kit, build_kit

TWO = build_kit(Kit((5000.0, 5000.0), 240, "single-sequencers"), "two", "")
STACK = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "")


def test_the_newest_words_on_a_line_count_and_what_is_due_now_comes_first():
    soon = WorkLine("a", 10.0, "soon", "new filter", minutes=5.0)
    now = WorkLine("b", 20.0, "now", "new lug", "C1.l1")
    done = replace(now, t_s=30.0, stands="done")
    assert standing([soon, now]) == (now, soon)
    assert standing([soon, now, done]) == (done, soon)
    assert now.unsafe and not done.unsafe and not soon.unsafe


def test_the_next_visit_begins_with_what_is_open_and_asks_again_what_was_not_wanted():
    declined = WorkLine("a", 9.0, "now", "new breaker", stands="declined")
    offer = WorkLine("b", 9.0, "offer", "the fellow", stands="declined")
    soon = WorkLine("c", 9.0, "soon", "new filter", parts="ordered")
    done = WorkLine("d", 9.0, "now", "new lug", stands="done")
    over = taken_over([declined, offer, soon, done])
    assert over == (replace(declined, t_s=0.0, stands="open"), replace(soon, t_s=0.0))


def test_findings_and_the_fellow_of_a_new_part_are_suggested_once():
    judgement = judged(VOLTS, CALL, amps(310, "E1", 20.4), amps(320, "E2", 0.0))
    found = suggested(TWO, Visit(events=(Replaced(t_s=400.0, component="S1"),)), judgement.findings, ())
    assert [(line.when, line.source) for line in found] == [
        ("now", "repair element-dead E2"),
        ("offer", "fellow S2"),
    ]
    assert not suggested(TWO, Visit(), judgement.findings, {"repair element-dead E2"})


def test_what_is_safe_meanwhile_says_which_wire_and_what_is_drawn_then():
    # 5 kW at 240 V: 20.8 A stay on.
    one, heat, off = ways_meanwhile(TWO, "E2")
    assert one == "E2 off: its wire off S2.1, capped; the others then draw 20.8 A at circuit C1"
    assert heat == "No electric heat: wire W1 off the board, capped"
    assert off == "Left off: C1 off at the breaker, tagged"
    both = ways_meanwhile(STACK, "S1")
    assert not any("the others draw" in way for way in both), "both strips hang on it"


def test_what_was_poor_comes_back_after_a_repair_and_an_easy_one_is_asked_the_reason_of_once():
    poor = Looked(5.0, "filter", "poor"), Looked(6.0, "wheel", "fine"), Looked(7.0, "lugs", "burnt")
    visit = Visit(looked=poor, events=(Replaced(t_s=100.0, component="S1"),))
    assert to_look_at_again(visit) == ("filter", "lugs")
    assert to_look_at_again(replace(visit, looked=(*poor, Looked(120.0, "filter", "fine")))) == ("lugs",)
    assert not to_look_at_again(replace(visit, events=())), "nothing was mended"
    tripped = Visit(events=(Did(t_s=9.0, verb="reset", part="C1"),))
    (easy,) = reasons_to_ask(TWO, tripped, ())
    assert easy.part == "C1" and "what tripped it" in easy.question
    assert not reasons_to_ask(TWO, tripped, [(12.0, "C1")])
    assert not reasons_to_ask(TWO, Visit(events=(Did(t_s=9.0, verb="reset", part="C1", note="a"),)), ())


@pytest.mark.parametrize("value", [None, 0.0, 20.4])
def test_a_line_that_is_answered_is_left_out_until_it_is_read(value):
    """Not read, or as it should not be: the answer holds. Read later, the reading counts."""
    before = after()
    (line,) = (n for n in retest_lines(before, 1000.0) if n.step.title == "Element E2, amps")
    said = LeftOut(1100.0, line.key, "the owner has no time")
    answered = replace(before, visit=replace(before.visit, left_out=(said,)))
    states = {n.step.title: n.state for n in retest_lines(answered, 1200.0)}
    assert states.pop("Element E2, amps") == "answered" and set(states.values()) == {"open"}
    if value is None:
        return
    events = (
        *before.visit.events,
        Power(t_s=1500.0, state="on"),
        Calls(t_s=1510.0, calls=frozenset({"W1", "G"})),
        Reading(t_s=2000.0, quantity=Quantity.AMPS, at="E2", value=value),
    )
    again = replace(answered, visit=replace(answered.visit, events=events))
    (line,) = (n for n in retest_lines(again, 2010.0) if n.step.title == "Element E2, amps")
    assert line.state == ("pass" if value else "fail"), "the reading is newer than the answer"
