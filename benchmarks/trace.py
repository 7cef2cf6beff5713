"""Logged currents: how well stages and cycles are found, and how long a day's log takes, against
the time that pandas and numpy take to parse its file."""

from __future__ import annotations

import io
import statistics
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

import numpy as np
import pandas as pd

from plentar.core.circuit.network import Real
from plentar.core.logged.trace import read_log
from plentar.files.log_csv import read_log_csv
from plentar.stand_ins.synthetic_log import Synthetic, quiet, synthetic

LOGS, QUIET_LOGS = 400, 200
CLOSE_S = 1.5
HOURS, HERTZ = 8, 10
HEAT_EVERY_S = 1500.0


@dataclass
class Tally:
    stages: int = 0
    close: int = 0
    extra: int = 0
    cycling: int = 0
    counted: int = 0
    missed: list[str] = field(default_factory=list)


def measure() -> Iterator[str]:
    tally = Tally()
    for seed in range(LOGS):
        count(synthetic(seed, cycling=seed % 2 == 1), tally, f"seed {seed}")
    yield (
        f"{LOGS} logs, 1 to 4 elements, 1 to 10 Hz, noise 2 %, dropouts: on and off both within"
        f" {CLOSE_S} s or a sample in {tally.close / tally.stages:.1%} of {tally.stages} stages"
        f" (at least 98 %), {tally.extra} false"
    )
    yield f"cycles counted exactly in {tally.counted / tally.cycling:.1%} of {tally.cycling} (at least 95 %)"
    false = sum(bool(_changes(quiet(seed))) for seed in range(QUIET_LOGS))
    yield f"stages seen in {QUIET_LOGS} quiet logs: {false} (0)"
    yield from _a_day()


def count(made: Synthetic, tally: Tally, name: str) -> None:
    trace = read_log(made.unit, made.visit, made.log)
    within_s = max(CLOSE_S, made.spacing_s)
    for element, (on_s, off_s) in made.on_off_s.items():
        # Loads alike whose windows overlap can't be told apart in a feed: the log says so.
        may_be = [s for s in trace.stages if element in (s.load, *s.or_else)]
        came = any(_near(s.on_s, on_s, within_s + s.on_within_s) for s in may_be)
        went = any(_near(s.off_s, off_s, within_s + s.off_within_s) for s in may_be)
        tally.stages += 1
        tally.close += came and went
        if not (came and went):
            tally.missed.append(f"{name} {element}")
    tally.extra += len(trace.stages) - len(made.on_off_s)
    if made.drops:
        told = {cycle.load: cycle.count for cycle in trace.cycles}
        drops = {element: n for element, n in made.drops.items() if n}
        tally.cycling += 1
        tally.counted += sum(told.values()) == sum(drops.values())


def _near(found_s: float | None, true_s: float, within_s: float) -> bool:
    return found_s is not None and abs(found_s - true_s) <= within_s


def _changes(made: Synthetic) -> list[object]:
    """Stages that begin or end in a log."""
    stages = read_log(made.unit, made.visit, made.log).stages
    return [s for s in stages if s.on_s is not None or s.off_s is not None]


def a_day(hours: float = HOURS) -> tuple[Synthetic, bytes]:
    made = synthetic(3)
    t_s = np.arange(int(hours * 3600 * HERTZ)) / HERTZ
    amps = np.full(len(t_s), 0.0)
    for begun in np.arange(100.0, t_s[-1] - HEAT_EVERY_S, HEAT_EVERY_S):
        for n, element in enumerate(made.unit.elements):
            on = (t_s >= begun + 5 + 40 * n) & (t_s < begun + 900 + 30 * n)
            amps[on] += element.rating.amps(240)
    numbers = np.random.default_rng(1)
    amps = np.maximum(0, amps * (1 + 0.02 * numbers.standard_normal(len(t_s))))
    lines = "".join(f"{t:.1f},{a:.2f}\n" for t, a in zip(t_s, amps, strict=True))
    return made, ("seconds,C1\n" + lines).encode()


def _a_day() -> Iterator[str]:
    made, csv = a_day()

    def all_of_it() -> object:
        log = read_log_csv(csv, made.unit)
        return read_log(made.unit, made.visit, log)

    def by_numpy() -> Real:
        return np.loadtxt(io.BytesIO(csv), delimiter=",", skiprows=1)

    def by_pandas() -> object:
        return pd.read_csv(io.BytesIO(csv))

    took: dict[str, list[float]] = {"all": [], "numpy": [], "pandas": []}
    runs: dict[str, Callable[[], object]] = {"all": all_of_it, "numpy": by_numpy, "pandas": by_pandas}
    for _ in range(7):
        for name, run in runs.items():
            began = time.perf_counter()
            run()
            took[name].append(1e3 * (time.perf_counter() - began))
    ms = {name: statistics.median(times) for name, times in took.items()}
    samples = csv.count(b"\n") - 1
    yield (
        f"{samples} samples read and analysed in {ms['all']:.0f} ms; to parsing alone"
        f" with numpy ({ms['numpy']:.0f} ms) {ms['all'] / ms['numpy']:.2f} (at most 3), with pandas"
        f" ({ms['pandas']:.0f} ms) {ms['all'] / ms['pandas']:.2f}"
    )
