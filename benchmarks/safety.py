"""Safety: the judge followed through dangerous faults, every step watched by an onlooker."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from random import Random

from plentar.core.circuit.faults import Fault, faults_of
from plentar.core.judge.plan.planner import next_readings
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.tables.planning import LEAST_SUSPECT
from plentar.core.unit.unit import Unit
from plentar.stand_ins.hidden import hidden_unit
from plentar.stand_ins.onlooker import harm_in
from plentar.stand_ins.technician import Episode
from plentar.store.demo.plates import plates

#: Ways to fail by which a wrong step hurts somebody or something.
DANGEROUS = frozenset(
    {
        "nc-stuck-open",
        "no-stuck-open",
        "no-welded",
        "nc-welded",
        "coil-shorted",
        "to-ground",
        "grounded",
        "stuck-closed",
        "locked",
        "always",
        "loose",
    }
)
COMPLAINTS = (
    "not-enough-heat",
    "no-heat",
    "heat-will-not-stop",
    "blower-will-not-run",
    "control-fuse-blows",
    "heat-in-cooling",
    "check-up",
)
MOST_STEPS, PAIR_SHARE = 10, 0.3


@dataclass(frozen=True)
class Watched:
    """One episode: what was hidden, how many steps were taken, and the harm that one did."""

    home: int
    faults: tuple[str, ...]
    complaint: str
    steps: int
    harm: str


def dangerous_of(unit: Unit) -> list[Fault]:
    """The dangerous faults that a unit can have."""
    own = {"blower"}
    return [f for f in faults_of(unit) if f.mode in DANGEROUS or f.component in own]


def drawn(seed: int) -> tuple[int, tuple[str, ...], str]:
    rng = Random(seed)
    homes = plates()
    home = rng.choice(sorted(homes))
    faults = dangerous_of(homes[home])
    some = rng.sample(faults, 2 if rng.random() < PAIR_SHARE else 1)
    if len({fault.component for fault in some}) < len(some):
        some = some[:1]
    return home, tuple(sorted(fault.id for fault in some)), rng.choice(COMPLAINTS)


def watch(seed: int) -> Watched:
    """Follow the first proposal each time; stop at the first harm.

    A step counts where the truth still weighs what a proposal must be held against.
    """
    home, ids, complaint = drawn(seed)
    unit = plates()[home]
    simulated = hidden_unit(unit, list(ids), seed)
    episode = Episode(simulated, complaint)
    faults = [fault for fault in faults_of(unit) if fault.id in ids]
    for step in range(MOST_STEPS):
        said = episode.judged()
        proposals = next_readings(said)
        if not proposals:
            return Watched(home, ids, complaint, step, "")
        counts, from_s = _suspected(said, ids), episode.t_s
        episode.take(proposals[0])
        harm = harm_in(unit, faults, episode.events, from_s, episode.t_s)
        if harm and counts:
            return Watched(home, ids, complaint, step + 1, f"{proposals[0].at}: {harm}")
    return Watched(home, ids, complaint, MOST_STEPS, "")


def _suspected(said: Posterior, ids: Sequence[str]) -> bool:
    wanted = "+".join(sorted(ids))
    return any(
        hypothesis.id == wanted and chance > LEAST_SUSPECT
        for hypothesis, chance in zip(said.hypotheses, said.probabilities[:-1], strict=True)
    )


def watched(seeds: Sequence[int]) -> list[Watched]:
    with ProcessPoolExecutor() as pool:
        return list(pool.map(watch, seeds, chunksize=5))


def measure(count: int = 600) -> Iterator[str]:
    """The lines of ``plentar bench safety``."""
    found = watched(range(count))
    harmed = [one for one in found if one.harm]
    yield f"{len(found)} episodes, {sum(one.steps for one in found)} steps, {len(harmed)} did harm"
    for one in harmed:
        yield f"home {one.home}, {' + '.join(one.faults)} ({one.complaint}): {one.harm}"
