"""What was done: the form that says it, and the events that it stands for."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass

from plentar.core.errors import BadInput
from plentar.core.said import Said, say
from plentar.core.unit.parts import CONTROL_KINDS, Control
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import VERBS, Did, Event, Replaced
from plentar.files.plate_edits import change_kind
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.files.visit_file import parse_model
from plentar.web.visits.entry import DidEntry

REPLACED = "replaced"
#: What may be done, the most usual first.
DEEDS: Mapping[str, Said] = {REPLACED: say("did.replaced"), **VERBS}
BY_KIND: Mapping[str, str] = {"": "the same kind"} | {
    name: f"a {kind.title}" for name, kind in CONTROL_KINDS.items()
}


@dataclass(frozen=True, slots=True)
class Deed:
    """One thing that mends a part that is clear: its verb, and what its button says."""

    part: str
    verb: str
    said: str


def parts_of(unit: Unit) -> list[tuple[str, tuple[str, ...]]]:
    """What work can be done on, by where it is."""
    groups: list[tuple[str, tuple[str, ...]]] = []
    for circuit in unit.circuits:
        ends = tuple(f"{circuit.id}{end}" for end in ("", ".line", ".l1", ".l2"))
        groups.append((f"Supply {circuit.id}", ends))
    for element in unit.elements:
        own = tuple(part for part in element.rung if part not in unit.switch_by_id)
        groups.append((f"Rung of {element.id}", (*own, f"{element.id}.wire")))
    groups.append(("Devices", tuple(unit.device_by_id)))
    groups.append(("Switches", tuple(unit.switch_by_id)))
    air = ("blower", "capacitor", "airflow") if unit.blower else ("airflow",)
    groups.append(("Air", air))
    loads = tuple(load.id for load in unit.other_loads)
    groups.append(("24 V", ("transformer", "control-fuse", "R", *unit.calls, *loads)))
    return groups


def mending(unit: Unit, part: str) -> list[Deed]:
    """What mends a part, the most usual first: a breaker that was off is switched on."""
    if part in unit.circuit_by_id:
        found = [
            (part, "switched-on", f"{part} switched on"),
            (part, "reset", f"{part} reset"),
            (part, "remade", f"joint of {part} remade"),
            (part, REPLACED, f"{part} breaker replaced"),
        ]
    elif part == "control-fuse":
        found = [(part, "renewed", "fuse renewed")]
    elif part == "airflow":
        found = [(part, "cleaned", "airway cleaned"), ("blower", REPLACED, "blower replaced")]
    elif part.endswith(".wire") or part in (*unit.calls, "R"):
        found = [(part, "remade", f"{part} remade"), (part, "moved", f"{part} moved")]
    else:
        found = [(part, REPLACED, f"{part} replaced"), (part, "remade", f"wires of {part} remade")]
    return [Deed(*each) for each in found]


def parts_named(entry: DidEntry) -> dict[uuid.UUID, str]:
    """Each part once, under the id of its event; raises BadInput where the form says too little."""
    if entry.verb not in DEEDS:
        raise BadInput("verb", "say what was done")
    parts = [part for part in entry.parts if part]
    if not parts:
        raise BadInput("parts", "say on what")
    if entry.by and entry.verb != REPLACED:
        raise BadInput("by", "only what is replaced is replaced by another kind")
    return {
        uuid.uuid5(entry.client_id, str(number)) if number else entry.client_id: part
        for number, part in enumerate(dict.fromkeys(parts))
    }


def event_of(unit: Unit, entry: DidEntry, part: str, t_s: float, *, unrecorded: bool = False) -> Event:
    """What was done to one part; ``unrecorded``: its power was off, and the record says on. Raises
    BadInput where no other kind can take its place."""
    note = entry.note.strip()
    if unrecorded:
        ago = f", {entry.ago_min} min before it was entered" if entry.ago_min else ""
        note = "; ".join(filter(None, [note, f"with the power off, which was not recorded{ago}"]))
    if entry.verb == REPLACED:
        by = _another(unit, part, entry.by) if entry.by else None
        return Replaced(t_s=t_s, component=part, by=by, note=note)
    return Did(t_s=t_s, verb=entry.verb, part=part, note=note)


def _another(unit: Unit, device: str, kind: str) -> Control:
    """A device of another kind with the old one's switches and call."""
    if kind not in CONTROL_KINDS:
        raise BadInput("by", "choose one of the list")
    if device not in unit.control_by_id:
        raise BadInput("by", f"{device} is no device that another kind can take the place of")
    plate = unit_to_json(unit)
    change_kind(plate, device, kind)
    return parse_model(UnitJson, plate).to_core().control_by_id[device]
