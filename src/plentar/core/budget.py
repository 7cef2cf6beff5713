"""How long an answer may take: asked for by whoever does long work, given by whoever waits for it.

Work that is cut off keeps what it has finished, so that the same question asked again goes on from
there. Without a budget, as in the commands and the tests, everything is worked out.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass

from plentar.core.errors import PlentarError


class OutOfTime(PlentarError):
    """The budget is used up, or nobody waits for the answer any more."""


@dataclass(frozen=True, slots=True)
class _Budget:
    until_s: float
    gone: Callable[[], bool]


_BUDGET: ContextVar[_Budget | None] = ContextVar("budget", default=None)


@contextmanager
def budget(seconds: float, gone: Callable[[], bool] = lambda: False) -> Iterator[None]:
    """Work in here has so many seconds; ``gone`` says that nobody waits for it any more."""
    token = _BUDGET.set(_Budget(time.monotonic() + seconds, gone))
    try:
        yield
    finally:
        _BUDGET.reset(token)


def check_budget() -> None:
    """Raises OutOfTime where the work must end: to be asked between steps that keep what they do."""
    given = _BUDGET.get()
    if given is not None and (time.monotonic() > given.until_s or given.gone()):
        raise OutOfTime("time is up")
