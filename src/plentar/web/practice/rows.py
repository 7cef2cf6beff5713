"""A practice as it is stored, and its bench."""

from __future__ import annotations

from dataclasses import asdict

from plentar.practice.bench import Bench
from plentar.practice.harms import Harm
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
