"""Contacts by what they carry: the load of the plate against the rating printed on the part."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.evidence import Evidence
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import show
from plentar.core.unit import Unit

NAME = "rating of the contacts"


@check(NAME, FindingCode.CONTACT_RATING)
def contact_rating(evidence: Evidence) -> Iterator[Result]:
    """Every switch that carries something, and the blower relay's set."""
    for part, rated, load in contact_loads(evidence.unit):
        if load is None or rated is None:
            missing = "its rating is not printed" if rated is None else "its motor’s amps not given"
            yield NotJudged(NAME, part, missing)
        elif load <= rated:
            yield Clear(part)
        else:
            text = (
                f"{part} carries {show(load, 'A')} and is made for {show(rated, 'A')}:"
                " a part with the rating for it"
            )
            numbers = {"load_amps": load, "rated_amps": rated}
            yield Finding(FindingCode.CONTACT_RATING, Level.REPAIR, part, text, numbers)


def contact_loads(unit: Unit) -> Iterator[tuple[str, float | None, float | None]]:
    """Each contact with its rating and its load, A; None where the plate does not say."""
    blower = unit.blower
    motor = (blower.fla or blower.running_amps) if blower else None
    tie = blower.interlock if blower else None
    for switch in unit.switch_by_id.values():
        if switch.id in unit.idle_switches or switch.role == "auxiliary":
            continue
        if tie is not None and switch.id == tie.switch:
            yield switch.id, switch.contact_amps, motor
            continue
        load = sum(
            e.rating.amps(unit.circuit_by_id[e.circuit].rated_volts)
            for e in unit.elements_through(switch.id)
        )
        if blower is not None and switch.id == blower.interlock.tap:
            load += blower.running_amps or 0.0
        yield switch.id, switch.contact_amps, load
    if unit.relay is not None:
        yield unit.relay.id, unit.relay.contact_amps, motor
