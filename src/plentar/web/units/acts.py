"""What can be done to a unit's make-up from a part's panel: one table that offers and does it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from plentar.core.errors import BadInput
from plentar.core.said import Said, say
from plentar.core.unit.parts import CALLS, CONTROL_KINDS
from plentar.core.unit.unit import Unit
from plentar.files import plate_edits as edits
from plentar.files.unit_json import unit_to_json
from plentar.web.units.plate_fields import checked, locate
from plentar.words import phrase

#: What a new strip is closed by, where it is no switch that is there.
NEW = {name: say("units.acts.new", kind=kind.title) for name, kind in CONTROL_KINDS.items()}


@dataclass(frozen=True, slots=True)
class Act:
    """One thing to do: its word in the form, what its button says, and what there is to choose."""

    name: str
    said: Said | str
    choices: tuple[tuple[str, Said | str], ...] = ()


@dataclass(frozen=True, slots=True)
class Rung:
    element: str
    acts: tuple[Act, ...]


Do = Callable[[edits.Plate, str, str, str], str]


def _moved(by: int) -> Do:
    def do(plate: edits.Plate, part: str, element: str, _: str) -> str:
        edits.move(plate, element, part, by)
        return part

    return do


def _out(plate: edits.Plate, part: str, element: str, _: str) -> str:
    edits.take_out(plate, element, part)
    return element


def _put(at_end: bool) -> Do:
    def do(plate: edits.Plate, part: str, _element: str, chosen: str) -> str:
        edits.put_in(plate, part, chosen, at_end)
        return part

    return do


def _remove(plate: edits.Plate, part: str, _element: str, _: str) -> str:
    kind, _path, thing = locate(plate, part)
    if kind not in edits.REMOVALS:
        raise BadInput("part", phrase("units.acts.cant-taken-off-here"))
    edits.REMOVALS[kind](plate, thing["id"] if kind != "blower" else part)
    return "unit"


def _on(part: str) -> str:
    """The call that a new device is put on: the terminal that was touched, or the first."""
    return part if part in CALLS else CALLS[0]


def _device(part: str) -> str:
    return part.removesuffix(".coil")


ACTS: Mapping[str, Do] = {
    "earlier": _moved(-1),
    "later": _moved(1),
    "out": _out,
    "put-l1": _put(at_end=False),
    "put-l2": _put(at_end=True),
    "add-limit": lambda plate, part, _e, _c: edits.add_loose(plate, part, "limit"),
    "add-link": lambda plate, part, _e, _c: edits.add_loose(plate, part, "link"),
    "add-element": lambda plate, part, _e, chosen: edits.add_element(plate, part, chosen),
    "add-switch": lambda plate, part, _e, role: edits.add_switch(plate, _device(part), role),
    "add-device": lambda plate, part, _e, kind: f"{edits.add_device(plate, kind, _on(part))}.coil",
    "add-load": lambda plate, part, _e, _c: edits.add_load(plate, part if part in CALLS else "Y"),
    "add-circuit": lambda plate, _p, _e, _c: edits.add_circuit(plate),
    "add-blower": lambda plate, _p, _e, _c: edits.add_blower(plate),
    "remove": _remove,
}


#: What each of them may be given to choose; others take nothing.
def _kinds() -> tuple[tuple[str, Said | str], ...]:
    return tuple((name, str(kind.title)) for name, kind in CONTROL_KINDS.items())


_ROLES = tuple((role, say("units.acts.switch", role=role)) for role in ("element", "blower", "auxiliary"))


def edited(unit: Unit, part: str, act: str, element: str = "", chosen: str = "") -> tuple[Unit, str]:
    """The unit after an act, and the part to show then; raises BadInput."""
    if act not in ACTS:
        raise BadInput("act", phrase("units.acts.no-such-thing-do"))
    offered = {a.name: dict(a.choices) for a in (*acts_of(unit, part), *_of_rungs(unit, part))}
    if act not in offered or (offered[act] and chosen not in offered[act]):
        raise BadInput("act", phrase("units.acts.cant-done-this-part"))
    plate = unit_to_json(unit)
    shown = ACTS[act](plate, part, element, chosen)
    return checked(plate), shown


def rungs_of(unit: Unit, part: str) -> list[Rung]:
    """The rungs that a part stands in, and what can be done to it there."""
    return [Rung(element.id, tuple(_in_rung(part, element.id))) for element in unit.elements_through(part)]


def _of_rungs(unit: Unit, part: str) -> Iterator[Act]:
    for rung in rungs_of(unit, part):
        yield from rung.acts


def _in_rung(part: str, element: str) -> Iterator[Act]:
    yield Act("earlier", phrase("units.acts.toward", leg="L1"))
    yield Act("later", phrase("units.acts.toward", leg="L2"))
    if part != element:
        yield Act("out", phrase("units.acts.take-out-this-rung"))


def acts_of(unit: Unit, part: str) -> tuple[Act, ...]:
    """What can be done to a part's place in the unit, in the order of its panel."""
    kind, _, _ = locate(unit_to_json(unit), part)
    return tuple(_OFFERS[kind](unit, part)) if kind in _OFFERS else ()


