"""The stop that nobody has read yet: what leads explains the readings, and is dangerous."""

from __future__ import annotations

from collections.abc import Sequence

from plentar.core.circuit.faults import Fault
from plentar.core.judgement import Finding, FindingCode, Level
from plentar.core.safety.harm import READING_S, ran_without_air
from plentar.core.said import Said, rounded, say
from plentar.core.tables import thresholds as th
from plentar.core.visit.evidence import Evidence


def suspected_stops(
    evidence: Evidence, faults: Sequence[Fault], words: Said, probability: float
) -> tuple[Finding, ...]:
    """Heat without the blower under what leads, where the visit's own calls have brought it about.

    ``probability`` is that of ``faults`` together, ``words`` name them.
    """
    if not faults or probability < th.LEADS_CHANCE or evidence.unit.blower is None:
        return ()
    events = evidence.visit.events
    until_s = (events[-1].t_s if events else 0.0) + READING_S
    t_s = ran_without_air(evidence.unit, events, until_s, faults)
    if t_s is None:
        return ()
    text = say("safety.suspected.heat-has-run-or", probability=rounded(100 * probability, 0), words=words)
    numbers = {"probability": probability}
    return (
        Finding(
            FindingCode.HEAT_WITHOUT_BLOWER,
            Level.STOP_NOW,
            "blower",
            text,
            numbers,
            t_s=min(t_s, until_s - READING_S),
        ),
    )
