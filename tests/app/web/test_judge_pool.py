"""The judge in a process of its own: the best answer in time, a share for each shop, nobody waits."""

from __future__ import annotations

import cProfile
import threading
import uuid

import pytest

from benchmarks.load import chained
from plentar.core.budget import OutOfTime, budget
from plentar.core.door import judge
from plentar.core.errors import BadInput
from plentar.core.judge.diagnosis import diagnose
from plentar.core.judge.weigh import posterior as weigh
from plentar.core.visit.evidence import Evidence
from plentar.files.unit_json import UnitJson
from plentar.files.visit_json import VisitJson
from plentar.web import judge_pool
from plentar.web.config import Config
from plentar.web.factory import create_app
from plentar.web.judge_pool import Busy, JudgePool
from plentar.web.visits.judging import AFTER_SINGLES
from tests.cases import CALL, VOLTS, amps, judged


@pytest.fixture(scope="module")
def evidence():
    """An expensive unit, the largest that a plate may hold, and some readings on it."""
    unit = UnitJson.model_validate(chained(8, 5)).to_core()
    events = [{**VOLTS, "t": 1}, {"t": 5, "calls": ["W1"]}, amps(600, "E1", 0.0)]
    visit = VisitJson.model_validate({"complaint": "no-heat", "events": events}).to_core()
    return Evidence(unit, visit)


def test_a_plate_holds_so_much_and_no_more():
    UnitJson.model_validate(chained(12, 3, 12)).to_core()
    for devices, switches, elements in ((13, 2, 8), (9, 5, 8), (8, 5, 13)):
        with pytest.raises((ValueError, BadInput), match="at most"):
            UnitJson.model_validate(chained(devices, switches, elements)).to_core()


def test_an_answer_in_pieces_is_the_answer_whole():
    """Cut off again and again, each ask goes on from where the last one was."""
    events = [{**VOLTS, "t": 1}, CALL, amps(310, "E1", 0.0), amps(330, "E2", 20.4)]
    asked = judged(*events).evidence
    for share in (0.03, 0.1, 0.5, 2.0):  # what is not kept, the planning, must fit into one piece
        for _ in range(40):
            with budget(share):
                piecewise = diagnose(asked)
            if not piecewise.left_out:
                break
            assert sum(s.probability for s in piecewise.suspects) == pytest.approx(1)
            assert not piecewise.decision, "nothing is clear by half an answer"
    whole = diagnose(asked)
    assert piecewise.suspects == whole.suspects
    assert [r.at for r in piecewise.next] == [r.at for r in whole.next]


def test_the_best_answer_so_far_comes_in_time_and_says_so(evidence):
    with budget(0.5):
        answer = diagnose(evidence)
    assert answer.left_out and answer.suspects


@pytest.mark.parametrize(("lacks", "listed"), [("pairs_near", True), ("each_likelihood", False)])
def test_causes_are_listed_once_every_single_fault_was_weighed(monkeypatch, lacks, listed):
    """Pairs that lack hide nothing; readings that lack do."""

    def out_of_time(*_: object) -> None:
        raise OutOfTime

    monkeypatch.setattr(weigh, lacks, out_of_time)
    answer = diagnose(judged(VOLTS, CALL, amps(310, "E1", 0.0)).evidence)
    assert answer.left_out
    assert (set(answer.left_out) <= AFTER_SINGLES) is listed


def test_nobody_waits_and_the_work_ends(evidence):
    with budget(3600, gone=lambda: True):
        assert diagnose(evidence).left_out


@pytest.fixture(scope="module")
def pool():
    made = JudgePool()
    yield made
    made.close()


def test_the_pool_answers_as_the_judge_does(pool):
    asked = judged(VOLTS, CALL, amps(310, "E1", 0.0)).evidence
    answer = pool.diagnose(asked, uuid.uuid4())
    while answer.left_out:  # a busy machine: it goes on from there
        answer = pool.diagnose(asked, uuid.uuid4())
    assert answer.suspects == diagnose(asked).suspects


def test_a_shop_has_its_share_and_the_server_its_threads(pool, evidence):
    """Of one shop's questions some wait and the others are told so at once; another's gets through."""
    shop, other, busy, answers = uuid.uuid4(), uuid.uuid4(), [], []

    def ask():
        try:
            answers.append(pool.diagnose(evidence, shop))
        except Busy as error:
            busy.append(error)

    asking = [threading.Thread(target=ask) for _ in range(judge_pool.OF_SHOP + 3)]
    for thread in asking:
        thread.start()
    small = judged(VOLTS, CALL, amps(310, "E1", 0.0)).evidence
    assert pool.diagnose(small, other, patience_s=60.0).suspects  # beside a whole run
    for thread in asking:
        thread.join()
    assert len(busy) == 3
    assert len(answers) == judge_pool.OF_SHOP
    assert all(error.wait_s > 0 for error in busy)


