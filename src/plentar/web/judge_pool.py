"""The judge of one server process: it works beside it, has so much memory and no more, and each shop has
its share of it."""

from __future__ import annotations

import select
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar, cast

from flask import current_app, request

from plentar.core.budget import budget
from plentar.core.judge.diagnosis import diagnose, what_else
from plentar.core.judgement import Diagnosis, WhatElse
from plentar.core.pocket.plan import Step, pocket_plan
from plentar.core.said import say
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Visit
from plentar.core.visit.evidence import Evidence
from plentar.web.beside import Busy, ProcessBeside, Share, nobody_waits
from plentar.web.watch.figures import JUDGE_ASKED, JUDGE_BUSY, JUDGE_CUT_OFF, JUDGE_S, spent

__all__ = ["PAGE_S", "SWITCH_S", "Busy", "JudgePool", "judge_pool", "reader_gone"]

#: What one answer may take, s; how long a page waits for it, those before it included; and how long
#: what is to be switched waits, which is stored without it then.
ANSWER_S, PAGE_S, SWITCH_S = 3.0, 12.0, 0.15
#: How long a plan is waited for, which nobody stands in front of.
PLAN_S = 5.0
#: Questions that wait or are worked on, of one shop and of all; each holds a thread of the server.
OF_SHOP, AT_ONCE = 2, 3
MOST_BYTES, QUESTIONS = 3_000_000_000, 300
T = TypeVar("T", Diagnosis, WhatElse, Step)


def judge_pool() -> JudgePool:
    return cast(JudgePool, current_app.extensions["plentar_judge"])


def reader_gone() -> Callable[[], bool]:
    """Whether who sent this request has hung up since; never, where the server can't tell."""
    wire = request.environ.get("gunicorn.socket")
    if wire is None:
        return lambda: False
    poll = select.poll()
    poll.register(wire, select.POLLRDHUP)
    return lambda: bool(poll.poll(0))


@dataclass
class JudgePool:
    """The judge of one server process. ``here`` has it answer in this process, at once and whole."""

    here: bool = False

    def __post_init__(self) -> None:
        self._beside = ProcessBeside(say("beside.judge"), QUESTIONS, MOST_BYTES, self.here)

    def diagnose(
        self,
        evidence: Evidence,
        shop_id: uuid.UUID,
        gone: Callable[[], bool] = lambda: False,
        patience_s: float = PAGE_S,
    ) -> Diagnosis:
        """The judge's answer, the best that the time sufficed for; raises Busy."""
        return self._ask(diagnose, evidence, Share(shop_id, OF_SHOP, AT_ONCE, patience_s, gone))

    def what_else(
        self, evidence: Evidence, shop_id: uuid.UUID, gone: Callable[[], bool] = lambda: False
    ) -> WhatElse:
        """What else may be wrong; raises Busy."""
        return self._ask(what_else, evidence, Share(shop_id, OF_SHOP, AT_ONCE, PAGE_S, gone))

    def plan(self, evidence: Evidence, shop_id: uuid.UUID) -> Step:
        """The next readings and what comes after them; raises Busy where anybody else asks for anything."""
        return self._ask(pocket_plan, evidence, Share(shop_id, 1, 1, PLAN_S, lambda: False))

    def close(self) -> None:
        self._beside.close()

    def _ask(self, question: Callable[[Evidence], T], evidence: Evidence, share: Share) -> T:
        if self.here:
            return question(evidence)
        JUDGE_ASKED.inc()
        try:
            with spent("judge"), JUDGE_S.time():
                answer = self._beside.ask(share, _answer, question, evidence.unit, evidence.visit)
        except Busy:
            JUDGE_BUSY.inc()
            raise
        finally:
            JUDGE_ASKED.dec()
        if isinstance(answer, Diagnosis) and answer.left_out:
            JUDGE_CUT_OFF.inc()
        return answer


def _answer(question: Callable[[Evidence], T], unit: Unit, visit: Visit) -> T:
    with budget(ANSWER_S, gone=nobody_waits):
        return question(Evidence(unit, visit))
