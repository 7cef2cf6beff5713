"""What a logged current shows, as the command line prints it."""

from __future__ import annotations

import math
from typing import Any

from plentar.core.logged.trace import Cycling, Stage, Trace
from plentar.core.timing.moves import Move
from plentar.files.events_json import event_to_json

FORMAT = "plentar-trace"
VERSION = 1


def trace_to_json(trace: Trace) -> dict[str, Any]:
    """Columns, calls, stages, cycles, slips and the events that they would be in a visit."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "columns": [
            {
                "at": column.at,
                "spacing_s": _round(column.levels.spacing_s),
                "noise_share": _round(column.levels.noise_share),
                "gaps": [[_round(low), _round(high)] for low, high in column.levels.gaps],
                "steps": [
                    {"t": _round(s.t_s), "within_s": _round(s.within_s), "amps": _round(s.size_amps)}
                    for s in column.levels.steps
                ],
            }
            for column in trace.columns
        ],
        "calls": {
            call: [[_round(s.start_s.low), _round(s.end_s.low) if s.end_s else None] for s in some]
            for call, some in sorted(trace.calls.items())
        },
        "stages": [_stage(stage) for stage in trace.stages],
        "cycles": [_cycle(cycle) for cycle in trace.cycles],
        "slips": [{"code": s.code, "at": s.at, "text": str(s.text)} for s in trace.slips],
        "events": [event_to_json(event) for event in trace.events],
    }


def _stage(stage: Stage) -> dict[str, Any]:
    due = stage.due_amps
    return {
        "at": stage.at,
        "element": stage.load,
        **({"or_else": list(stage.or_else)} if stage.or_else else {}),
        "on_s": _round(stage.on_s),
        "off_s": _round(stage.off_s),
        "within_s": [_round(stage.on_within_s), _round(stage.off_within_s)],
        "amps": _round(stage.amps),
        "expected_amps": None if math.isinf(due.high) else [_round(due.low), _round(due.high)],
        "on": _move(stage.on),
        "off": _move(stage.off),
    }


def _move(move: Move | None) -> dict[str, Any] | None:
    """How the time stands to its window; none where no call is known that it would be due for."""
    if move is None or move.seen_s is None or move.took_s is None:
        return None
    return {
        "part": move.part,
        "cause": move.cause,
        "took_s": _round(move.took_s),
        "due_s": [_round(move.due_s.low - move.clock_s.low), _round(move.longest_s)],
        "verdict": str(move.word(move.seen_s)),
        "provisional": move.provisional,
    }


def _cycle(cycle: Cycling) -> dict[str, Any]:
    return {
        "at": cycle.at,
        "element": cycle.load,
        "count": cycle.count,
        "period_s": _round(cycle.period_s),
        "duty": _round(cycle.duty),
        "lost_kw": _round(cycle.lost_kw),
        "first_s": _round(cycle.first_s),
        "last_s": _round(cycle.last_s),
    }


def _round(value: float | None) -> float | None:
    return None if value is None or math.isnan(value) else round(value, 3)
