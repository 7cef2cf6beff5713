"""Why a suspect is suspected: the readings that moved its weight most, with their numbers."""

from __future__ import annotations

import math
from collections.abc import Hashable, Iterator
from functools import cached_property

import numpy as np

from plentar.core.circuit.network import Real
from plentar.core.judge.hypotheses.hypothesis import Hypothesis
from plentar.core.judge.hypotheses.words import sentence
from plentar.core.judge.weigh.likelihood import ItemLikelihood, shown_band
from plentar.core.judge.weigh.observation import SOUNDS_OHMS
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judge.weigh.seen import in_words
from plentar.core.judgement import NONE, Finding, FindingCode, Level
from plentar.core.quantity import Quantity
from plentar.core.said import Said, clock, figure, listed, say, span
from plentar.core.tables import thresholds as th
from plentar.core.unit.naming import said_of
from plentar.core.unit.points import point_said
from plentar.core.visit.events import Reading
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import called_since, longest_on_s

MOST_REASONS = 3
NOT_PREDICTED = say("because.not-predicted")
#: A reading that speaks for a suspect by less is not worth a sentence, nats.
WORTH_SAYING = 0.3
#: From this share on, what none of the known faults covers leads all of them together.
FITS_NOTHING = 0.5
COIL_DRIVEN_V = 15.0
#: Below this a value is written 0 anyway.
WRITTEN_ZERO = 0.0005
#: Below these a clamp or a meter in the field shows nothing.
ABOUT_ZERO = {Quantity.AMPS: 0.05, Quantity.VOLTS: 0.05}


class Reasons:
    """Reasons for the suspects of one posterior; what they are compared with is worked out once.

    A reading speaks for a suspect by how far its odds would fall had it not been taken: the one
    that decided comes first.
    """

    def __init__(self, posterior: Posterior) -> None:
        self.posterior = posterior
        self._sound: dict[int, tuple[float, float] | None] = {}
        parts = (posterior.singles, *posterior.pairs)
        count = len(posterior.items)
        other = [math.log(item.misread) for item in posterior.items]
        #: Log weights (hypotheses,), of what none covers last, and how each explains each item.
        self._log = np.concatenate([*(part.log for part in parts), [posterior.other_log]])
        of_item = [part.of_item for part in parts]
        self._of_item = np.concatenate([*of_item, np.array(other).reshape(count, 1)], axis=1)

    def of(self, number: int) -> tuple[Said, ...]:
        """The readings that moved the odds of one hypothesis most."""
        items = self.posterior.items
        if not items:
            return ()
        gains, own = self._gains(number, self._with_repeats), self._gains(number, self._of_item)
        found: list[Said] = []
        places: set[Hashable] = set()
        for n in np.lexsort((-own, -gains.round(9))):
            if gains[n] < WORTH_SAYING or len(found) == MOST_REASONS:
                break
            if self._places[n] in places:
                continue
            places.add(self._places[n])
            said = self._say(number, items[int(n)])
            if said not in found:
                found.append(said)
        if not found:
            found.append(say("because.rate"))
        return tuple(found)

    def _gains(self, number: int, of_item: Real) -> Real:
        """How far its log odds would fall without what each item weighs, (items, hypotheses): (items,)."""
        others = np.delete(np.arange(len(self._log)), number)
        with_all = np.logaddexp.reduce(self._log[others])
        without = np.logaddexp.reduce(self._log[others] - of_item[:, others], axis=1)
        return np.asarray(of_item[:, number] + without - with_all)

    @cached_property
    def _with_repeats(self) -> Real:
        """What each item weighs together with the others of its point in its setting: entered twice, a value
        alone would move nothing."""
        places = self._places
        return np.array([self._of_item[[p == own for p in places]].sum(axis=0) for own in places])

    @cached_property
    def _places(self) -> list[Hashable]:
        return [self._place(n, item) for n, item in enumerate(self.posterior.items)]

    def _place(self, number: int, item: ItemLikelihood) -> Hashable:
        event = item.event
        if not isinstance(event, Reading):
            return number
        state = self.posterior.evidence.state_at(event.t_s)
        return event.at, event.quantity, event.driven, state.calls, frozenset(state.power.items())

    def _say(self, number: int, item: ItemLikelihood) -> Said:
        posterior = self.posterior
        if not isinstance(item.event, Reading):
            return in_words(posterior.evidence.unit, item.event)
        taken = posterior.evidence.take(item.event)
        said = _open_part(posterior.evidence, posterior.hypotheses[number], taken)
        return said or self._compared(number, taken)

    def _compared(self, number: int, taken: Taken) -> Said:
        """A reading beside what the suspect and what a sound unit would show."""
        reading, hypothesis = taken.reading, self.posterior.hypotheses[number]
        said = say("because.reading", value=reading.quantity.shown(reading.value), at=taken.point.title)
        called_since_s = list(taken.state.since_s.values())
        if called_since_s and not reading.quantity.dead_only:
            after_s = taken.state.t_s + reading.lead_s - min(called_since_s)
            said = say("because.reading-after", reading=said, time=clock(after_s))
        own = _range(shown_values(self.posterior, number, taken), reading)
        if hypothesis.id == NONE:
            return say("because.as-sound", reading=said, range=own)
        sound = _range(self._sound_values(taken), reading)
        if NOT_PREDICTED in (own, sound):
            return said
        name = listed(sentence(self.posterior.evidence.unit, fault) for fault in hypothesis.faults)
        if own == sound:
            return say("because.fits", reading=said, fault=name)
        return say("because.range", reading=said, range=own, fault=name, sound=sound)

    def _sound_values(self, taken: Taken) -> tuple[float, float] | None:
        key = id(taken.reading)
        if key not in self._sound:
            self._sound[key] = shown_values(self.posterior, 0, taken)
        return self._sound[key]


