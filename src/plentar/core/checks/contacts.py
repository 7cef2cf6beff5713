"""Contacts by what they carry: the load of the plate against the rating printed on the part."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import Said, figure, say
from plentar.core.supply.loads import contact_loads
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.naming import said_of
from plentar.core.visit.evidence import Evidence, Taken

NAME = say("checks.contacts.rating-contacts")
A = Quantity.AMPS


@check(NAME, FindingCode.CONTACT_RATING)
def contact_rating(evidence: Evidence) -> Iterator[Result]:
    """Every switch that carries something, and the blower relay's set: what was clamped through it goes
    before what the plate says of its load."""
    for part, rated, load in contact_loads(evidence.unit):
        clamped = _most_clamped(evidence, part)
        if rated is None or (load is None and clamped is None):
            missing = (
                say("checks.contacts.rating-not-printed")
                if rated is None
                else say("checks.contacts.motors-amps-not-given")
            )
            yield NotJudged(NAME, part, missing)
        elif clamped is not None and clamped.reading.value - ACCURACY[A].error(clamped.reading.value) > rated:
            amps = clamped.reading.value
            text = say(
                "checks.contacts.were-clamped-through-which",
                amps=figure(amps, "A"),
                part=said_of(evidence.unit, part),
                rated=figure(rated, "A"),
            )
            yield _over(part, text, {"measured_amps": amps, "rated_amps": rated}, clamped.reading.t_s)
        elif load is not None and load > rated:
            text = say(
                "checks.contacts.carries-made",
                part=said_of(evidence.unit, part),
                load=figure(load, "A"),
                rated=figure(rated, "A"),
            )
            yield _over(part, text, {"load_amps": load, "rated_amps": rated}, 0.0)
        else:
            yield Clear(part)


def _over(part: str, text: Said, numbers: dict[str, float], t_s: float) -> Finding:
    text += say("checks.contacts.part-rating")
    return Finding(FindingCode.CONTACT_RATING, Level.REPAIR, part, text, numbers, t_s=t_s)


def _most_clamped(evidence: Evidence, part: str) -> Taken | None:
    """The most amps through a contact, clamped at it or at what alone is behind it."""
    unit = evidence.unit
    behind = [e.id for e in unit.elements_through(part)]
    at = [part, *(behind if len(behind) == 1 else ())]
    if unit.relay is not None and part == unit.relay.id:
        at = [f"{part}.no", f"{part}.nc", "blower"]
    taken = [t for name in at for t in evidence.at(name, A)]
    return max(taken, key=lambda t: t.reading.value, default=None)
