"""A setting and a place in words: the steps before a reading, as a card says them and a form sends them."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.judgement import Setting
from plentar.core.quantity import Quantity
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.points import CONTROL_SIDE, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import PROVED_DEAD
from plentar.words import phrase
from plentar.words.numbers import clock

#: The call that runs the blower.
FAN = "G"


def place_in_words(unit: Unit, at: str, quantity: Quantity | None) -> str:
    """Where the meter goes: one conductor for a clamp, one probe each for a pair of nodes."""
    point = resolve(unit, at)
    if quantity is Quantity.AMPS and point.kind in ("circuit", "feed"):
        leg = "L2" if at.endswith(".l2") else "L1"
        return phrase("visits.setting-words.conductor-alone", leg=leg, component=point.component)
    if quantity is Quantity.AMPS and point.kind in CONTROL_SIDE:
        return phrase("visits.setting-words.wire-alone-ten-turns", point=point.title)
    if point.kind == "node-node":
        one, _, two = at.partition(":")
        return phrase(
            "visits.setting-words.one-probe-other",
            end_in_words=end_in_words(unit, two),
            end_in_words_2=end_in_words(unit, one),
        )
    return str(point.title)


def end_in_words(unit: Unit, node: str) -> str:
    """A node as somebody finds it: “the L2 lug”, “link FL1, element side”."""
    part, _, end = node.rpartition(".")
    if part in unit.circuit_by_id:
        return (
            phrase("visits.setting-words.lug", end=end.upper(), part=part)
            if len(unit.circuits) > 1
            else phrase("visits.setting-words.lug-2", end=end.upper())
        )
    if part.endswith(".line"):
        return phrase("visits.setting-words.breakers-line-side", end=end.upper())
    if part in unit.part_by_id:
        element = next(iter(unit.elements_through(part)), None)
        kind = resolve(unit, part).kind
        if element is not None and kind != "element":
            rung = list(element.rung)
            before = rung.index(part) < rung.index(element.id)
            toward = (end == "out") == before
            return phrase(
                "visits.setting-words.side",
                kind=kind,
                part=part,
                how=phrase("visits.setting-words.element")
                if toward
                else phrase("visits.setting-words.lug-3"),
            )
        return phrase("visits.setting-words.side", kind=kind, part=part, how="L1" if end == "in" else "L2")
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
        yield phrase("visits.setting-words.call-nothing-until-everything")
    if setting.power == PROVED_DEAD:
        yield phrase("visits.setting-words.off-locked-proved-dead")
    elif setting.power:
        yield phrase("visits.setting-words.power-back")
    if setting.guard is not None:
        guard = setting.guard
        fan = " + ".join(sorted(guard.ends))
        yield phrase("visits.setting-words.call-until-all-hand", begins=" + ".join(sorted(guard.begins)))
        yield phrase(
            "visits.setting-words.end-alone-read-blower", fan=fan, at_most_s=f"{guard.at_most_s:.0f}"
        )
        yield phrase("visits.setting-words.if-stands-again-once", fan=fan)
    elif setting.calls is not None:
        yield (
            phrase("visits.setting-words.call", calls=" + ".join(sorted(setting.calls)))
            if setting.calls
            else phrase("visits.setting-words.call-nothing")
        )
        if FAN in setting.calls and setting.calls & HEAT_CALLS:
            yield phrase("visits.setting-words.fan-first")
    if setting.lifted:
        yield (phrase("visits.setting-words.breakers-off-thermostat-wires"))
    if setting.driven:
        yield phrase("visits.setting-words.both-wires-coil-taken")
        yield phrase("visits.setting-words.coil-alone-fed-from")
    if setting.after_s is not None:
        yield phrase("visits.setting-words.wait", waited=waited(setting.after_s))


def waited(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 120 else phrase("visits.setting-words.min", seconds=clock(seconds))


def lowered(title: str) -> str:
    return title[0].lower() + title[1:] if title[1:2].islower() else title
