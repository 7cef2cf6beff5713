"""The retest: what was found bad, and what the repair could have disturbed, read once more.

Proved dead first, what a meter tells without power; then the proof of a stop that stands; the fan, the heat,
the tie under guard, and the end of the call. A line is through once its reading since the last repair is as it
should be.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import cached_property

from plentar.core.expected import Expected
from plentar.core.expected.rules import expected_of
from plentar.core.guided import Guided, Step, lines
from plentar.core.guided.asking import Asking, TestStage
from plentar.core.guided.retest_due import Dues
from plentar.core.guided.retest_line import Line, as_shown
from plentar.core.guided.retest_wanted import Touched, Wanted, found_in, touched_by
from plentar.core.quantity import Quantity
from plentar.core.safety.latch import standing
from plentar.core.said import NOTHING, Said, listed, rounded, say, span
from plentar.core.timing.moves import Timing, moves_of
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import Control, Switch
from plentar.core.unit.points import resolve
from plentar.core.visit.events import Observed
from plentar.core.visit.evidence import Evidence, Taken

A, V = Quantity.AMPS, Quantity.VOLTS
WATCHED, TIMED = "watched", "timed"


def _key(stage: TestStage, at: str, what: str) -> str:
    calls = f" with {' '.join(sorted(stage.calls))}" if stage.calls else ""
    return f"{what} {at}{calls}{' driven' if stage.driven else ''}"


def retest_lines(evidence: Evidence, now_s: float) -> tuple[Line, ...]:
    """The list, in the order in which it is read; empty where nothing was mended."""
    if not any(touched_by(event) for event in evidence.visit.events):
        return ()
    return tuple(_List(evidence, now_s).lines())


def retest(evidence: Evidence, now_s: float) -> Guided:
    """The list as a test that is gone through; its result is before and after."""
    every = retest_lines(evidence, now_s)
    steps = tuple(replace(line.step, note=line.because) for line in every)
    told = [
        (line.step.title, say("before-after", before=as_shown(line.before), after=as_shown(line.step.taken)))
        for line in every
        if line.step.taken is not None
    ]
    failed = [line for line in every if line.state == "fail"]
    stop = say("guided.retest.not-should-repair-not", step=failed[0].step.title) if failed else NOTHING
    if evidence.state_at(now_s).lifted:
        stop = say("guided.retest.put-thermostats-wires-back")
    return Guided(steps, lines(*told), stop)


class _List:
    def __init__(self, evidence: Evidence, now_s: float) -> None:
        self.evidence, self.unit = evidence, evidence.unit
        self.touched = Touched(evidence)
        self.since_s = self.touched.since_s
        self.asking = Asking(evidence, now_s, self.since_s)
        self.dues = Dues(self.asking, self.touched.parts)

    def lines(self) -> Iterator[Line]:
        """Every line once, each setting's lines together; the heat is watched before it is ended."""
        every = list(self._read())
        last = [stage for stage, _ in every if not (stage.dead or stage.calls or self._proves(stage))]
        yield from (line for stage, line in every if stage not in last)
        yield from self._watched()
        yield from (line for stage, line in every if stage in last)
        yield from self._timed()

    def _read(self) -> Iterator[tuple[TestStage, Line]]:
        seen: set[tuple[str, Quantity, frozenset[str], bool, bool]] = set()
        wanted = _once(list(self.touched.wanted()))
        for one in sorted(wanted, key=lambda one: (self._order(one.stage), self._place(one))):
            stage, at, quantity = one.stage, one.at, one.quantity
            key = (at, quantity, stage.calls, stage.dead, stage.driven)
            if key in seen:
                continue
            seen.add(key)
            step = self.dues.of(self.asking.step(stage, at, quantity, one.title), stage)
            line_key = _key(stage, at, quantity)
            owner = resolve(self.unit, at).component
            free = stage.with_or_without
            called = stage.calls - free
            found = self.found_since.get(owner, NOTHING) if step.taken and called else NOTHING
            short = NOTHING if step.taken else self.asking.not_counted(stage, at, quantity)
            before = self._before(at, quantity, stage)
            step = self._answered(step, line_key)
            line = Line(step, one.because, line_key, before, found, stage.words, called, free, short)
            yield (stage, line)

    def _order(self, stage: TestStage) -> tuple[bool, bool, bool, bool, bool, int, float]:
        """Dead before live; what proves that a stop is over; the fan before heat, guarded heat after it, and
        the call off last."""
        live = not stage.dead
        return (
            live,
            stage.driven,
            live and not self._proves(stage),
            live and not stage.calls,
            stage.guard is not None,
            len(stage.calls),
            stage.after_s,
        )

    def _place(self, one: Wanted) -> tuple[bool, str]:
        """Of a feed under heat one reading after the other: its joints are told by a pair within a minute."""
        circuit, _, end = one.at.partition(".")
        of_feed = circuit in self.unit.circuit_by_id and one.stage.calls
        return (True, f"{circuit} {one.quantity is A} {end != 'line'}") if of_feed else (False, "")

    def _proves(self, stage: TestStage) -> bool:
        """It is the setting in which a stop was raised that stands: nothing else is switched before."""
        calls = stage.calls - stage.with_or_without
        return not stage.dead and any(
            raised is not None and raised - stage.with_or_without == calls for raised in self._raised
        )

    @cached_property
    def _raised(self) -> list[frozenset[str]]:
        """What was called when each stop was raised that stands."""
        return [
            self.evidence.state_at(stop.finding.t_s).calls for stop in standing(self.evidence) if stop.mended
        ]

    def _watched(self) -> Iterator[Line]:
        """Ten minutes of heat where a limit opened, or what moves the air was mended."""
        unit, touched = self.unit, self.touched
        limits = touched.parts & {limit.id for limit in unit.limits}
        if not (touched.air and unit.elements and unit.heat_calls):
            return
        watch = next((e for e in unit.elements if limits & set(e.rung)), unit.elements[0])
        after = [
            e
            for e in self.evidence.visit.of_kind(Observed)
            if e.t_s > self.since_s and e.action in ("cycling", "steady") and e.part == watch.id
        ]
        stage = replace(touched.heat, with_or_without=frozenset())
        due = Expected(resolve(unit, watch.id), A, absent=say("guided.retest.steady-ten-minutes-heat"))
        seen = say(f"seen.{after[-1].action}") if after else NOTHING
        title = say("guided.retest.ten-minutes-current-stays", watch=said_of(unit, watch.id))
        step = Step(title, watch.id, A, self.asking.setting(stage), due, watched=True, seen=seen)
        key = _key(stage, watch.id, WATCHED)
        yield Line(self._answered(step, key), say("guided.retest.limits-hold"), key, under=stage.words)

    def _timed(self) -> Iterator[Line]:
        """Each new device that takes its time, on and off, as far as its windows are printed."""
        for control in self.unit.controls:
            own = {control.id, *(s.id for s in control.switches)}
            if not (control.kind.thermal and own & self.touched.parts):
                continue
            for action in ("on", "off"):
                printed = [s for s in control.switches if f"{action}_s" not in s.typical]
                if printed:
                    yield self._timed_line(control, action, printed)

    def _timed_line(self, control: Control, action: str, switches: Sequence[Switch]) -> Line:
        acted = {
            move.part: move
            for move in moves_of(self.unit, self.evidence.visit)
            if move.action == action and move.seen_s is not None and move.seen_s > self.since_s
        }
        due_s = {s.id: s.on_s if action == "on" else s.off_s for s in switches}
        due = listed(
            (
                say(
                    "guided.retest.window",
                    switch=said_of(self.unit, name),
                    range=span(band.low, band.high, "s"),
                )
                for name, band in due_s.items()
            ),
            ",",
        )
        seen = {name: acted[name] for name in due_s if name in acted}
        words = {name: move.word(self.asking.now_s) for name, move in seen.items()}
        step = Step(
            say(
                "guided.retest.timed", control=said_of(self.unit, control.id), action=say(f"action.{action}")
            ),
            f"{control.id}.coil",
            V,
            self.asking.setting(self.touched.heat),
            Expected(resolve(self.unit, f"{control.id}.coil"), V, absent=due),
            timed=True,
            in_time=len(seen) == len(due_s) and set(words.values()) == {Timing.IN_WINDOW},
        )
        late = {Timing.LATE, Timing.EARLY} & set(words.values())
        if late or step.in_time:
            step = replace(
                step,
                seen=listed(
                    (
                        say(
                            "guided.retest.took", switch=said_of(self.unit, n), seconds=rounded(m.took_s or 0)
                        )
                        for n, m in seen.items()
                    ),
                    ",",
                ),
            )
        key = f"{TIMED} {control.id} {action}"
        return Line(
            self._answered(step, key), say("guided.retest.windows"), key, under=say("guided.retest.tape")
        )

    def _answered(self, step: Step, key: str) -> Step:
        """With the newest answer since the repair, if it is no older than the line's reading."""
        read_s = step.taken.reading.t_s if step.taken else self.since_s
        said = [
            one
            for one in self.evidence.visit.left_out
            if one.line == key and one.t_s >= max(read_s, self.since_s)
        ]
        return replace(step, left_out=said[-1].reason) if said else step

    @cached_property
    def found_since(self) -> dict[str, Said]:
        """What the checks find by what was read since the repair, by component."""
        return {f.component: f.text for f in found_in(self.evidence) if f.t_s > self.since_s}

    def _before(self, at: str, quantity: Quantity, stage: TestStage) -> Taken | None:
        """The last reading there before the repair in the same state, no test bridge in; of several repairs the
        last that was bad."""
        free = stage.with_or_without
        same = [
            t
            for t in self.evidence.taken
            if t.reading.at == at
            and t.reading.quantity is quantity
            and t.reading.t_s <= self.since_s
            and t.reading.driven == stage.driven
            and not t.state.bridged
            and t.state.proved_dead == stage.dead
            and (stage.dead or t.state.calls - free == stage.calls - free)
        ]
        bad = [t for t in same if expected_of(self.evidence, t).judge(t.reading.value).good is False]
        return next(iter([*bad[-1:], *same[-1:]]), None)


def _once(wanted: Sequence[Wanted]) -> list[Wanted]:
    """Volts at one point tell most with most called: what stays there with less is not asked too."""
    most: dict[str, int] = {}
    for one in wanted:
        if one.quantity is V and not one.stage.dead:
            most[one.at] = max(most.get(one.at, 0), len(one.stage.calls))
    return [w for w in wanted if w.quantity is not V or w.stage.dead or len(w.stage.calls) == most[w.at]]
