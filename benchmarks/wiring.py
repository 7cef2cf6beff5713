"""Every way to wire a relay's set, each classified by running the circuit; and the bigger parts."""

from __future__ import annotations

import statistics
import time
from collections.abc import Mapping
from itertools import product

from plentar.core.relay_bench.proof import prove_wiring
from plentar.core.relay_bench.wires import right_wires
from plentar.core.unit.kits import Kit, build_kit
from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.parts import RELAY_ENDS
from plentar.core.unit.unit import Unit

MOST_MS = 30.0


def measure() -> list[str]:
    """The lines to print: medians and the slowest, ms."""
    unit = build_kit(Kit((5000.0,) * 3, 240, "stacked-sequencer"), "bench", "Bench")
    assert unit.relay is not None
    coil = {"A": ("G",), "B": ("C",)}
    took = []
    for common, no, nc in product(RELAY_ENDS, repeat=3):
        ends = coil | {"1": (common,), "2": (no,), "3": (nc,)}
        took.append(_timed(unit, "BR", "relay-dpdt", ends))
    every = [
        (name, _timed(unit, "S1" if kind.device == "sequencer" else "BR", name, _right(unit, name)))
        for name, kind in PART_KINDS.items()
        if kind.device in ("sequencer", "spdt", "dpdt", "time-delay", "board")
    ]
    slowest = max(every, key=lambda one: one[1])
    return [
        f"{len(took)} wirings of a set: median {statistics.median(took):.1f} ms, slowest {max(took):.1f} ms"
        f" (at most {MOST_MS:g})",
        f"the right wiring of each kind: slowest {slowest[0]}, {slowest[1]:.1f} ms",
    ]


def _right(unit: Unit, name: str) -> dict[str, tuple[str, ...]]:
    kind = PART_KINDS[name]
    device = unit.device_by_id["S1" if kind.device == "sequencer" else "BR"]
    found: dict[str, tuple[str, ...]] = {}
    for wire in right_wires(unit, device, kind):
        found[wire.terminal] = (*found.get(wire.terminal, ()), wire.to)
    return found


def _timed(unit: Unit, device: str, kind: str, ends: Mapping[str, tuple[str, ...]]) -> float:
    began = time.perf_counter()
    prove_wiring(unit, unit.device_by_id[device], PART_KINDS[kind], ends)
    return 1e3 * (time.perf_counter() - began)
