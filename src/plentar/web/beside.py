"""Long work in a process beside the server's own, so that readings never wait for it.

It gives way to all others and is made anew after so many questions. A question waits for those before
it; when too many wait, the answer is that it is busy. Who asks says for how long, and when nobody waits
any more.
"""

from __future__ import annotations

import os
import resource
import time
from collections import Counter
from collections.abc import Callable, Hashable, Iterator
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures import TimeoutError as NotDone
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from functools import partial
from multiprocessing import get_context
from multiprocessing.sharedctypes import Synchronized
from pathlib import Path
from threading import Lock, Thread
from typing import ParamSpec, TypeVar

from plentar.core.said import Said
from plentar.store.errors import TooMany
from plentar.words import phrase

#: How often it is looked whether somebody still waits, s.
LOOK_S = 0.25
P = ParamSpec("P")
T = TypeVar("T")


class Busy(TooMany):
    """It has enough to do just now; ask again."""


@dataclass(frozen=True, slots=True)
class Share:
    """Who asks, how many of their questions and of all may wait, how long one does, s, and whether
    somebody still does."""

    asker: Hashable
    of_one: int
    at_once: int
    patience_s: float
    gone: Callable[[], bool] = lambda: False


@dataclass
class ProcessBeside:
    """One process of one server process, made when it is first asked. ``here`` answers in this one."""

    name: Said
    questions: int
    most_bytes: int | None = None
    here: bool = False
    #: How far it gives way to all others, and one of these to another.
    niceness: int = 19
    _lock: Lock = field(default_factory=Lock)
    _asking: Counter[Hashable] = field(default_factory=Counter)
    _pool: ProcessPoolExecutor | None = None
    _number: int = 0
    _given_up: Synchronized[int] | None = None

    def ask(self, share: Share, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """What the work gives; raises Busy. It may ask ``nobody_waits`` meanwhile."""
        if self.here:
            return work(*args, **kwargs)
        with self._asked(share) as number:
            pool, given_up = self._started()
            try:
                answer = pool.submit(_answer, number, partial(work, *args, **kwargs))
            except (BrokenProcessPool, OSError, RuntimeError):
                self.close()
                raise Busy(phrase("beside.begins-anew-ask-again", value=self.name), 1.0) from None
            until_s = time.monotonic() + share.patience_s
            while (left_s := until_s - time.monotonic()) > 0 and not share.gone():
                try:
                    return answer.result(min(LOOK_S, left_s))
                except NotDone:
                    pass
                except (BrokenProcessPool, MemoryError):
                    self.close()
                    raise Busy(phrase("beside.ran-out-memory-begins", value=self.name), 1.0) from None
            if not answer.cancel():
                given_up.value = number
            raise self._busy()

    def close(self) -> None:
        with self._lock:
            if self._pool is not None:
                self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None

    def _busy(self) -> Busy:
        return Busy(phrase("beside.has-others-before-you", value=self.name), 3.0)

    @contextmanager
    def _asked(self, share: Share) -> Iterator[int]:
        """The number of a question, for as long as it is open."""
        with self._lock:
            if self._asking[share.asker] >= share.of_one or self._asking.total() >= share.at_once:
                raise self._busy()
            self._asking[share.asker] += 1
            self._number += 1
            number = self._number
        try:
            yield number
        finally:
            with self._lock:
                self._asking[share.asker] -= 1
                self._asking += Counter()  # drops who asks nothing

    def _started(self) -> tuple[ProcessPoolExecutor, Synchronized[int]]:
        with self._lock:
            if self._pool is None or self._given_up is None:
                context = get_context("spawn")
                self._given_up = context.Value("q", 0)
                begun = (self._given_up, self.most_bytes, self.niceness)
                self._pool = ProcessPoolExecutor(
                    1, context, _begin, begun, max_tasks_per_child=self.questions
                )
            return self._pool, self._given_up


#: In the process beside: which question nobody waits for any more, and which is worked on.
_GIVEN_UP: list[Synchronized[int]] = []
_NOW: list[int] = [0]


def nobody_waits() -> bool:
    """Whether whoever asked what is worked on has gone; never, in the server's own process."""
    return bool(_GIVEN_UP) and _GIVEN_UP[0].value == _NOW[0]


def _answer(number: int, work: Callable[[], T]) -> T:
    _NOW[0] = number
    return work()


def _begin(given_up: Synchronized[int], most_bytes: int | None, niceness: int) -> None:
    """Give way to all others. A session of its own, because Linux shares the processors between sessions
    first, and looks at niceness within each."""
    _GIVEN_UP[:] = [given_up]
    os.setsid()
    os.nice(niceness)
    with suppress(OSError):
        Path("/proc/self/autogroup").write_text(str(niceness), encoding="ascii")
    Thread(target=_end_with, args=(os.getppid(),), daemon=True).start()
    if most_bytes is not None:
        with suppress(ValueError, OSError):
            resource.setrlimit(resource.RLIMIT_AS, (most_bytes, most_bytes))


def _end_with(parent: int) -> None:
    """It ends with the server that it answers, however that ends."""
    while os.getppid() == parent:
        time.sleep(1.0)
    os._exit(0)