def test_a_visit_that_waits_for_the_judge_holds_up_no_other(somebody, monkeypatch):
    """Two people in one process: one's page waits for an answer, the other's call is stored meanwhile."""
    one, other = somebody(), somebody()
    waits, enough = threading.Event(), threading.Event()

    class Slow:
        def diagnose(self, _evidence, shop_id, *_more):
            if shop_id == one.account.shop_id:
                waits.set()
                assert enough.wait(30)
            raise Busy("others are before you", 1.0)

    monkeypatch.setattr("plentar.web.visits.view.judge_pool", Slow)
    benches = [who.start_visit() for who in (one, other)]
    page = threading.Thread(target=lambda: one.client.get(f"{benches[0]}/judge"))
    page.start()
    assert waits.wait(30)
    stored = []
    entry = {"client_id": str(uuid.uuid4()), "raised": "G"}
    call = threading.Thread(
        target=lambda: stored.append(other.client.post(f"{benches[1]}/calls", data=entry))
    )
    call.start()
    call.join(20)
    enough.set()
    page.join()
    assert stored and stored[0].status_code == 302


def test_a_question_that_nobody_waits_for_is_dropped(pool, evidence):
    with pytest.raises(Busy):
        pool.diagnose(evidence, uuid.uuid4(), gone=lambda: True)
    small = judged(VOLTS, CALL, amps(310, "E1", 0.0)).evidence
    assert pool.diagnose(small, uuid.uuid4()).suspects, "and the next is answered"


def test_a_page_says_that_the_judge_is_busy_and_asks_again(database_url, somebody, soup, monkeypatch):
    me = somebody()
    bench = me.start_visit()
    app = create_app(Config(database_url, "x" * 40))
    app.config.update(TESTING=True, WTF_CSRF_ENABLED=False)
    monkeypatch.setattr(judge_pool, "AT_ONCE", 0)
    client = app.test_client()
    client.set_cookie("plentar", me.client.get_cookie("plentar").value)
    page = soup(client.get(f"{bench}/judge", headers={"HX-Request": "1"}))
    assert "ask again" in page.select_one("[role=status]").text.lower()
    assert page.select_one("[role=status]")["data-hx-trigger"] == "load delay:3s"
    entry = {"client_id": str(uuid.uuid4()), "raised": "W1"}
    assert client.post(f"{bench}/calls", data=entry).status_code == 302, "nothing else waits for it"
    said = " ".join(client.get(bench).text.split())
    assert "W1 called: not checked yet" in said, "and it says that nobody has judged it"
    left = client.post(f"{bench}/close", data={"outcome": "in-service"})
    assert left.status_code == 422 and "does not go in service without that" in left.text
    waits = soup(left).select_one("#left [role=status]")
    assert waits["data-hx-get"].endswith("/close/answered") and "delay" in waits["data-hx-trigger"]
    assert "asked again" in client.get(f"{bench}/close/answered").text
    assert me.client.get(f"{bench}/judge").status_code == 200, "it answers, and the answer is kept"
    kept = client.get(f"{bench}/judge", headers={"HX-Request": "1"})
    assert "Result of" in kept.text, "another process shows the same answer at once"
    assert "readings are checked" in client.get(f"{bench}/close/answered").text
    assert client.post(f"{bench}/close", data={"outcome": "in-service"}).status_code == 302
    app.extensions["plentar_sessions"].kw["bind"].dispose()


def test_many_readings_cost_as_much_each_as_few():
    """Calls counted, not seconds: four times the readings, about four times the work, not sixteen."""

    def work(count: int) -> int:
        read = [
            amps(10 + n * 0.01, "E1", 20.0) if n % 2 else {**VOLTS, "t": 10 + n * 0.01} for n in range(count)
        ]
        evidence = judged(VOLTS).evidence
        visit = VisitJson.model_validate({"events": [VOLTS, CALL, *read]}).to_core()
        counted = cProfile.Profile()
        counted.runcall(judge, evidence.unit, visit)
        return sum(entry.callcount for entry in counted.getstats())

    work(10)  # what is worked out for a unit once
    assert work(2000) < 6 * work(500)


def test_judging_a_long_visit_ends_in_time():
    calls = [{"t": 10.0 * n, "calls": ["W1"] if n % 2 else []} for n in range(1, 800)]
    unit = judged(VOLTS).evidence.unit
    visit = VisitJson.model_validate({"events": [*calls, amps(8100, "E1", 20.4)]}).to_core()
    judgement = judge(unit, visit)
    with budget(1.0):
        assert diagnose(judgement.evidence).suspects
