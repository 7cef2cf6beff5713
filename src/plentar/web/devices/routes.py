"""The relay bench's routes: look at a face of a device, and store what was done on it."""

from __future__ import annotations

import uuid
from dataclasses import replace

from flask import Blueprint, redirect, request, url_for

from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.relay_bench.contacts import pair_points
from plentar.core.relay_bench.fitted import drawer
from plentar.core.unit.parts import BlowerRelay, Wire
from plentar.core.visit.events import (
    LANDED,
    LEADS,
    Event,
    Felt,
    Reading,
    Replaced,
    Swap,
    Tested,
    Tried,
    WireMoved,
    Wires,
)
from plentar.store.part_kinds import part_kinds_of
from plentar.store.record import VisitRecord
from plentar.store.visits import append_event
from plentar.web.answer import Answer, render, wants_fragment
from plentar.web.database import database
from plentar.web.devices.contacts import ContactsView
from plentar.web.devices.device import CONTACTS, MOTOR, SWAP, WIRING, DeviceView, prints_of
from plentar.web.devices.entry import (
    FeltEntry,
    MovedEntry,
    PrintedEntry,
    SwapEntry,
    TestedEntry,
    TriedEntry,
    WiredEntry,
)
from plentar.web.devices.motor import MotorView
from plentar.web.devices.plate import with_kind, with_wires, write_to_plate
from plentar.web.devices.swap import SwapView
from plentar.web.devices.wiring import WiringView
from plentar.web.entry import Entry, parse_entry
from plentar.web.people import me, signed_in
from plentar.web.visits.answers import mine
from plentar.web.visits.entry import WiresEntry
from plentar.web.visits.gates import check_dead, check_driven, state_of
from plentar.web.visits.view import BenchView
from plentar.words import phrase

devices = Blueprint("devices", __name__, url_prefix="/visits")
Faced = ContactsView | WiringView | SwapView | MotorView


def _device(record: VisitRecord, device_id: str) -> DeviceView:
    return DeviceView(BenchView(record), device_id, part_kinds_of(database(), me().shop_id))


def _face(device: DeviceView, face: str, *, new: bool = False, part: str = "") -> Faced:
    """A face of the page; the contact test where there is no such one."""
    if face == WIRING:
        asked = request.args
        return WiringView(device, asked.getlist("on"), part, asked.get("at", ""), asked.get("way", ""))
    if face == SWAP:
        return SwapView(device, part, other="other" in request.args)
    if face == MOTOR and device.of_blower:
        return MotorView(device)
    return ContactsView(device, new=new, part=part)


def _page(device: DeviceView, face: Faced) -> Answer:
    return render("devices/device.html", "devices/_face.html", device=device, face=face, view=device.view)


def _stored(visit_id: uuid.UUID, device_id: str, face: str, new_part: str = "") -> Answer:
    """Commit, and the face again: of the part in the unit, or of the new one."""
    database().commit()
    new = "yes" if new_part else None
    if not wants_fragment():
        return redirect(
            url_for(
                "devices.show",
                visit_id=visit_id,
                device_id=device_id,
                face=face,
                new=new,
                part=new_part or None,
            )
        )
    device = _device(mine(visit_id), device_id)
    return _page(device, _face(device, face, new=bool(new_part), part=new_part))


def _keep(record: VisitRecord, event: Event, entry: Entry) -> VisitRecord:
    return append_event(database(), record, event, entry.client_id, me().id)


@devices.get("/<uuid:visit_id>/devices/<device_id>")
@signed_in
def show(visit_id: uuid.UUID, device_id: str) -> Answer:
    asked, device = request.args, _device(mine(visit_id), device_id)
    part = asked.get("part", "")
    return _page(device, _face(device, asked.get("face", CONTACTS), new="new" in asked, part=part))


