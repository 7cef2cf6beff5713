"""Where the judge works: a process beside the server's own, so that readings never wait for it.

It is nice to them, has so much memory and no more, and is made anew after so many questions. A
question waits for those before it; when many wait, or one of the shop's does already, the answer is
that the judge is busy. Who asks says for how long, and when nobody waits any more.
"""

from __future__ import annotations

import os
import resource
import select
import time
import uuid
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures import TimeoutError as NotDone
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from dataclasses import dataclass, field
from multiprocessing import get_context
from multiprocessing.sharedctypes import Synchronized
from pathlib import Path
from threading import Lock, Thread
from typing import Any, cast

from flask import current_app, request

from plentar.core.budget import budget
from plentar.core.judge.diagnosis import diagnose, what_else
from plentar.core.judgement import Diagnosis, WhatElse
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Visit
from plentar.core.visit.evidence import Evidence
from plentar.store.errors import TooMany

#: What one answer may take, s; how long a page waits for it, those before it included; and how long
#: what is to be switched waits, which is stored without it then.
ANSWER_S, PAGE_S, SWITCH_S = 3.0, 12.0, 2.0
#: Questions that wait or are worked on, of one shop and of all; each holds a thread of the server.
OF_SHOP, AT_ONCE = 2, 3
#: The process: how nice, how large, and after how many questions it is made anew.
NICENESS, MOST_BYTES, QUESTIONS = 19, 3_000_000_000, 300
#: How often it is looked whether somebody still waits, s.
LOOK_S = 0.25
Question = Callable[[Evidence], Diagnosis | WhatElse]


def judge_pool() -> JudgePool:
    return cast(JudgePool, current_app.extensions["plentar_judge"])


def reader_gone() -> Callable[[], bool]:
    """Whether who sent this request has hung up since; never, where the server can't tell."""
    wire = request.environ.get("gunicorn.socket")
    if wire is None:
        return lambda: False
    poll = select.poll()
    poll.register(wire, select.POLLRDHUP)

    def gone() -> bool:
        return bool(poll.poll(0))

    return gone


class Busy(TooMany):
    """The judge has enough to do just now; ask again."""


@dataclass
class JudgePool:
    """The judge of one server process. ``here`` has it answer in this process, at once and whole."""

    here: bool = False
    _lock: Lock = field(default_factory=Lock)
    _asking: dict[uuid.UUID, int] = field(default_factory=dict)
    _pool: ProcessPoolExecutor | None = None
    _number: int = 0
    _given_up: Synchronized[int] | None = None

    def diagnose(
        self,
        evidence: Evidence,
        shop_id: uuid.UUID,
        gone: Callable[[], bool] = lambda: False,
        patience_s: float = PAGE_S,
    ) -> Diagnosis:
        """The judge's answer, the best that the time sufficed for; raises Busy."""
        return cast(Diagnosis, self._ask(diagnose, evidence, shop_id, gone, patience_s))

    def what_else(
        self, evidence: Evidence, shop_id: uuid.UUID, gone: Callable[[], bool] = lambda: False
    ) -> WhatElse:
        """What else may be wrong; raises Busy."""
        return cast(WhatElse, self._ask(what_else, evidence, shop_id, gone, PAGE_S))

    def close(self) -> None:
        with self._lock:
            if self._pool is not None:
                self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None

    def _ask(
        self,
        question: Question,
        evidence: Evidence,
        shop_id: uuid.UUID,
        gone: Callable[[], bool],
        patience_s: float,
    ) -> Diagnosis | WhatElse:
        if self.here:
            return question(evidence)
        number = self._begin(shop_id)
        try:
            return self._wait(question, evidence, number, gone, patience_s)
        finally:
            with self._lock:
                self._asking[shop_id] -= 1
                if not self._asking[shop_id]:
                    del self._asking[shop_id]

    def _begin(self, shop_id: uuid.UUID) -> int:
        with self._lock:
            own, every = self._asking.get(shop_id, 0), sum(self._asking.values())
            if own >= OF_SHOP or every >= AT_ONCE:
                raise Busy("the judge is at other units; ask again", ANSWER_S)
            self._asking[shop_id] = own + 1
            self._number += 1
            return self._number

    def _wait(
        self, question: Question, evidence: Evidence, number: int, gone: Callable[[], bool], patience_s: float
    ) -> Diagnosis | WhatElse:
        pool, given_up = self._started()
        try:
            answer = pool.submit(_answer, number, question, evidence.unit, evidence.visit)
        except (BrokenProcessPool, OSError, RuntimeError):
            self.close()
            raise Busy("the judge begins anew; ask again", 1.0) from None
        until_s = time.monotonic() + patience_s
        while time.monotonic() < until_s:
            try:
                return answer.result(LOOK_S)
            except NotDone:
                pass
            except (BrokenProcessPool, MemoryError):
                self.close()
                raise Busy("the judge ran out of memory and begins anew; ask again", 1.0) from None
            if gone():
                break
        _give_up(answer, given_up, number)
        raise Busy("the judge is at other units; ask again", ANSWER_S)

    def _started(self) -> tuple[ProcessPoolExecutor, Synchronized[int]]:
        with self._lock:
            if self._pool is None or self._given_up is None:
                context = get_context("spawn")
                self._given_up = context.Value("q", 0)
                self._pool = ProcessPoolExecutor(
                    1, context, _begin_process, (self._given_up,), max_tasks_per_child=QUESTIONS
                )
            return self._pool, self._given_up


def _give_up(answer: Future[Any], given_up: Synchronized[int], number: int) -> None:
    if not answer.cancel():
        given_up.value = number


#: In the judge's own process: the number of the question that nobody waits for any more.
_GIVEN_UP: list[Synchronized[int]] = []


def _begin_process(given_up: Synchronized[int]) -> None:
    _GIVEN_UP[:] = [given_up]
    step_back()
    Thread(target=end_with, args=(os.getppid(),), daemon=True).start()
    with suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_AS, (MOST_BYTES, MOST_BYTES))


def step_back() -> None:
    """Give way to all others. A session of its own, because Linux shares the processors
    between sessions first, and looks at niceness within each."""
    os.setsid()
    os.nice(NICENESS)
    with suppress(OSError):
        Path("/proc/self/autogroup").write_text(str(NICENESS), encoding="ascii")


def end_with(parent: int) -> None:
    """The judge ends with the server that it answers, however that ends."""
    while os.getppid() == parent:
        time.sleep(1.0)
    os._exit(0)


def _answer(number: int, question: Question, unit: Unit, visit: Visit) -> Diagnosis | WhatElse:
    with budget(ANSWER_S, gone=lambda: _GIVEN_UP[0].value == number):
        return question(Evidence(unit, visit))
