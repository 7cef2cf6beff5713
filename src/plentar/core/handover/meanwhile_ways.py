"""What is safe until a part is mended, in the trade's words: a stage off, the heat off, all of it off."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.quantity import show
from plentar.core.supply.loads import load_of
from plentar.core.supply.meanwhile import meanwhile
from plentar.core.unit.parts import Element
from plentar.core.unit.unit import Unit

#: The call of a heat pump's compressor: where there is one, it heats without the strips.
COMPRESSOR = "Y"


def ways_meanwhile(unit: Unit, part: str) -> tuple[str, ...]:
    """What may be done until the work on a part is done, the least first. A part of one rung leaves
    the others on, and says what they draw; what all share leaves none."""
    return tuple(dict.fromkeys(_ways(unit, part)))


def _ways(unit: Unit, part: str) -> Iterator[str]:
    owner = part.removesuffix(".line")
    if owner in unit.circuit_by_id:
        less = meanwhile(unit, [owner])
        if less is not None:
            yield less.words
    own = _rungs_of(unit, part)
    left = [e for e in unit.elements if e not in own]
    if own and left:
        yield f"{_named(own)} off: {_wires(unit, own)}; {_drawn(unit, left)}"
    if unit.heat_calls and unit.elements:
        wires = " and ".join(sorted(unit.heat_calls))
        rest = "heat pump only" if COMPRESSOR in unit.calls else "no electric heat"
        yield f"{rest}: the wire{'s' if len(unit.heat_calls) > 1 else ''} of {wires} off the board, capped"
    breakers = " and ".join(circuit.id for circuit in unit.circuits)
    yield f"left off: {breakers} off at the breaker, tagged"


def _rungs_of(unit: Unit, part: str) -> list[Element]:
    """The elements that do not run without the part."""
    switches = {part}
    if part in unit.control_by_id:
        switches = {switch.id for switch in unit.control_by_id[part].switches}
    element = part.removesuffix(".wire")
    return [e for e in unit.elements if e.id == element or switches & set(e.rung)]


def _named(elements: list[Element]) -> str:
    return " and ".join(element.id for element in elements)


def _wires(unit: Unit, elements: list[Element]) -> str:
    firsts = dict.fromkeys(s.id for e in elements for s in list(unit.rung_switches(e))[:1])
    return f"its wire off {' and '.join(firsts)}, capped" if firsts else "its wires off, capped"


def _drawn(unit: Unit, left: list[Element]) -> str:
    """What the others draw, circuit by circuit."""
    off = frozenset(e.id for e in unit.elements if e not in left)
    drawn = " and ".join(
        f"{show(load_of(unit, unit.circuit_by_id[name], off).elements, 'A')} at {name}"
        for name in dict.fromkeys(element.circuit for element in left)
    )
    return f"then the others draw {drawn}"