def _element_acts(unit: Unit, part: str) -> Iterator[Act]:
    element = unit.element_by_id[part]
    yield Act("add-limit", phrase("units.acts.add-limit"))
    yield Act("add-link", phrase("units.acts.add-link"))
    there = [s.id for s in unit.switch_by_id.values() if s.role == "element"]
    there += [limit.id for limit in unit.limits] + [link.id for link in unit.links]
    other = tuple((name, name) for name in there if name not in element.rung)
    if other:
        yield Act("put-l1", phrase("units.acts.put-l1"), other)
        yield Act("put-l2", phrase("units.acts.put-l2"), other)
    if len(unit.elements) > 1:
        yield Act("remove", phrase("units.acts.remove-this-strip"))


def _circuit_acts(unit: Unit, _part: str) -> Iterator[Act]:
    ready = [s for s in unit.switch_by_id.values() if s.role == "element"]
    ready.sort(key=lambda switch: switch.id not in unit.idle_switches)
    choices = tuple((switch.id, phrase("units.acts.closed", switch=switch.id)) for switch in ready)
    yield Act(
        "add-element",
        phrase("units.acts.add-strip"),
        (*choices, *((kind, str(said)) for kind, said in NEW.items())),
    )
    if len(unit.circuits) > 1:
        yield Act("remove", phrase("units.acts.remove-this-circuit"))


def _unit_acts(unit: Unit, _part: str) -> Iterator[Act]:
    yield Act("add-circuit", phrase("units.acts.add-supply-circuit"))
    yield Act("add-device", phrase("units.acts.add-device"), _kinds())
    yield Act("add-load", phrase("units.acts.add-outdoor-load-y"))
    if unit.blower is None:
        yield Act("add-blower", phrase("units.acts.add-blower"))


def _only_remove(said: Said | str) -> Callable[[Unit, str], Iterator[Act]]:
    def acts(_unit: Unit, _part: str) -> Iterator[Act]:
        yield Act("remove", said)

    return acts


def _terminal_acts(_unit: Unit, _part: str) -> Iterator[Act]:
    yield Act("add-device", phrase("units.acts.add-device"), _kinds())
    yield Act("add-load", phrase("units.acts.add-outdoor-load"))


def _coil_acts(_unit: Unit, _part: str) -> Iterator[Act]:
    yield Act("add-switch", phrase("units.acts.add-switch"), _ROLES)
    yield Act("remove", phrase("units.acts.remove-this-device"))


_OFFERS: Mapping[str, Callable[[Unit, str], Iterator[Act]]] = {
    "unit": _unit_acts,
    "circuit": _circuit_acts,
    "element": _element_acts,
    "switch": _only_remove(say("units.acts.remove-this-switch")),
    "coil": _coil_acts,
    "terminal": _terminal_acts,
    "load": _only_remove(say("units.acts.remove-this-load")),
    "blower": _only_remove(say("units.acts.remove-blower")),
}
