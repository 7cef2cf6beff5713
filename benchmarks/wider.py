"""Hidden faults in the wider world: units that nobody drew for the judge, by a physics of their own.

Sixty plates from the whole space of the visit file, some fourteen faults each, found by doing as
the card says until it asks for nothing more; then mended and read again. Beside it the fixed
order, two faults at once, readings grossly wrong, and sound units on a check-up. What the judge
promises is held against what came: the bits of each reading, and the chance of each decision.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from functools import cache, partial
from itertools import pairwise
from random import Random

import numpy as np

from plentar.core.checks.registry import outcomes
from plentar.core.judge.plan.often import read_often
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.shown.complaints import CHECK_UP
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judgement import NONE, Level, Setting, Sureness
from plentar.core.quantity import Quantity
from plentar.core.visit.events import Visit
from plentar.core.visit.evidence import Evidence
from plentar.stand_ins.hidden import Hidden, drawn_unit
from plentar.stand_ins.technician import Episode
from plentar.stand_ins.wider.plates import PLATES, plate
from plentar.stand_ins.wider.specimen import faults_of
from plentar.stand_ins.wider.telling import could_be
from plentar.stand_ins.wider.world import HiddenUnit

SEED = "1"
#: Complaints for which cooling is called.
COOLING_FOR = ("heat-in-cooling", "control-fuse-blows")
FAULTS_EACH, QUICK = 14, 150
PAIRS, SLIPPED, HEALTHY = 200, 150, 200
WRONG_READINGS = 0.2
#: A reading that moves no weight by more than this has told nothing.
TELLS = 0.01
#: The normal deviate of a two-sided 95 % interval.
Z = 1.96
EDGES = (0.0, 0.5, 0.7, 0.85, 0.93, 0.97, 0.985, 1.0)


@dataclass(frozen=True, slots=True)
class Taken:
    """One reading of an episode: bits promised and got, whether it moved any weight, whether it
    was to confirm, and whether it was read before in the same state."""

    promised: float
    got: float
    moved: float
    confirms: bool
    again: bool


@dataclass(frozen=True, slots=True)
class Result:
    plate: int
    fault: str
    complaint: str
    right: bool
    alike: bool
    chance: float
    state: str
    readings: int
    ohms_live: int
    taken: tuple[Taken, ...]
    sound_after: bool | None
    fixed: bool | None
    said: str


class Watched(Episode[Hidden]):
    """An episode whose promises are kept."""

    def __init__(self, hidden: Hidden, complaint: str, wrong: float = 0.0, seed: int = 0) -> None:
        super().__init__(hidden, complaint, wrong, seed)
        self.promises: list[Taken] = []
        self._open: list[tuple[dict[str, float], Proposal, bool, bool]] = []

    def judged(self) -> Posterior:
        """What the judge says of it; the last reading's promise is settled by it."""
        said = super().judged()
        for before, proposal, confirms, again in self._open:
            names = {*before, *said.decisions}
            moves = (abs(said.decisions.get(n, 0.0) - before.get(n, 0.0)) for n in names)
            got = _bits(before) - _bits(said.decisions)
            self.promises.append(Taken(proposal.gain.on_decision, got, max(moves), confirms, again))
        self._open = []
        self._said = said
        return said

    def take(self, proposal: Proposal) -> None:
        again = proposal.quantity is not None and read_often(self._said)(proposal)
        confirms = proposal is self.plan.sure.reading
        self._open = [(dict(self._said.decisions), proposal, confirms, again)]
        super().take(proposal)


def _bits(decisions: dict[str, float]) -> float:
    return -sum(p * math.log2(p) for p in decisions.values() if p > 0)


def cases(quick: bool) -> list[tuple[int, str]]:
    found = [
        (number, fault)
        for number in range(PLATES)
        for fault in Random(f"faults/{number}").sample(faults_of(plate(number)), FAULTS_EACH)
    ]
    return sorted(Random(1).sample(found, QUICK)) if quick else found


def episode_of(case: tuple[int, str], *, quick: bool = False) -> Result:
    """One hidden fault of a drawn plate; see ``followed``."""
    number, fault = case
    hidden = Hidden(drawn_unit(number), HiddenUnit(plate(number), [fault], SEED))
    return followed(number, hidden, fault, quick=quick)


def followed(number: int, hidden: Hidden, fault: str, *, quick: bool = False) -> Result:
    """The hidden fault, found, mended and read again; only found, where it is to be quick."""
    told = sorted(hidden.inside.complaints)
    complaint = Random(f"{number}/{fault}").choice(told) if told else CHECK_UP
    episode = Watched(hidden, complaint)
    said = episode.follow()
    readings, state = episode.readings, episode.plan.sure.state
    leader = said.hypotheses[said.leader].id
    top = next(iter(said.decisions))
    part = hidden.inside.work_on(fault)
    right = top == part or part.removesuffix(".supply") in episode.plan.sure.parts
    by_order = None if quick else fixed_order(Episode(hidden, complaint))
    return Result(
        number,
        fault,
        complaint,
        right,
        not right and could_be(hidden.inside, leader, complaint in COOLING_FOR),
        said.decisions[top],
        state.value,
        readings,
        episode.ohms_live,
        tuple(episode.promises),
        _sound_after(episode, part) if right and not quick else None,
        None if by_order is None else next(iter(by_order.decisions)) == part,
        f"{leader} {said.probabilities.max():.2f}",
    )


