"""The rules by which a unit's parts must fit together."""

from __future__ import annotations

import re
from collections.abc import Iterator

from plentar.core.errors import BadInput
from plentar.core.unit import CALLS, Blower, Control, Element, Unit

ID = re.compile(r"[A-Za-z][A-Za-z0-9-]*(\.[A-Za-z0-9]+)?")
RESERVED_TAILS = frozenset({"in", "out", "coil", "rectifier", "line", "l1", "l2", "wire"})
FIXED_NAMES = frozenset(
    {
        *CALLS,
        "R",
        "C",
        "blower",
        "transformer",
        "capacitor",
        "supply-air",
        "return-air",
        "ground",
        "airflow",
        "control-fuse",
        "none",
        "other",
    }
)


def check_unit(unit: Unit) -> None:
    """Raises BadInput at the first rule that the unit breaks."""
    _ids(unit)
    for index, element in enumerate(unit.elements):
        _rung(unit, element, f"elements[{index}]")
    _shared_parts(unit)
    for index, control in enumerate(unit.controls):
        _call(unit, control, f"controls[{index}]")
    if unit.blower is not None:
        _blower(unit, unit.blower)
    if unit.control_power.circuit not in unit.circuit_by_id:
        raise BadInput("control_power.circuit", f"no circuit {unit.control_power.circuit!r}")


def _named(unit: Unit) -> Iterator[tuple[str, str]]:
    for group in ("circuits", "limits", "links", "elements", "controls", "other_loads"):
        for index, part in enumerate(getattr(unit, group)):
            yield f"{group}[{index}].id", part.id
    for index, control in enumerate(unit.controls):
        for at, switch in enumerate(control.switches):
            yield f"controls[{index}].switches[{at}].id", switch.id
    if unit.blower is not None and unit.blower.relay is not None:
        yield "blower.relay.id", unit.blower.relay.id


def _ids(unit: Unit) -> None:
    if not unit.circuits:
        raise BadInput("circuits", "a unit needs at least one circuit")
    if not unit.elements:
        raise BadInput("elements", "a unit needs at least one element")
    taken: dict[str, str] = {}
    for path, name in _named(unit):
        if not ID.fullmatch(name):
            raise BadInput(path, f"{name!r} is no id: letters, digits, hyphens, at most one dot")
        if name in FIXED_NAMES:
            raise BadInput(path, f"{name!r} is the name of a fixed reading point")
        if "." in name and name.rsplit(".", 1)[1] in RESERVED_TAILS:
            raise BadInput(path, f"{name!r} ends like a reading point")
        if name in taken:
            raise BadInput(path, f"{name!r} is already the id at {taken[name]}")
        taken[name] = path


def _rung(unit: Unit, element: Element, path: str) -> None:
    if element.circuit not in unit.circuit_by_id:
        raise BadInput(f"{path}.circuit", f"no circuit {element.circuit!r}")
    for at, part in enumerate(element.rung):
        here = f"{path}.rung[{at}]"
        if part in unit.element_by_id and part != element.id:
            raise BadInput(here, f"{part!r} is another element; a rung holds its own alone")
        if part not in unit.part_by_id:
            raise BadInput(here, f"no switch, link, limit or element {part!r}")
        if element.rung.index(part) != at:
            raise BadInput(here, f"{part!r} stands in this rung twice")
        if part in unit.switch_by_id and unit.switch_by_id[part].role != "element":
            raise BadInput(here, f"{part!r} is a {unit.switch_by_id[part].role} switch")
    if element.id not in element.rung:
        raise BadInput(f"{path}.rung", f"the rung of {element.id!r} does not hold {element.id!r}")


def _shared_parts(unit: Unit) -> None:
    """Two rungs of one circuit may share what they begin or end with, and nothing else."""
    for index, element in enumerate(unit.elements):
        for other in unit.elements[:index]:
            shared = [part for part in element.rung if part in other.rung]
            if not shared:
                continue
            path = f"elements[{index}].rung[{element.rung.index(shared[0])}]"
            if element.circuit != other.circuit:
                raise BadInput(path, f"{shared[0]!r} is in a rung of circuit {other.circuit!r}")
            head = _common(element.rung, other.rung)
            tail = _common(element.rung[::-1], other.rung[::-1])
            if len(shared) != head + tail:
                raise BadInput(path, f"{shared[0]!r} is shared but not at the same end of the rung")


def _common(one: tuple[str, ...], two: tuple[str, ...]) -> int:
    for at, (a, b) in enumerate(zip(one, two, strict=False)):
        if a != b:
            return at
    return min(len(one), len(two))


def _call(unit: Unit, control: Control, path: str) -> None:
    if (control.call is None) == (control.through is None):
        raise BadInput(f"{path}.call", "name a thermostat terminal or the switch it comes through")
    if not control.switches:
        raise BadInput(f"{path}.switches", "a control device has at least one switch")
    seen = {control.id}
    step = control
    while step.through is not None:
        switch = unit.switch_by_id.get(step.through)
        if switch is None or switch.role != "auxiliary":
            raise BadInput(f"{path}.call.through", f"no auxiliary switch {step.through!r}")
        step = unit.control_of_switch[step.through]
        if step.id in seen:
            raise BadInput(f"{path}.call.through", "the chain of calls comes back to itself")
        seen.add(step.id)


def _blower(unit: Unit, blower: Blower) -> None:
    if blower.circuit not in unit.circuit_by_id:
        raise BadInput("blower.circuit", f"no circuit {blower.circuit!r}")
    tie = blower.interlock
    if tie.kind == "nc-contact":
        tap = unit.switch_by_id.get(tie.tap or "")
        if tap is None or tap.role != "element":
            raise BadInput("blower.interlock.tap", "name the element switch that feeds the relay")
        if blower.relay is None:
            raise BadInput("blower.relay", "a normally-closed tie needs a blower relay")
    if tie.kind == "sequencer-switch":
        switch = unit.switch_by_id.get(tie.switch or "")
        if switch is None or switch.role != "blower":
            raise BadInput("blower.interlock.switch", "name the sequencer's blower switch")
