"""A setting and a place in words: the steps before a reading, as a card says them and a form sends them."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.judgement import Setting
from plentar.core.quantity import Quantity
from plentar.core.unit.points import CONTROL_SIDE, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import PROVED_DEAD
from plentar.words.numbers import clock


def place_in_words(unit: Unit, at: str, quantity: Quantity | None) -> str:
    """Where the meter goes: one conductor for a clamp, one probe each for a pair of nodes."""
    point = resolve(unit, at)
    if quantity is Quantity.AMPS and point.kind in ("circuit", "feed"):
        leg = "L2" if at.endswith(".l2") else "L1"
        return f"Conductor {leg} of {point.component} alone"
    if quantity is Quantity.AMPS and point.kind in CONTROL_SIDE:
        return f"{point.title}: its wire alone, ten turns in the jaw"
    if point.kind == "node-node":
        one, _, two = at.partition(":")
        return f"one probe on {end_in_words(unit, two)}, the other on {end_in_words(unit, one)}"
    return str(point.title)


def end_in_words(unit: Unit, node: str) -> str:
    """A node as somebody finds it: “the L2 lug”, “link FL1, element side”."""
    part, _, end = node.rpartition(".")
    if part in unit.circuit_by_id:
        return f"the {end.upper()} lug of {part}" if len(unit.circuits) > 1 else f"the {end.upper()} lug"
    if part.endswith(".line"):
        return f"the breaker's line side, {end.upper()}"
    if part in unit.part_by_id:
        element = next(iter(unit.elements_through(part)), None)
        kind = resolve(unit, part).kind
        if element is not None and kind != "element":
            rung = list(element.rung)
            before = rung.index(part) < rung.index(element.id)
            toward = (end == "out") == before
            return f"{kind} {part}, {'element' if toward else 'lug'} side"
        return f"{kind} {part}, {'L1' if end == 'in' else 'L2'} side"
    return node


def fields_of(setting: Setting) -> dict[str, str]:
    """A setting as a form sends it; ``TakeEntry`` reads it back."""
    found = {} if setting.calls is None else {"calls": ",".join(sorted(setting.calls))}
    if setting.guard is not None:
        found["begins"] = ",".join(sorted(setting.guard.begins))
    for name in ("power", "circuit", "lifted", "after_s", "fresh", "driven"):
        value = getattr(setting, name)
        if value not in (None, False) or (name == "lifted" and value is not None):
            found[name] = str(value)
    return found


def steps_of(setting: Setting) -> Iterator[str]:
    """What to do before a reading, in order."""
    if setting.fresh:
        yield "call nothing until everything has dropped out"
    if setting.power == PROVED_DEAD:
        yield "off, locked, proved dead"
    elif setting.power:
        yield "power back on"
    if setting.guard is not None:
        guard = setting.guard
        fan = " + ".join(sorted(guard.ends))
        yield f"call {' + '.join(sorted(guard.begins))} until all of it is on, a hand on the disconnect"
        yield f"end {fan} alone; read the blower within {guard.at_most_s:.0f} s"
        yield f"if it stands, {fan} on again at once and the heat off, or the disconnect"
    elif setting.calls is not None:
        yield f"call {' + '.join(sorted(setting.calls))}" if setting.calls else "call nothing"
    if setting.lifted:
        yield (
            "breakers off: thermostat wires lifted, jumper from R landed; breakers on, a hand on the"
            " disconnect"
        )
    if setting.driven:
        yield "both wires of its coil taken off, recorded, and put back after"
        yield "the coil alone fed from an isolated bench 24 V"
    if setting.after_s is not None:
        yield f"wait {waited(setting.after_s)}"


def waited(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 120 else f"{clock(seconds)} min"


VERBS = {
    Quantity.AMPS: "Clamp",
    Quantity.VOLTS: "Volts:",
    Quantity.VOLTS_DC: "DC volts:",
    Quantity.OHMS: "Ohms:",
    Quantity.TONE: "Tone:",
    Quantity.TEMP_F: "Temperature:",
    Quantity.UF: "Microfarads:",
}


def lowered(title: str) -> str:
    return title[0].lower() + title[1:] if title[1:2].islower() else title
