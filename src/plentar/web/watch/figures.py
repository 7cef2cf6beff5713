"""What the server counts of itself, over all its processes, in Prometheus's terms."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager

from flask import g, has_app_context
from prometheus_client import Counter, Gauge, Histogram

_BUCKETS_S = (0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0)
REQUESTS = Counter("plentar_requests", "Requests answered.", ["method", "route", "status"])
SECONDS = Histogram("plentar_request_seconds", "From request to answer.", ["route"], buckets=_BUCKETS_S)
DATABASE_S = Histogram(
    "plentar_request_database_seconds", "Of a request, in the database.", buckets=_BUCKETS_S
)
JUDGE_S = Histogram("plentar_judge_seconds", "From question to answer of the judge.", buckets=_BUCKETS_S)
JUDGE_ASKED = Gauge(
    "plentar_judge_questions",
    "Questions that wait for the judge or are worked on.",
    multiprocess_mode="livesum",
)
JUDGE_CUT_OFF = Counter(
    "plentar_judge_cut_off", "Answers that are the best so far: the time did not suffice."
)
JUDGE_BUSY = Counter("plentar_judge_busy", "Questions that got no answer in their time.")


@contextmanager
def spent(on: str) -> Iterator[None]:
    """What this takes is put down to the request, s."""
    began_s = time.perf_counter()
    try:
        yield
    finally:
        add_spent(on, time.perf_counter() - began_s)


def add_spent(on: str, seconds: float) -> None:
    if has_app_context():
        sums: dict[str, float] = g.setdefault("spent_s", {})
        sums[on] = sums.get(on, 0.0) + seconds