@devices.post("/<uuid:visit_id>/devices/<device_id>/tested")
@signed_in
def tested(visit_id: uuid.UUID, device_id: str) -> Answer:
    """A pair of terminals, at rest or driven; of the part in the unit, proved dead alone."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(TestedEntry, request.form)
    device = _device(record, device_id)
    test = ContactsView(device, new=entry.new, part=entry.part)
    one, other = map(test.kind.named, entry.pair.split(":"))
    if (one, other) != LEADS and not {one, other} <= set(test.kind.terminal_by_name):
        raise BadInput("pair", phrase("devices.routes.has-no-such-terminals", kind=test.kind.title))
    if test.gated and (one, other) != LEADS:
        raise BadInput("pair", phrase("devices.routes.proved-dead-first-nothing"))
    if entry.driven and not test.may_drive:
        raise BadInput("driven", phrase("devices.routes.ohms-coil-first-one"))
    if entry.driven and not entry.new:
        check_driven(record, device.id)
    if (entry.tone is None) == (entry.ohms is None):
        raise BadInput("ohms", phrase("devices.routes.type-what-meter-shows"))
    _keep(record, _tested(record, test, (one, other), entry), entry)
    return _stored(visit_id, device_id, CONTACTS, test.part if entry.new else "")


@devices.post("/<uuid:visit_id>/devices/<device_id>/coil-wires")
@signed_in
def coil_wires(visit_id: uuid.UUID, device_id: str) -> Answer:
    """Both wires of its coil are off for a bench supply, or back on; with the power off alone."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(WiresEntry, request.form)
    device = _device(record, device_id)
    check_dead(record, "state", phrase("devices.routes.breakers-off-first-wire"))
    _keep(record, Wires(t_s=record.elapsed_s, state=entry.state, part=f"{device.id}.coil"), entry)
    return _stored(visit_id, device_id, CONTACTS, "")


def _tested(record: VisitRecord, test: ContactsView, pair: tuple[str, str], entry: TestedEntry) -> Event:
    """A point of the bench is an ordinary reading, which the judge weighs; the rest is the test's."""
    points = pair_points(record.unit, test.device.device)
    at = next((name for name, ends in points.items() if set(ends) == set(pair)), "")
    if at and not entry.new:
        value = float(entry.tone) if entry.tone is not None else entry.ohms
        assert value is not None
        quantity = Quantity.TONE if entry.tone is not None else Quantity.OHMS
        return Reading(t_s=record.elapsed_s, quantity=quantity, at=at, value=value, driven=entry.driven)
    return Tested(
        t_s=record.elapsed_s,
        device=test.device.id,
        pair=pair,
        ohms=entry.ohms,
        tone=entry.tone,
        driven=entry.driven,
        new=entry.new,
        part=test.part if entry.new else None,
    )


@devices.post("/<uuid:visit_id>/devices/<device_id>/tried")
@signed_in
def tried(visit_id: uuid.UUID, device_id: str) -> Answer:
    record = mine(visit_id, to_write=True)
    entry = parse_entry(TriedEntry, request.form)
    event = Tried(t_s=record.elapsed_s, device=device_id, acted=entry.acted, after_s=entry.after_s)
    _keep(record, event, entry)
    return _stored(visit_id, device_id, CONTACTS)


@devices.post("/<uuid:visit_id>/devices/<device_id>/felt")
@signed_in
def felt(visit_id: uuid.UUID, device_id: str) -> Answer:
    """What a hand or an ear says of the motor; a hand goes in proved dead alone."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(FeltEntry, request.form)
    if entry.what in ("spins", "stiff", "play", "tight") and not state_of(record).proved_dead:
        raise BadInput("what", phrase("devices.routes.proved-dead-first-no"))
    _keep(record, Felt(t_s=record.elapsed_s, what=entry.what), entry)
    return _stored(visit_id, device_id, MOTOR)


@devices.post("/<uuid:visit_id>/devices/<device_id>/wired")
@signed_in
def wired(visit_id: uuid.UUID, device_id: str) -> Answer:
    """What is on the terminals goes to the plate; the visit is judged by it from now on."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(WiredEntry, request.form)
    device = _device(record, device_id)
    tried_one = WiringView(device, entry.on, entry.part)
    if tried_one.problem:
        raise BadInput("on", tried_one.problem)
    wires = tuple(
        Wire(f"w{n}", terminal, end)
        for n, (terminal, end) in enumerate(((t, e) for t, ends in tried_one.ends.items() for e in ends), 1)
    )
    changed = with_wires(with_kind(record.unit, device.device, tried_one.kind), tried_one.kind, wires)
    write_to_plate(record, changed, tried_one.kind, entry)
    return _stored(visit_id, device_id, WIRING)


