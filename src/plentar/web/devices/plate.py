"""What the relay bench writes to a unit's plate: the part that stands in a place, and its wires."""

from __future__ import annotations

import uuid
from dataclasses import replace

from plentar.core.errors import BadInput
from plentar.core.relay_bench.substitute import substitute
from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.parts import BlowerRelay, Control, RelayWires, Wire
from plentar.core.unit.terminals import PartKind
from plentar.core.unit.unit import Device, Unit
from plentar.core.visit.events import Replaced
from plentar.files.visit_json import PlateChangeJson
from plentar.store.carried import judge_by_plate
from plentar.store.errors import Conflict
from plentar.store.record import VisitRecord
from plentar.store.units import find_unit, save_plate, version_number
from plentar.store.visits import add_note
from plentar.web.database import database
from plentar.web.entry import Entry
from plentar.web.people import me
from plentar.web.visits.answers import mine
from plentar.words import phrase

_KNOWN_ENDS = frozenset({"L1", "L2", "blower", "heat"})


def with_kind(unit: Unit, device: Device, kind: PartKind) -> Device:
    """The device as a part of this kind: of its own type with what the plate prints of it, else with
    what the kind prints. Switches that carry nothing go where the part has no set for them."""
    if kind.name == device.part:
        return device
    if kind.device != device.type:
        refit = substitute(unit, device.id, kind).refit
        device = refit.device_by_id[device.id] if refit else device
    if isinstance(device, Control) and len(device.switches) > len(kind.sets):
        used = tuple(s for s in device.switches if s.id not in unit.idle_switches)
        device = replace(device, switches=used)
    if isinstance(device, BlowerRelay):
        device = replace(device, printed=())
    return replace(device, part=kind.name, wired=())


def with_wires(device: Device, kind: PartKind, wires: tuple[Wire, ...]) -> Device:
    """The device with these wires on its terminals; of a blower relay the set in use as well."""
    if not isinstance(device, BlowerRelay):
        return replace(device, wired=wires)
    one = kind.sets[0]
    ends = {wire.terminal: wire.to for wire in wires if wire.to in _KNOWN_ENDS}
    of_set = RelayWires(*(ends.get(end or "", "none") for end in (one.common, one.no, one.nc)))
    return replace(device, wired=wires, wires=of_set)


def write_to_plate(
    record: VisitRecord,
    device: Device,
    kind: PartKind,
    entry: Entry,
    *,
    judged_by: bool = True,
    was_wrong: bool = True,
) -> VisitRecord:
    """The device, and its kind where it is none of the drawer, on the next version of the plate.

    ``judged_by``: the visit is judged by the new one; ``was_wrong``: because the plate was wrong all
    along, which the record says.
    Raises Conflict where the plate was changed meanwhile, BadInput where this visit has replaced
    the device: then its wires are those of its sheet.
    """
    session = database()
    newest = find_unit(session, record.row.shop_id, record.row.unit_id)
    if newest.version.id != record.row.version_id:
        raise Conflict(phrase("devices.plate.plate-was-changed-since"))
    refit = any(isinstance(e, Replaced) and e.by and e.component == device.id for e in record.core().events)
    if judged_by and refit:
        raise BadInput("on", phrase("devices.plate.was-replaced-this-visit"))
    unit = _with(record.plate if judged_by else record.unit, device, kind)
    saved = save_plate(session, newest, unit, newest.version.number)
    if not judged_by or saved.version.id == newest.version.id:
        return record
    was = version_number(session, record.row.version_id)
    judge_by_plate(session, record, saved.version)
    if not was_wrong:
        return mine(record.row.id, to_write=True)
    change = PlateChangeJson(t=record.elapsed_s, was=was, now=saved.version.number, by=me().name)
    add_note(session, record, change, uuid.uuid5(entry.client_id, "plate"), me().id)
    return mine(record.row.id, to_write=True)


def _with(unit: Unit, device: Device, kind: PartKind) -> Unit:
    kinds = unit.part_kinds
    if kind.name not in PART_KINDS and kind.name not in {k.name for k in kinds}:
        kinds = (*kinds, kind)
    if isinstance(device, Control):
        controls = tuple(device if c.id == device.id else c for c in unit.controls)
        return replace(unit, part_kinds=kinds, controls=controls)
    assert unit.blower is not None
    return replace(unit, part_kinds=kinds, blower=replace(unit.blower, relay=device))
