"""Elements by amps, and what their amps and ohms say together."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.expected import Word
from plentar.core.expected.rules import expected_of
from plentar.core.judgement import Clear, ElementJudgement, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Band, Quantity
from plentar.core.said import NOTHING, Said, figure, say, span
from plentar.core.tables import thresholds as th
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import Element
from plentar.core.unit.ratings import Tolerance
from plentar.core.visit.draws import asked_for, floor_of
from plentar.core.visit.evidence import Evidence, Taken

A, OHM = Quantity.AMPS, Quantity.OHMS


def judge_elements(evidence: Evidence) -> tuple[ElementJudgement, ...]:
    """One judgement for every element, measured or not, in the unit's order."""
    elements = evidence.unit.elements
    return evidence.once("elements", lambda: tuple(_judge(evidence, e) for e in elements))


def _judge(evidence: Evidence, element: Element) -> ElementJudgement:
    taken = telling(evidence, element)
    t_s = taken.reading.t_s if taken else float("inf")
    supply = evidence.supply(evidence.unit.circuit_by_id[element.circuit], t_s)
    school = evidence.visit.settings.band
    expected = element.rating.expected_amps(supply.band, school)
    nominal = element.rating.amps(supply.nominal)
    if taken is None:
        return ElementJudgement(
            element.id,
            nominal,
            expected,
            None,
            Word.NOT_MEASURED,
            not supply.measured,
            say("checks.elements.not-clamped-yet"),
        )
    reading = taken.reading
    verdict = expected_of(evidence, taken).judge(reading.value)
    meaning = verdict.meaning
    if not asked_for(evidence.unit, taken.state, element):
        expected = Band(0.0, floor_of(element))
    elif verdict.word in (Word.LOW, Word.HIGH):
        alone = reading.value * element.rating.hot_ohms
        meaning += say("checks.elements.volts-alone-would-explain", alone=figure(alone, "V"))
    return ElementJudgement(
        element.id, nominal, expected, reading.value, verdict.word, verdict.provisional, meaning
    )


def telling(evidence: Evidence, element: Element) -> Taken | None:
    """The newest amps that tell of an element: with nothing asked of it, none tell of nothing, and what was
    read under heat before them stands."""
    found = evidence.at(element.id, A)
    for taken in reversed(found):
        asked = asked_for(evidence.unit, taken.state, element)
        if asked or taken.reading.value >= floor_of(element):
            return taken
    return found[-1] if found else None


def other_school(evidence: Evidence, element: ElementJudgement) -> Said:
    """What the other tolerance says of an element, where it differs; else empty."""
    taken = telling(evidence, evidence.unit.element_by_id[element.id])
    if taken is None:
        return NOTHING
    own = evidence.visit.settings.band
    other = Tolerance.HOUSE if own is Tolerance.PLATE else Tolerance.PLATE
    word = expected_of(evidence, taken, other).judge(taken.reading.value).word
    return (
        NOTHING
        if word is element.word
        else say("checks.elements.tolerance", word=say(f"word.{word}"), other=say(f"tolerance.{other}"))
    )


_CODES = {
    Word.DEAD: FindingCode.ELEMENT_DEAD,
    Word.LOW: FindingCode.ELEMENT_LOW,
    Word.HIGH: FindingCode.ELEMENT_HIGH,
}


@check(say("checks.elements.element-amps"), *_CODES.values())
def element_amps(evidence: Evidence) -> Iterator[Result]:
    for element in judge_elements(evidence):
        if element.measured_amps is None:
            yield NotJudged(
                say("checks.elements.element-amps"), element.id, say("checks.elements.not-clamped")
            )
        elif element.word is Word.NOT_JUDGED:
            yield NotJudged(say("checks.elements.element-amps"), element.id, element.meaning)
        elif element.word not in _CODES or not _asked(evidence, element.id):
            yield Clear(element.id)  # what draws uncalled is found by its own check
        else:
            text = say(
                "checks.elements.draws-due",
                element=said_of(evidence.unit, element.id),
                measured_amps=figure(element.measured_amps, "A"),
                range=span(element.expected_amps.low, element.expected_amps.high, "A"),
                meaning=element.meaning,
            )
            numbers = {"measured_amps": element.measured_amps, "nominal_amps": element.nominal_amps}
            level = Level.WATCH if element.provisional else Level.REPAIR
            yield Finding(
                _CODES[element.word], level, element.id, text, numbers, t_s=_read_s(evidence, element.id)
            )


def _asked(evidence: Evidence, element_id: str) -> bool:
    """What tells of it was read while something asked for it."""
    element = evidence.unit.element_by_id[element_id]
    taken = telling(evidence, element)
    return taken is not None and asked_for(evidence.unit, taken.state, element)


def _read_s(evidence: Evidence, element_id: str) -> float:
    taken = telling(evidence, evidence.unit.element_by_id[element_id])
    return taken.reading.t_s if taken else 0.0


@check(say("checks.elements.element-ground"), FindingCode.ELEMENT_TO_GROUND)
def element_to_ground(evidence: Evidence) -> Iterator[Result]:
    """Clear of the frame, cold and dry: a megohm at least at every end that was read. A tone to the frame
    is a ground; that it stays silent tells nothing of a megohm."""
    newest: dict[str, dict[str, Taken]] = {element.id: {} for element in evidence.unit.elements}
    for taken in evidence.taken:
        point, quantity = taken.point, taken.reading.quantity
        sounds = quantity is Quantity.TONE and bool(taken.reading.value)
        if taken.counts and point.kind == "node-ground" and (quantity is OHM or sounds):
            newest.get(point.component, {})[point.name] = taken
    for element_id, by_end in newest.items():
        if not by_end:
            yield NotJudged(
                say("checks.elements.element-ground"), element_id, say("checks.elements.ohms-ground-not-read")
            )
            continue
        worst = min(by_end.values(), key=_ohms_shown)
        yield _grounded(said_of(evidence.unit, element_id), element_id, worst)


def _ohms_shown(taken: Taken) -> float:
    """What a tone stands for is next to nothing."""
    return 0.0 if taken.reading.quantity is Quantity.TONE else taken.reading.value


def _grounded(part: Said, element_id: str, worst: Taken) -> Result:
    good, ohms = th.GROUND_GOOD_OHMS, _ohms_shown(worst)
    if ohms + ACCURACY[OHM].error(ohms) >= good:
        return Clear(element_id)
    numbers = {"due_ohms": float(good)}
    if worst.reading.quantity is OHM:
        numbers["measured_ohms"] = ohms
    said = (
        say("checks.elements.reads", part=part, ohms=figure(ohms, "Ω"))
        if worst.reading.quantity is OHM
        else say("checks.elements.sounds", part=part)
    )
    text = say("checks.elements.ground-cabinet-1-m", said=said)
    t_s = worst.reading.t_s
    return Finding(FindingCode.ELEMENT_TO_GROUND, Level.STOP_NOW, element_id, text, numbers, t_s=t_s)
