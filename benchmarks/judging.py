"""Judging again after one more reading, against one ngspice run of the same unit's deck; and
five hundred documents through one process."""

from __future__ import annotations

import json
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path

from plentar.core.circuit.faults import Effects
from plentar.core.circuit.moments import run
from plentar.core.circuit.wiring import wire_up
from plentar.core.door import judge_checked
from plentar.core.judge.diagnosis import diagnose
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event, Reading
from plentar.core.visit.evidence import Evidence
from plentar.files.events_json import event_to_json
from plentar.files.spice import netlist
from plentar.files.unit_json import unit_to_json
from plentar.stand_ins.hidden import hidden_unit
from plentar.stand_ins.technician import Episode
from plentar.store.demo.plates import plates

#: A unit of three elements with single faults, one of four on two circuits with two at once.
THREE, FOUR = 7, 10
SINGLE = (
    "K2.1:stuck-open",
    "E3:open",
    "TL1:open",
    "K1:coil-open",
    "E2:high-resistance",
    "W1:no-call",
    "control-fuse:open",
    "BR:no-welded",
)
PAIRED = (
    "S1.2:stuck-open+E3:open",
    "TL1:open+S2:coil-open",
    "E2:open+E4:high-resistance",
    "FL3:open+S1.1:stuck-closed",
    "C2:open+E1:open",
    "E1.wire:open+TL4:open",
)
LEAST_EVENTS = 2
DOCUMENTS, MOST_MB = 500, 200


def measure() -> Iterator[str]:
    # First: a child's peak is at least what its parent held when it was made.
    seconds, peak_mb = _stream()
    for home, faults, most in ((THREE, SINGLE, 3), (FOUR, PAIRED, 4)):
        unit = plates()[home]
        times = sorted(again_ms(unit, faults))
        spice_ms = _spice_ms(unit)
        p95 = times[int(0.95 * (len(times) - 1))]
        yield (
            f"{len(unit.elements)} elements, {len(times)} readings: median"
            f" {statistics.median(times):.1f} ms, 95th percentile {p95:.1f} ms; to one ngspice run"
            f" ({spice_ms:.1f} ms): {p95 / spice_ms:.1f} (at most {most})"
        )
    yield (
        f"{DOCUMENTS} documents through one process: {seconds:.1f} s, {peak_mb:.0f} MB at the"
        f" peak (under {MOST_MB})"
    )


def again_ms(unit: Unit, faults: Sequence[str]) -> Iterator[float]:
    """How long each judgement after one more reading takes, the ones before it made already."""
    for fault in faults:
        episode = Episode(hidden_unit(unit, fault.split("+"), 1), "not-enough-heat")
        episode.follow()
        visit = episode.visit
        for count in range(LEAST_EVENTS, len(visit.events) + 1):
            sofar = replace(visit, events=visit.events[:count])
            began = time.perf_counter()
            judgement = judge_checked(unit, sofar)
            diagnose(Evidence(unit, judgement.evidence.visit))
            took_ms = 1e3 * (time.perf_counter() - began)
            if isinstance(visit.events[count - 1], Reading):
                yield took_ms


def _spice_ms(unit: Unit) -> float:
    deck = netlist("bench", run(wire_up(unit), Effects(), (), 1.0).solution)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "deck.cir"
        file.write_text(deck, encoding="ascii")
        times = []
        for _ in range(15):
            began = time.perf_counter()
            subprocess.run(["ngspice", "-b", str(file)], capture_output=True, check=False)
            times.append(1e3 * (time.perf_counter() - began))
    return statistics.median(times)


def _stream() -> tuple[float, float]:
    """Seconds, and the peak memory of ``plentar judge -`` with many units' documents, MB."""
    lines: list[str] = []
    for unit in plates().values():
        episode = Episode(hidden_unit(unit, [f"{unit.elements[0].id}:open"], 1), None)
        episode.follow()
        events: list[Event] = list(episode.events)
        plate = unit_to_json(unit)
        for count in range(1, len(events) + 1):
            visit = {"events": [event_to_json(event) for event in events[:count]]}
            document = {"format": "plentar-visit", "version": 1, "unit": plate, "visit": visit}
            lines.append(json.dumps(document))
    lines = (lines * (DOCUMENTS // len(lines) + 1))[:DOCUMENTS]
    began = time.perf_counter()
    subprocess.run(
        [sys.executable, "-m", "plentar", "judge", "-"],
        input="\n".join(lines),
        text=True,
        capture_output=True,
        check=True,
        env=os.environ,
    )
    seconds = time.perf_counter() - began
    return seconds, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
