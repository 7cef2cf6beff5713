"""The stops of a visit as a state machine, folded from its events and nothing else.

What raised a stop keeps it up: a later reading that shows nothing (a limit has opened meanwhile, a lead
has moved), a call put on over it, power off do not take it away. It ends as its row of ``table`` and
``ends`` say; what was struck out or corrected is not among the events any more, and raises nothing. The
suite's README draws it.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from plentar.core.checks.registry import CHECKS
from plentar.core.judgement import Finding, FindingCode, Level
from plentar.core.safety.ends import Tried, as_expected, ends_by_work, mends
from plentar.core.safety.reach import at_risk
from plentar.core.safety.suspicion import Suspicion
from plentar.core.safety.table import STOPS
from plentar.core.supply.loads import supplied
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import same_setting
from plentar.core.visit.events import PROVED_DEAD, Answered, Did, Event, Looked, Power, Reading
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState

Key = tuple[FindingCode, str]
#: Readings as expected in the state of the one that raised a stop, after which that one was wrong.
ENOUGH_GOOD = 2


@dataclass(frozen=True, slots=True)
class Stop:
    """A stop that has not ended. ``way_back``: a repair or an answer permits one guarded step;
    ``answered``: its banner is down until then, or until something says it again."""

    finding: Finding
    answered: bool = False
    way_back: bool = False
    #: The way back is a repair's: the judge proposes it, which an answer alone never makes it do.
    mended: bool = False
    #: The one step before a repair, the thermostat wires lifted, was made or is being made.
    tried: bool = False


@dataclass
class _Latched:
    """One stop on its way through the events."""

    finding: Finding
    state: PanelState
    answered: bool = False
    mended: bool = False
    good: int = 0
    looked_again: bool = False
    #: What it bars was so at the last switch, and since a repair or an answer it was not.
    in_force: bool = False
    lifted: bool = False
    #: Lifting the thermostat wires has permitted its one step; it is being made with them off.
    tried: bool = False
    trying: bool = False

    @property
    def key(self) -> Key:
        return self.finding.code, self.finding.component

    def raised_again(self, finding: Finding, state: PanelState) -> None:
        self.finding, self.state = finding, state
        self.answered = self.mended = self.lifted = self.trying = self.looked_again = False
        self.good = 0

    def permit(self) -> None:
        """A repair or an answer: one guarded step."""
        self.lifted, self.trying = True, False

    def switched(self, unit: Unit, state: PanelState, t_s: float) -> None:
        """The one guarded step is over once what it permits was so, and is so no more."""
        before, self.in_force = self.in_force, at_risk(unit, self.finding, self.state, state)
        over = before and not self.in_force
        if self.lifted and (over or (self.trying and not state.lifted)):
            self.lifted = self.answered = self.trying = False
            self.finding = replace(self.finding, t_s=t_s)
        if state.lifted and state.proved_dead and self._may_be_tried:
            self.lifted = self.tried = self.trying = True

    @property
    def _may_be_tried(self) -> bool:
        """With the wires on it was raised, and nothing permits a step yet."""
        rule = STOPS[self.finding.code]
        return rule.wires_off and not (self.tried or self.lifted or self.state.lifted)


def standing(evidence: Evidence) -> tuple[Stop, ...]:
    """The stops that have not ended, latched ones and those of the plate, in the order of their raising."""
    return evidence.once("stops", lambda: (*course(evidence)[-1], *_of_plate(evidence)))


def course(evidence: Evidence) -> list[tuple[Stop, ...]]:
    """The latched stops before the first event of a visit and after each."""
    return list(_Fold(evidence).steps())


def open_of(stops: Iterable[Stop]) -> tuple[Finding, ...]:
    """Those that nobody has answered."""
    return tuple(stop.finding for stop in stops if not stop.answered)


def barring(stops: Iterable[Stop]) -> tuple[Finding, ...]:
    """Those that bar now: all but where one guarded step is permitted."""
    return tuple(stop.finding for stop in stops if not stop.way_back)


def barring_proposals(stops: Iterable[Stop]) -> tuple[Finding, ...]:
    """Those that bar what is proposed: what was answered and not mended is shown by the page alone."""
    return tuple(stop.finding for stop in stops if not (stop.way_back and stop.mended))


def _of_plate(evidence: Evidence) -> Iterator[Stop]:
    """What the plate says stands until the plate, or a stage left off, says otherwise; an answer holds
    for what was known when it was given."""
    answered: dict[Key, float] = {}
    for given in evidence.visit.answered:
        key = (FindingCode(given.code), given.component) if given.code in set(FindingCode) else None
        if key is not None:
            answered[key] = max(_answered_s(evidence, given), answered.get(key, 0.0))
    codes = {code for code, rule in STOPS.items() if not rule.latched}
    for check in CHECKS:
        if check.codes & codes:
            for found in check.outcome(evidence).found:
                if found.level is Level.STOP_NOW and found.code in codes and not _relieved(evidence, found):
                    by_now = answered.get((found.code, found.component), -1.0) >= found.t_s
                    yield Stop(found, by_now, by_now, by_now)


def _relieved(evidence: Evidence, stop: Finding) -> bool:
    """A stage is left off, and what is left is within what the wire or the plate allows."""
    if stop.code not in (FindingCode.BREAKER_OVER_CONDUCTOR, FindingCode.BREAKER_OVER_PLATE):
        return False
    unit, left_off = evidence.unit, evidence.state_at(math.inf).stages_off
    one = next((one for one in supplied(unit, left_off) if one.id == stop.component), None)
    if one is None or not any(e.id in left_off for c in one.circuits for e in unit.elements_on(c)):
        return False
    return one.load.total <= stop.numbers.get("allowed_amps", math.inf)


def _answered_s(evidence: Evidence, given: Answered) -> float:
    """Until when an answer covers: by how many events stood, else by its own time, s."""
    if given.events is None:
        return given.t_s
    before = evidence.visit.events[: given.events]
    return before[-1].t_s if before else 0.0


class _Fold:
    def __init__(self, evidence: Evidence) -> None:
        self.evidence, self.unit, self.visit = evidence, evidence.unit, evidence.visit
        self.stops: dict[Key, _Latched] = {}
        self.found: dict[FindingCode, list[Finding]] = {}
        self.suspicion = Suspicion(evidence)

    def steps(self) -> Iterator[tuple[Stop, ...]]:
        """What stands before the first event and after each."""
        events = self.visit.events
        looks, answers = self._by_count(self.visit.looked), self._answers()
        for count in range(len(events) + 1):
            if count:
                self._take(events[count - 1], count)
            for look in looks.get(count, ()):
                self._look(look)
            for given in answers.get(count, ()):
                self._answer(given)
            yield tuple(Stop(s.finding, s.answered, s.lifted, s.mended, s.tried) for s in self.stops.values())

    def _by_count(self, looks: Iterable[Looked]) -> dict[int, list[Looked]]:
        found: dict[int, list[Looked]] = {}
        for look in looks:
            found.setdefault(self._count_at(look.t_s), []).append(look)
        return found

    def _answers(self) -> dict[int, list[Answered]]:
        found: dict[int, list[Answered]] = {}
        last = len(self.visit.events)
        for given in self.visit.answered:
            stood = self._count_at(given.t_s) if given.events is None else min(given.events, last)
            found.setdefault(stood, []).append(given)
        return found

    def _count_at(self, t_s: float) -> int:
        return sum(event.t_s <= t_s for event in self.visit.events)

    def _take(self, event: Event, count: int) -> None:
        state = self.evidence.state_at(event.t_s)
        taken = self.evidence.take_then(event) if isinstance(event, Reading) else None
        codes = self.suspicion.of_reading(taken) if taken else self.suspicion.of_event(event, state)
        if not codes and not self.stops:
            return
        stood = self.evidence.until(count)
        for stop in list(self.stops.values()):
            if self._ends(stop, Tried(stop.finding, stop.state, stood, event, taken), state):
                del self.stops[stop.key]
        self._raise(stood, codes, state)

    def _ends(self, stop: _Latched, tried: Tried, state: PanelState) -> bool:
        event, taken = tried.event, tried.taken
        if event.is_switch:
            stop.switched(self.unit, state, event.t_s)
        if isinstance(event, Did) and ends_by_work(self.unit, stop.finding, event):
            return True
        if stop.finding.code is FindingCode.LIVE_WHEN_OFF:
            return _proved_again(event, state) and tried.stood.proved_since(stop.finding.t_s)
        if mends(self.unit, stop.finding, event):
            stop.mended, stop.good = True, 0
            stop.permit()
        if not as_expected(tried):
            return False
        if stop.finding.code is FindingCode.WHOLE_UNIT:
            return stop.looked_again
        if stop.mended:
            return True
        if taken is not None and same_setting(stop.state, taken.state):
            stop.good += 1
        return stop.good >= ENOUGH_GOOD

    def _raise(self, stood: Evidence, codes: frozenset[FindingCode], state: PanelState) -> None:
        for check in CHECKS:
            for code in check.codes & codes:
                found = [
                    f for f in check.outcome(stood).found if f.code is code and f.level is Level.STOP_NOW
                ]
                new = [f for f in found if f not in self.found.get(code, ())]
                self.found[code] = found
                for finding in new:
                    self._stand(finding, state)

    def _stand(self, finding: Finding, state: PanelState) -> None:
        key = finding.code, finding.component
        if key in self.stops:
            self.stops[key].raised_again(finding, state)
        else:
            stop = self.stops[key] = _Latched(finding, state)
            stop.in_force = at_risk(self.unit, finding, state, state)

    def _look(self, look: Looked) -> None:
        key = FindingCode.WHOLE_UNIT, look.item
        stop = self.stops.get(key)
        if look.state == "burnt":
            cut = replace(self.evidence, visit=replace(self.visit, events=(), looked=(look,)))
            check = next(c for c in CHECKS if FindingCode.WHOLE_UNIT in c.codes)
            [finding] = [f for f in check.outcome(cut).found if f.level is Level.STOP_NOW]
            self._stand(finding, self.evidence.state_at(look.t_s))
        elif stop is not None and stop.mended and look.item in JOINTS_SEEN:
            stop.looked_again = True
        elif stop is not None:
            stop.good += 1
            if stop.mended or stop.good >= ENOUGH_GOOD:
                del self.stops[key]

    def _answer(self, given: Answered) -> None:
        for stop in self.stops.values():
            if (stop.finding.code, stop.finding.component) == (given.code, given.component):
                stop.answered = True
                if stop.finding.code is not FindingCode.LIVE_WHEN_OFF:
                    stop.permit()


#: What is a joint of the supply: mended and seen to be fine, it is proved by its volts under load.
JOINTS_SEEN = frozenset({"lugs", "panel"})


def _proved_again(event: Event, state: PanelState) -> bool:
    return isinstance(event, Power) and event.state == PROVED_DEAD and state.proved_dead
