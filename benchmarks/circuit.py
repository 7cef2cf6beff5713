"""The circuit model against its floors: ngspice on the same deck, bare numpy on the same size."""

from __future__ import annotations

import statistics
import subprocess
import tempfile
import time
import tracemalloc
from collections.abc import Callable
from pathlib import Path

import numpy as np

from plentar.core.circuit.batch import solve_many
from plentar.core.circuit.faults import Effects, effects_of, faults_of
from plentar.core.circuit.moments import run
from plentar.core.circuit.network import solve
from plentar.core.circuit.wiring import Wiring, wire_up
from plentar.core.visit.events import Calls, Event, Power
from plentar.files.spice import netlist
from plentar.store.demo.plates import plates

HOME = 10  # four elements on two circuits
REPEATS = 40


def measure() -> list[str]:
    wiring = wire_up(plates()[HOME])
    size = len(wiring.topology.nodes)
    heat: tuple[Event, ...] = (Calls(t_s=0, calls=frozenset({"W1", "W2"})),)
    moment = run(wiring, Effects(), heat, 600)

    none = Effects().network

    def one_state() -> object:
        return solve(
            wiring.topology,
            wiring.branches(none).siemens(wiring.closed_masks([moment.closed])[0]),
            wiring.emf(none),
        )

    matrix = wiring.topology.nodal(moment.solution.siemens)
    drive = np.stack([np.ones(size), np.zeros(size)], axis=-1)
    ours_s = _median(one_state)
    bare_s = _median(lambda: np.linalg.solve(matrix, drive))
    spice_s = _spice(netlist("bench", moment.solution))
    states = [run(wiring, Effects(), events, 600).closed for events in _six_states()]
    every_effect = [effects_of(wiring, [fault]) for fault in faults_of(wiring.unit)]
    many = len(every_effect) * len(states)
    all_s, peak_bytes = _many(wiring, states, every_effect)
    matrices = wiring.topology.nodal(np.broadcast_to(moment.solution.siemens, (many, len(wiring.ohms))))
    drives = np.broadcast_to(drive, (many, size, 2))
    bare_all_s = _median(lambda: np.linalg.solve(matrices, drives), 7)
    return [
        f"one full state, {size} nodes: {1e3 * ours_s:.3f} ms",
        f"  to one ngspice run ({1e3 * spice_s:.1f} ms): 1/{spice_s / ours_s:.0f} (at most 1/20)",
        f"  to one bare solve ({1e3 * bare_s:.3f} ms): {ours_s / bare_s:.2f} (at most 8)",
        f"{len(every_effect)} faults × {len(states)} states in one pass: {1e3 * all_s:.1f} ms",
        f"  to {many} bare solves in a batch ({1e3 * bare_all_s:.1f} ms):"
        f" {all_s / bare_all_s:.2f} (at most 2)",
        f"  memory at the peak: {peak_bytes / 1e6:.0f} MB (under 200)",
    ]


def _six_states() -> list[tuple[Event, ...]]:
    asked = [(), ("G",), ("Y", "G"), ("W1",), ("W1", "W2")]
    states: list[tuple[Event, ...]] = [(Calls(t_s=0, calls=frozenset(a)),) for a in asked]
    return [*states, (Power(t_s=0, state="off", circuit="C1"),)]


def _median(call: Callable[[], object], repeats: int = REPEATS) -> float:
    call()
    times = []
    for _ in range(repeats):
        began = time.perf_counter()
        call()
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def _many(wiring: Wiring, states: list[frozenset[str]], every_effect: list[Effects]) -> tuple[float, int]:
    seconds = _median(lambda: solve_many(wiring, states, every_effect), 7)
    tracemalloc.start()
    solve_many(wiring, states, every_effect)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return seconds, peak


def _spice(deck: str) -> float:
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "deck.cir"
        file.write_text(deck, encoding="ascii")
        command = ["ngspice", "-b", str(file)]
        return _median(lambda: subprocess.run(command, capture_output=True, check=False), 7)
