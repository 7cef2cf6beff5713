"""What was done: the form that says it, and the events that it stands for."""

from __future__ import annotations

import re
import uuid
from collections.abc import Mapping
from dataclasses import dataclass

from plentar.core.errors import BadInput
from plentar.core.said import Said, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import CONTROL_KINDS, Control
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import VERBS, Did, Event, Replaced
from plentar.files.plate_edits import change_kind
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.files.visit_file import parse_model
from plentar.web.visits.entry import DidEntry
from plentar.words import phrase

REPLACED = "replaced"
#: What may be done, the most usual first.
DEEDS: Mapping[str, Said] = {REPLACED: say("did.replaced"), **VERBS}
_MARK = re.compile(r"[A-Z]{1,3}\d*(\.[A-Z0-9])?")
BY_KIND: Mapping[str, Said | str] = {"": say("visits.work.same-kind")} | {
    name: kind.title for name, kind in CONTROL_KINDS.items()
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
        groups.append((phrase("visits.work.supply", circuit=circuit.id), ends))
    for element in unit.elements:
        own = tuple(part for part in element.rung if part not in unit.switch_by_id)
        groups.append((phrase("visits.work.rung", element=element.id), (*own, f"{element.id}.wire")))
    groups.append((phrase("visits.work.devices"), tuple(unit.device_by_id)))
    groups.append((phrase("visits.work.switches"), tuple(unit.switch_by_id)))
    air = ("blower", "capacitor", "airflow") if unit.blower else ("airflow",)
    groups.append((phrase("visits.work.air"), air))
    loads = tuple(load.id for load in unit.other_loads)
    groups.append(("24 V", ("transformer", "control-fuse", "R", *unit.calls, *loads)))
    return groups


def mark_or_words(unit: Unit, part: str) -> str:
    """What a tile under its group says: the mark where the part has one, else its words."""
    return part if _MARK.fullmatch(part) else str(said_of(unit, part))


def mending(unit: Unit, part: str) -> list[Deed]:
    """What mends a part, the most usual first: a breaker that was off is switched on."""
    if part in unit.circuit_by_id:
        found = [
            (part, "switched-on", phrase("visits.work.switched", part=part)),
            (part, "reset", phrase("visits.work.reset", part=part)),
            (part, "remade", phrase("visits.work.joint-remade", part=part)),
            (part, REPLACED, phrase("visits.work.breaker-replaced", part=part)),
        ]
    elif part == "control-fuse":
        found = [(part, "renewed", phrase("visits.work.fuse-renewed"))]
    elif part == "airflow":
        found = [
            (part, "cleaned", phrase("visits.work.airway-cleaned")),
            ("blower", REPLACED, phrase("visits.work.blower-replaced")),
        ]
    elif part.endswith(".wire") or part in (*unit.calls, "R"):
        found = [
            (part, "remade", phrase("visits.work.remade", part=part)),
            (part, "moved", phrase("visits.work.moved", part=part)),
        ]
    else:
        found = [
            (part, REPLACED, phrase("visits.work.replaced", part=part)),
            (part, "remade", phrase("visits.work.wires-remade", part=part)),
        ]
    return [Deed(*each) for each in found]


def parts_named(entry: DidEntry) -> dict[uuid.UUID, str]:
    """Each part once, under the id of its event; raises BadInput where the form says too little."""
    if entry.verb not in DEEDS:
        raise BadInput("verb", phrase("visits.work.say-what-was-done"))
    parts = [part for part in entry.parts if part]
    if not parts:
        raise BadInput("parts", phrase("visits.work.say-what"))
    if entry.by and entry.verb != REPLACED:
        raise BadInput("by", phrase("visits.work.only-what-replaced-replaced"))
    return {
        uuid.uuid5(entry.client_id, str(number)) if number else entry.client_id: part
        for number, part in enumerate(dict.fromkeys(parts))
    }


def event_of(unit: Unit, entry: DidEntry, part: str, t_s: float, *, unrecorded: bool = False) -> Event:
    """What was done to one part; ``unrecorded``: its power was off, and the record says on. Raises
    BadInput where no other kind can take its place."""
    note = entry.note.strip()
    if unrecorded:
        ago = phrase("visits.work.min-before-was-entered", ago_min=entry.ago_min) if entry.ago_min else ""
        note = "; ".join(filter(None, [note, phrase("visits.work.power-off-which-was", ago=ago)]))
    if entry.verb == REPLACED:
        by = _another(unit, part, entry.by) if entry.by else None
        return Replaced(t_s=t_s, component=part, by=by, note=note)
    return Did(t_s=t_s, verb=entry.verb, part=part, note=note)


def _another(unit: Unit, device: str, kind: str) -> Control:
    """A device of another kind with the old one's switches and call."""
    if kind not in CONTROL_KINDS:
        raise BadInput("by", phrase("visits.work.choose-one-list"))
    if device not in unit.control_by_id:
        raise BadInput("by", phrase("visits.work.no-device-another-kind", device=device))
    plate = unit_to_json(unit)
    change_kind(plate, device, kind)
    return parse_model(UnitJson, plate).to_core().control_by_id[device]