def _sound_after(episode: Watched, part: str) -> bool:
    """The part is put right and the unit read again: the sound unit leads."""
    episode.mend({part})
    episode.readings = 0
    said = episode.follow()
    return said.hypotheses[said.leader].id == NONE


def measure(*, quick: bool = False) -> Iterator[str]:
    with ProcessPoolExecutor() as pool:
        find = partial(episode_of, quick=quick)
        results = list(pool.map(find, cases(quick), chunksize=5))
        yield from table(results)
        yield from promises(results)
        called = [r for r in results if r.complaint != CHECK_UP]
        yield "of these, with a complaint and no round to make:"
        yield from counts_of(called)
        yield from promises(called)
        yield from reliability(results)
        if not quick:
            yield from _pairs(list(pool.map(_pair, range(PAIRS), chunksize=5)))
            right = list(pool.map(_slipped, range(SLIPPED), chunksize=5))
            yield (
                f"{SLIPPED} episodes with one reading in five grossly wrong: part named, or not to"
                f" be told apart, {_share(right)} (at least 93 %)"
            )
        yield from _healthy(list(pool.map(_check_up, range(QUICK // 5 if quick else HEALTHY))))


def table(results: Sequence[Result]) -> Iterator[str]:
    after = [r.sound_after for r in results if r.sound_after is not None]
    yield (
        f"{len(results)} episodes on {len({r.plate for r in results})} plates: part named"
        f" {_share([r.right for r in results])}, or not to be told apart"
        f" {_share([r.right or r.alike for r in results])} (at least 96 %)"
    )
    yield from counts_of(results)
    if after:
        yield f"mended and read again: the sound unit leads in {_share(after)} (at least 98 %)"
    yield "mode                    n  right  could be  clear  likely  readings  fixed order"
    by_mode: dict[str, list[Result]] = defaultdict(list)
    for result in results:
        by_mode[result.fault.split(":")[1]].append(result)
    for mode, some in sorted(by_mode.items()):
        right = [r.right or r.alike for r in some]
        yield (
            f"{mode:21} {len(some):4} {_share(right):>7} {100 * wilson_high(right):7.1f} %"
            f" {_share([r.state == Sureness.CLEAR for r in some]):>7}"
            f" {_share([r.state == Sureness.LIKELY for r in some]):>7}"
            f" {np.mean([r.readings for r in some]):7.1f} {_share([r.fixed for r in some if r.fixed is not None]):>10}"
        )


def counts_of(results: Sequence[Result]) -> Iterator[str]:
    counts = [r.readings for r in results]
    yield (
        f"{len(results)} episodes, readings: median {np.median(counts):.0f} (at most 5), 95th"
        f" percentile {np.percentile(counts, 95):.0f} (at most 11);"
        f" ohms asked while live {sum(r.ohms_live for r in results)} (0)"
    )


def promises(results: Sequence[Result]) -> Iterator[str]:
    taken = [t for r in results for t in r.taken if not t.confirms]
    idle = [t.moved <= TELLS for t in taken]
    promised, got = sum(t.promised for t in taken), sum(t.got for t in taken)
    yield (
        f"{len(taken)} readings beside those that confirm: {promised:.0f} bits promised,"
        f" {got:.0f} got; that moved no weight by more than a hundredth {_share(idle)} (under 3 %);"
        f" read again in the same state {_share([t.again for t in taken])}, each with a word why"
    )


def reliability(results: Sequence[Result]) -> Iterator[str]:
    """How often what is called so likely is right; and the expected calibration error."""
    chances = np.array([r.chance for r in results])
    right = np.array([r.right or r.alike for r in results])
    lines, error, by_chance = [], 0.0, 0.0
    for low, high in pairwise(EDGES):
        inside = (chances >= low) & ((chances < high) | (high == 1.0))
        if inside.any():
            called, was = float(chances[inside].mean()), float(right[inside].mean())
            share = inside.mean()
            error += share * abs(called - was)
            by_chance += share * math.sqrt(2 / math.pi * called * (1 - called) / inside.sum())
            lines.append(f"{called:.2f} → {was:.2f} ({inside.sum()})")
    yield f"called → right (episodes): {', '.join(lines)}"
    yield (
        f"expected calibration error {error:.3f}, by chance alone at this size {by_chance:.3f}"
        f" (at most 0.03 more)"
    )


def fixed_order(episode: Episode[Hidden]) -> Posterior:
    """Amps of every element, coil volts, then along each dead rung; the judge only names."""
    unit = episode.unit
    episode.set_up(Setting(calls=unit.heat_calls, after_s=250))
    steps = [(Quantity.AMPS, element.id) for element in unit.elements]
    steps += [(Quantity.VOLTS, f"{control.id}.coil") for control in unit.controls]
    steps += [(Quantity.VOLTS, part) for element in unit.elements for part in element.rung]
    said = episode.judged()
    for quantity, at in steps:
        if said.surest >= 0.95:
            break
        episode.readings += 1
        episode.read(quantity, at)
        said = episode.judged()
    return said


@dataclass(frozen=True, slots=True)
class Pair:
    """Two faults at once: both parts named, at once or the second after the first was mended."""

    found: bool
    readings: int


def _pair(number: int) -> Pair:
    dice = Random(f"wider pair/{number}")
    drawn = dice.randrange(PLATES)
    while True:
        one, two = dice.sample(faults_of(plate(drawn)), 2)
        hidden = Hidden(drawn_unit(drawn), HiddenUnit(plate(drawn), [one, two], f"pair {number}"))
        bad = {hidden.inside.work_on(fault) for fault in (one, two)}
        if len(bad) == 2 and hidden.inside.complaints:
            break
    return pair_found(hidden, bad, dice.choice(sorted(hidden.inside.complaints)))


def pair_found(hidden: Hidden, bad: set[str], complaint: str) -> Pair:
    """Followed to a decision, then around it; if that is not both parts, what was found is mended and the unit
    followed again."""
    episode = Watched(hidden, complaint)
    episode.follow()
    readings = 0
    for _ in range(2):
        said = episode.check_around()
        readings += episode.readings
        named = set(next(iter(said.decisions)).split("+"))
        found = bad & named
        bad = bad - found
        if not bad:
            return Pair(True, readings)
        if not found:
            leader = said.hypotheses[said.leader].id
            return Pair(could_be(episode.simulated.inside, leader), readings)
        episode.mend(found)
        episode.readings = 0
        episode.follow()
    return Pair(False, readings)


def _pairs(pairs: Sequence[Pair]) -> Iterator[str]:
    counts = [pair.readings for pair in pairs]
    yield (
        f"{len(pairs)} pairs: both found, at once or the second after the first was mended,"
        f" {_share([pair.found for pair in pairs])} (at least 90 %); readings for both: median"
        f" {np.median(counts):.0f}, 95th percentile {np.percentile(counts, 95):.0f}"
    )


def _slipped(number: int) -> bool:
    dice = Random(f"wider slip/{number}")
    drawn = dice.randrange(PLATES)
    while True:
        fault = dice.choice(faults_of(plate(drawn)))
        hidden = Hidden(drawn_unit(drawn), HiddenUnit(plate(drawn), [fault], f"slip {number}"))
        if hidden.inside.complaints:
            break
    episode = Watched(hidden, dice.choice(sorted(hidden.inside.complaints)), WRONG_READINGS, number)
    said = episode.follow()
    part = hidden.inside.work_on(fault)
    right = next(iter(said.decisions)) == part
    right |= part.removesuffix(".supply") in episode.plan.sure.parts
    return right or could_be(hidden.inside, said.hypotheses[said.leader].id)


@dataclass(frozen=True, slots=True)
class CheckUp:
    """A sound unit on a check-up: whether the sound unit leads, and the findings above a watch."""

    sound: bool
    findings: tuple[str, ...] = field(default=())


def _loud(evidence: Evidence) -> tuple[str, ...]:
    """What is found above a watch."""
    found = [f for o in outcomes(evidence) for f in o.found]
    return tuple(str(f.code) for f in found if f.level in (Level.REPAIR, Level.STOP_NOW))


@cache
def _sound_plates() -> list[int]:
    """The plates that are sound by themselves: of one with a wrong tie or windows, a finding is
    right before anything is read."""
    return [n for n in range(PLATES) if not _loud(Evidence(drawn_unit(n), Visit()))]


def _check_up(number: int) -> CheckUp:
    drawn = _sound_plates()[number % len(_sound_plates())]
    hidden = Hidden(drawn_unit(drawn), HiddenUnit(plate(drawn), [], f"sound {number}"))
    episode = Watched(hidden, CHECK_UP)
    said = episode.follow()
    loud = _loud(Evidence(hidden.unit, episode.visit))
    return CheckUp(said.hypotheses[said.leader].id == NONE, loud)


def _healthy(found: Sequence[CheckUp]) -> Iterator[str]:
    wrong = sum(not one.sound for one in found)
    loud = sorted({code for one in found for code in one.findings})
    yield (
        f"{len(found)} check-ups of sound units: a suspect ahead of the sound unit in {wrong} (at"
        f" most 2 of 200); findings above a watch: {', '.join(loud) or 'none'}"
    )


def wilson_high(flags: Sequence[bool]) -> float:
    """The upper end of the Wilson interval of a share."""
    count, share = len(flags), float(np.mean(flags))
    middle = share + Z**2 / (2 * count)
    half = Z * math.sqrt(share * (1 - share) / count + Z**2 / (4 * count**2))
    return (middle + half) / (1 + Z**2 / count)


def _share(flags: Sequence[bool]) -> str:
    return f"{100 * np.mean(flags):.1f} %" if flags else "–"