def _open_part(evidence: Evidence, hypothesis: Hypothesis, taken: Taken) -> Said | None:
    """Line volts across a part that should be closed: the plainest sign there is."""
    reading, unit = taken.reading, evidence.unit
    parts = {fault.component for fault in hypothesis.faults}
    rated = max(circuit.rated_volts for circuit in unit.circuits)
    if (
        reading.quantity is not Quantity.VOLTS
        or reading.at not in parts
        or reading.at in unit.circuit_by_id  # volts at the lugs are low or there, no part that opens
        or reading.value < th.LINE_VOLTS_SHARE * rated
    ):
        return None
    control = unit.control_of_switch.get(reading.at)
    reasons = []
    if control is not None:
        coil = evidence.latest(f"{control.id}.coil", Quantity.VOLTS)
        since = called_since(unit, taken.state, control)
        if coil is not None and coil.reading.value >= COIL_DRIVEN_V:
            reasons.append(say("because.coil-has", volts=figure(coil.reading.value, "V")))
        if since is not None:
            past_s = taken.state.t_s + reading.lead_s - since
            window_s = longest_on_s(unit, control, reading.at)
            if past_s >= window_s:
                reasons.append(say("because.past", time=clock(past_s), window=clock(window_s)))
    volts, part = figure(reading.value, "V"), said_of(unit, reading.at)
    if reasons:
        return say("because.open-while", volts=volts, part=part, reasons=listed(reasons))
    return say("because.open", volts=volts, part=part)


def shown_values(posterior: Posterior, number: int, taken: Taken) -> tuple[float, float] | None:
    """What a hypothesis shows where a reading was taken, in its likeliest stretch of sizes."""
    part, at = posterior.place_of(number)
    return shown_band(part.ensemble, posterior.history, int(part.best[at]), taken)


def _range(values: tuple[float, float] | None, reading: Reading) -> Said:
    if values is None:
        return NOT_PREDICTED
    low, high = values
    if reading.quantity is Quantity.TONE:
        return Quantity.TONE.shown(float(high < SOUNDS_OHMS.high))
    sign = reading.quantity.sign
    if math.isinf(high):
        return say("because.shown-open", overload=figure(math.inf, sign))
    if low >= 0 and WRITTEN_ZERO <= high < ABOUT_ZERO.get(reading.quantity, 0.0):
        return say("about-zero", unit=sign)
    return span(low, high, sign)


def contradictions(posterior: Posterior) -> Iterator[Finding]:
    """What does not add up: readings that nothing known shows together, and two of which only one
    can be, with the one to repeat."""
    part, at = posterior.place_of(posterior.leader)
    if len(part.items) < 2:
        return
    fits = part.explained(at)
    explained = [
        np.array([item.explained for item in one.items]).reshape(len(one.items), -1)
        for one in (posterior.singles, *posterior.pairs)
    ]
    table = np.concatenate(explained, axis=1)  # items × variants
    if posterior.probabilities[-1] >= FITS_NOTHING:
        yield _fits_nothing(posterior, np.asarray(table.any(axis=1)))
    for n in np.flatnonzero(~fits):
        against = [
            m
            for m in np.flatnonzero(fits)
            if not (table[n] & table[m]).any() and table[n].any() and table[m].any()
        ]
        odd = part.items[int(n)].event
        if not against or not isinstance(odd, Reading):
            continue
        other = part.items[int(against[-1])].event
        if not isinstance(other, Reading):
            continue
        evidence = posterior.evidence
        text = say("contradiction.two", one=_short(evidence, odd), other=_short(evidence, other))
        component = posterior.evidence.take(odd).point.component
        numbers = {"one": _finite(odd.value), "other": _finite(other.value)}
        yield Finding(FindingCode.CONTRADICTION, Level.WATCH, component, text, numbers)


def _fits_nothing(posterior: Posterior, explained: np.ndarray) -> Finding:
    """More likely than all that is known is something else: said with the readings that no fault
    shows, whatever else was read."""
    items = [item.event for item in posterior.items]
    readings = [event for event in items if isinstance(event, Reading)]
    odd = [e for e, some in zip(items, explained, strict=True) if isinstance(e, Reading) and not some]
    if odd:
        shown = dict.fromkeys(_short(posterior.evidence, one) for one in odd[-MOST_REASONS:])
        text = say("contradiction.none-shows", readings=listed(shown, "or"))
    else:
        text = say("contradiction.nothing")
    told = odd or readings
    # Without any reading it is what was seen that fits nothing.
    at = posterior.evidence.take(told[-1]).point.component if told else str(getattr(items[-1], "part", ""))
    return Finding(
        FindingCode.CONTRADICTION, Level.WATCH, at, text, {"other_share": float(posterior.probabilities[-1])}
    )


def _short(evidence: Evidence, reading: Reading) -> Said:
    at = point_said(evidence.unit, reading.at)
    return say(
        "contradiction.reading", shown=reading.quantity.shown(reading.value), at=at, time=clock(reading.t_s)
    )


def _finite(value: float) -> float:
    return value if math.isfinite(value) else 1e9
