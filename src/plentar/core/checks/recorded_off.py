"""Volts or amps behind a breaker that the record has off."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import Said, figure, say
from plentar.core.unit.naming import said_of
from plentar.core.visit.against_record import ShownLive, behind, shown_live
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence, Taken

_MEASURED = {
    Quantity.AMPS: "measured_amps",
    Quantity.VOLTS: "measured_volts",
    Quantity.VOLTS_DC: "measured_volts",
}
NAME = say("checks.recorded-off.dead-where-recorded-off")


@check(NAME, FindingCode.LIVE_WHEN_OFF)
def live_when_off(evidence: Evidence) -> Iterator[Result]:
    """The newest reading behind each breaker that was off when it was taken."""
    newest: dict[str, Taken] = {}
    for taken in evidence.taken:
        fed = behind(evidence.unit, taken.reading.at)
        off = {cid for cid in fed if taken.state.power[cid] != ON}
        if fed and off == fed and taken.reading.quantity in _MEASURED:
            newest |= dict.fromkeys(off, taken)
    for circuit in evidence.unit.circuits:
        last = newest.get(circuit.id)
        if last is None:
            yield NotJudged(NAME, circuit.id, say("checks.recorded-off.not-read-breaker-off"))
            continue
        shows = shown_live(evidence.unit, last.state.power, last.reading)
        yield (
            Clear(circuit.id)
            if shows is ShownLive.NO
            else _found(said_of(evidence.unit, circuit.id), circuit.id, last, shows)
        )


def _found(circuit: Said, circuit_id: str, taken: Taken, shows: ShownLive) -> Finding:
    reading = taken.reading
    said = say(
        "checks.recorded-off.at",
        reading=figure(reading.value, reading.quantity.sign),
        point=taken.point.title,
    )
    level = Level.STOP_NOW if shows is ShownLive.LIVE else Level.WATCH
    if shows is ShownLive.LIVE:
        text = say("checks.recorded-off.recorded-off-breaker-was", said=said, circuit=circuit)
    elif shows is ShownLive.VOID:
        text = say("checks.recorded-off.recorded-off-ghost-or", said=said, circuit=circuit)
    else:
        text = say("checks.recorded-off.recorded-off-little-not", said=said, circuit=circuit)
    numbers = {_MEASURED[reading.quantity]: reading.value}
    return Finding(FindingCode.LIVE_WHEN_OFF, level, circuit_id, text, numbers, t_s=reading.t_s)