@devices.post("/<uuid:visit_id>/devices/<device_id>/printed")
@signed_in
def printed(visit_id: uuid.UUID, device_id: str) -> Answer:
    """What is printed at the terminals of the blower's relay goes to the plate."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(PrintedEntry, request.form)
    view = _device(record, device_id)
    device = with_kind(record.unit, view.device, view.kind)
    if not isinstance(device, BlowerRelay):
        raise BadInput("printed", phrase("devices.routes.only-prints-blowers-relay"))
    named = replace(device, printed=prints_of(view.kind, entry.printed))
    write_to_plate(record, named, view.kind, entry, was_wrong=False)
    return _stored(visit_id, device_id, CONTACTS)


@devices.post("/<uuid:visit_id>/devices/<device_id>/swap")
@signed_in
def swap(visit_id: uuid.UUID, device_id: str) -> Answer:
    """A swap begins: the sheet is laid out."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(SwapEntry, request.form)
    device = _device(record, device_id)
    if device.sheet is not None and device.sheet.under_way:
        raise BadInput("part", phrase("devices.routes.swap-under-way-finish"))
    view = SwapView(device, entry.part)
    if view.part is None or view.chosen is None:
        raise BadInput("part", phrase("devices.routes.say-which-part-goes"))
    if view.chosen.verdict == "no":
        raise BadInput("part", phrase("devices.routes.not-acceptable", points=view.chosen.points[0][2]))
    planned = {line.id: line for line in view.lines}
    if set(entry.wire) != set(planned) or len(entry.wire) != len(entry.new):
        raise BadInput("wire", phrase("devices.routes.every-wire-old-part"))
    lines = tuple(
        replace(planned[name], new=new, colour=_nth(entry.colour, at), label=_nth(entry.label, at))
        for at, (name, new) in enumerate(zip(entry.wire, entry.new, strict=True))
    )
    if view.part.name not in drawer(record.unit):
        record = write_to_plate(record, device.device, view.part, entry)
    event = Swap(t_s=record.elapsed_s, device=device_id, part=entry.part, wires=lines)
    _keep(record, event, entry)
    return _stored(visit_id, device_id, SWAP)


def _nth(texts: tuple[str, ...], at: int) -> str:
    return texts[at].strip() if at < len(texts) else ""


@devices.post("/<uuid:visit_id>/devices/<device_id>/wire")
@signed_in
def wire(visit_id: uuid.UUID, device_id: str) -> Answer:
    """One wire is taken off, landed or put back: with the power off, and one at a time."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(MovedEntry, request.form)
    device = _device(record, device_id)
    if device.sheet is None:
        raise BadInput("wire", phrase("devices.routes.no-swap-has-begun"))
    check_dead(record, "wire", phrase("devices.routes.breakers-off-first-locked"))
    event = WireMoved(
        t_s=record.elapsed_s,
        device=device_id,
        wire=entry.wire,
        act=entry.act,
        at=entry.at if entry.act == LANDED else "",
        renewed=entry.renewed.strip(),
    )
    device.sheet.check_next(event)
    _keep(record, event, entry)
    return _stored(visit_id, device_id, SWAP)


@devices.post("/<uuid:visit_id>/devices/<device_id>/finish")
@signed_in
def finish(visit_id: uuid.UUID, device_id: str) -> Answer:
    """Every wire is on: the new part is in, and on the plate with its wires."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(Entry, request.form)
    device = _device(record, device_id)
    sheet = device.sheet
    if sheet is None:
        raise BadInput("wire", phrase("devices.routes.no-swap-has-begun"))
    if sheet.open:
        raise BadInput("wire", phrase("devices.routes.not-through", open=sheet.open[0]))
    new = with_wires(with_kind(record.unit, device.device, sheet.kind), sheet.kind, sheet.landed)
    refit = Replaced(
        t_s=record.elapsed_s,
        component=device_id,
        by=new,
        note=phrase("devices.routes.sheet", kind=sheet.kind.title),
    )
    record = _keep(record, refit, entry)
    write_to_plate(record, new, sheet.kind, entry, judged_by=False)
    return _stored(visit_id, device_id, CONTACTS)
