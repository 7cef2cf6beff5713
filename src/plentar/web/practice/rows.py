"""A practice as it is stored, and its bench."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from plentar.practice.bench import Bench
from plentar.practice.harms import Harm
from plentar.practice.own_acts import UNTOLD
from plentar.practice.scene import Scene
from plentar.store.models import Practice


def bench_of(row: Practice) -> Bench:
    scene = row.scene
    return Bench(
        Scene(scene["plate"], tuple(scene["faults"]), scene["seed"], scene["complaint"]),
        tuple(row.acts),
        row.now_s,
        tuple(Harm(**harm) for harm in row.harms),
    )


def keep(row: Practice, bench: Bench, touch: str) -> None:
    """The row as the bench is now."""
    row.acts, row.now_s = list(bench.acts), bench.now_s
    row.harms = [asdict(harm) for harm in bench.harms]
    row.touches = [*row.touches, touch]


def same_scene(one: Practice, other: Practice) -> bool:
    """The same unit with the same hidden in it."""
    told = ("plate", "faults", "seed", "complaint")
    return all(one.scene[key] == other.scene[key] for key in told)


def all_records(rows: Sequence[Practice]) -> str:
    """Practices as a file: what was told, done and named; what was hidden of those that are over."""
    found = [_record(row) for row in rows]
    return json.dumps({"plentar_practice": 1, "practices": found}, indent=1, ensure_ascii=False) + "\n"


def _record(row: Practice) -> dict[str, Any]:
    over = row.ended_at is not None
    record = {
        "unit": row.scene["label"],
        "complaint": row.scene["complaint"],
        "begun": row.begun_at.isoformat(),
        "help": row.coaching,
        "hints": row.hints,
        "acts": [act for act in row.acts if over or not UNTOLD & set(act)],
        "unsafe": row.harms,
        "seconds": row.now_s,
    }
    if row.ended_at is not None:
        record |= {"ended": row.ended_at.isoformat(), "hidden": row.scene["faults"], "named": row.named}
    return record
