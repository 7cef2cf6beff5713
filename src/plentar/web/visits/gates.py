"""What may not be switched while a stop stands open: every switch asks here before it is stored."""

from __future__ import annotations

from collections.abc import Collection

from plentar.core.door import (
    PanelState,
    bars_of,
    diagnose,
    judge_checked,
    state_at,
    suspected_stops,
)
from plentar.core.errors import BadInput
from plentar.store.visits import VisitRecord


def state_of(record: VisitRecord) -> PanelState:
    """How the unit stands now."""
    return state_at(record.unit, record.core().events, record.elapsed_s)


def check_bars(
    record: VisitRecord, power: Collection[str] = (), calls: frozenset[str] | None = None
) -> None:
    """Raise BadInput where an open stop bars what is to be switched on or called."""
    judgement = judge_checked(record.unit, record.core())
    more = suspected_stops(judgement, diagnose(judgement.evidence))
    refused = bars_of(judgement, more).refusal(state_of(record), power, calls)
    if refused:
        raise BadInput("calls" if calls is not None else "power", refused)
