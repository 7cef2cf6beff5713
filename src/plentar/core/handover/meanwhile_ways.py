"""What is safe until a part is mended, in the trade's words: a stage off, the heat off, all of it off."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.said import Said, figure, listed, say
from plentar.core.supply.loads import load_of
from plentar.core.supply.meanwhile import meanwhile
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import Element
from plentar.core.unit.unit import Unit

#: The call of a heat pump's compressor: where there is one, it heats without the strips.
COMPRESSOR = "Y"


def ways_meanwhile(unit: Unit, part: str) -> tuple[Said, ...]:
    """What may be done until the work on a part is done, the least first. A part of one rung leaves
    the others on, and says what they draw; what all share leaves none."""
    return tuple(dict.fromkeys(_ways(unit, part)))


def _ways(unit: Unit, part: str) -> Iterator[Said]:
    owner = part.removesuffix(".line")
    if owner in unit.circuit_by_id:
        less = meanwhile(unit, [owner])
        if less is not None:
            yield less.words
    own = _rungs_of(unit, part)
    left = [e for e in unit.elements if e not in own]
    if own and left:
        yield say(
            "handover.meanwhile-ways.off",
            named=_named(own),
            wires=_wires(unit, own),
            drawn=_drawn(unit, left),
        )
    if unit.heat_calls and unit.elements:
        wires = listed(sorted(unit.heat_calls))
        rest = (
            say("handover.meanwhile-ways.heat-pump-only")
            if COMPRESSOR in unit.calls
            else say("handover.meanwhile-ways.no-electric-heat")
        )
        yield say("handover.meanwhile-ways.wire-off-board-capped", rest=rest, wires=wires)
    breakers = listed(circuit.id for circuit in unit.circuits)
    yield say("handover.meanwhile-ways.left-off-off-breaker", breakers=breakers)


def _rungs_of(unit: Unit, part: str) -> list[Element]:
    """The elements that do not run without the part."""
    switches = {part}
    if part in unit.control_by_id:
        switches = {switch.id for switch in unit.control_by_id[part].switches}
    element = part.removesuffix(".wire")
    return [e for e in unit.elements if e.id == element or switches & set(e.rung)]


def _named(elements: list[Element]) -> Said:
    return listed(element.id for element in elements)


def _wires(unit: Unit, elements: list[Element]) -> Said:
    firsts = dict.fromkeys(s.id for e in elements for s in list(unit.rung_switches(e))[:1])
    return (
        say("handover.meanwhile-ways.wire-off-capped", firsts=listed(firsts, "and"))
        if firsts
        else say("handover.meanwhile-ways.wires-off-capped")
    )


def _drawn(unit: Unit, left: list[Element]) -> Said:
    """What the others draw, circuit by circuit."""
    off = frozenset(e.id for e in unit.elements if e not in left)
    drawn = listed(
        say(
            "handover.meanwhile-ways.at",
            elements=figure(load_of(unit, unit.circuit_by_id[name], off).elements, "A"),
            name=said_of(unit, name),
        )
        for name in dict.fromkeys(element.circuit for element in left)
    )
    return say("handover.meanwhile-ways.then-others-draw", drawn=drawn)
