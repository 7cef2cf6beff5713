"""The retest list held against the wider world: a unit whose fault is still in it never passes, one
that is repaired does. The fault is found by doing as the judge says; then the part is said to be
replaced, truly or not, and the list is read honestly."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial
from random import Random

from plentar.core.guided.retest import retest_lines
from plentar.core.guided.retest_line import Line
from plentar.core.judge.shown.complaints import CHECK_UP
from plentar.core.judgement import Setting
from plentar.core.visit.events import ON, PROVED_DEAD, Calls, Power, Replaced
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import all_off_s, state_at
from plentar.files.unit_json import unit_to_json
from plentar.stand_ins.hidden import Hidden
from plentar.stand_ins.technician import MENDING_S, PROVE_S, Episode
from plentar.stand_ins.wider.specimen import faults_of
from plentar.stand_ins.wider.world import HiddenUnit
from plentar.store.demo.plates import plates

MOST_LINES = 40
LEAST_PASS, MOST_METER = 0.98, 9


@dataclass(frozen=True, slots=True)
class Retested:
    """One unit: whether it passed with the fault in it and repaired, how many lines are a meter's."""

    home: int
    fault: str
    passed_with_fault: bool
    passed_repaired: bool
    lines: int
    failed: tuple[str, ...]


def cases() -> list[tuple[int, str]]:
    """Every fault of every demo plate."""
    return [(home, f) for home, unit in plates().items() for f in faults_of(unit_to_json(unit))]


def retested(case: tuple[int, str], seed: str = "1") -> Retested:
    """A fault found, its part said to be replaced, the list read: with the fault still in, and not."""
    home, fault = case
    still = [_after(home, fault, seed, mended=mended) for mended in (False, True)]
    (lines_with, _), (lines_without, failed) = still
    return Retested(
        home,
        fault,
        all(line.state == "pass" for line in lines_with),
        all(line.state == "pass" for line in lines_without),
        len(lines_without),
        failed,
    )


def _after(home: int, fault: str, seed: str, *, mended: bool) -> tuple[tuple[Line, ...], tuple[str, ...]]:
    unit = plates()[home]
    inside = HiddenUnit(unit_to_json(unit), [fault], seed)
    told = sorted(inside.complaints)
    complaint = Random(f"{home}/{fault}").choice(told) if told else CHECK_UP
    episode = Episode(Hidden(unit, inside), complaint)
    episode.follow()
    part = inside.work_on(fault)
    _said_replaced(episode, part, mended=mended)
    lines = _read(episode)
    failed = tuple(
        f"{line.step.title}: {line.says}"
        for line in lines
        if line.state != "pass" and line.step.verdict is not None
    )
    return lines, failed


def _said_replaced(episode: Episode[Hidden], part: str, *, mended: bool) -> None:
    if not state_at(episode.unit, episode.events, episode.t_s).proved_dead:
        episode.t_s += PROVE_S
        episode.events.append(Power(t_s=episode.t_s, state=PROVED_DEAD))
    episode.t_s += MENDING_S
    component = part.removesuffix(".supply")
    episode.events.append(Replaced(t_s=episode.t_s, component=component))
    episode.events.append(Calls(t_s=episode.t_s, calls=frozenset(), lifted=False))
    if mended:
        episode.simulated = episode.simulated.mended({part})


def _read(episode: Episode[Hidden]) -> tuple[Line, ...]:
    """Every line in its order; the first that fails does not end it here."""
    for _ in range(MOST_LINES):
        lines = retest_lines(Evidence(episode.unit, episode.visit), episode.t_s)
        lines = tuple(line for line in lines if not line.step.timed)  # the tape has a benchmark of its own
        step = next((line.step for line in lines if line.state == "open"), None)
        if step is None:
            return lines
        setting = step.setting
        state = state_at(episode.unit, episode.events, episode.t_s)
        if setting.power == ON and setting.calls is None and state.calls:
            episode.set_up(Setting(calls=frozenset()))
        episode.set_up(setting)
        if setting.power == ON:
            episode.t_s += all_off_s(episode.unit) if not state.calls else 0.0
        if step.watched:
            episode.watch(step.at)
        else:
            episode.read_once(step.quantity, step.at, driven=setting.driven)
    return lines


def measure() -> Iterator[str]:
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(partial(retested), cases(), chunksize=4))
    passed = [r for r in found if r.passed_with_fault]
    good = sum(r.passed_repaired for r in found)
    yield f"{len(found)} faults on the demo plates, found, said to be repaired, read again"
    yield f"  with the fault still in it, passed: {len(passed)} (none)"
    yield f"  repaired, passed: {100 * good / len(found):.1f} % (at least {100 * LEAST_PASS:.0f} %)"
    for one in passed:
        yield f"  passed wrongly: home {one.home}, {one.fault}"
    for one in (r for r in found if not r.passed_repaired):
        yield f"  refused though repaired: home {one.home}, {one.fault}: {'; '.join(one.failed)}"
