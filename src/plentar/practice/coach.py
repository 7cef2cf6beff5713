"""What the judge would do next, as far as it can be done on a simulated unit."""

from __future__ import annotations

from plentar.core.judgement import Diagnosis, NextReading


def next_here(answer: Diagnosis) -> NextReading | None:
    """The first proposal that needs no bench supply and no jumper, which a practice does not have."""
    return next((one for one in answer.next if not (one.setting.driven or one.setting.lifted)), None)
