"""Changes of a unit's make-up, in the visit file's terms: parts added, moved and taken away.

Each function takes a plate as ``unit_to_json`` writes it and changes it in place; whether the parts
then fit together is judged when the plate is read again, so that ranges and fit have one place.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any

from plentar.core.errors import BadInput
from plentar.core.unit.parts import CONTROL_KINDS
from plentar.words import phrase

Plate = dict[str, Any]
#: Groups of parts that stand in a rung and nowhere else.
LOOSE = {"limit": ("limits", "TL"), "link": ("links", "FL")}


def rung_of(plate: Plate, element_id: str) -> list[str]:
    """An element's rung; raises BadInput where there is no such element."""
    for element in plate["elements"]:
        if element["id"] == element_id:
            rung: list[str] = element["rung"]
            return rung
    raise BadInput("element", phrase("files.plate-edits.no-element", element_id=element_id))


def move(plate: Plate, element_id: str, part: str, by: int) -> None:
    """A part so many places later in a rung, or earlier below zero; at its end it stays."""
    rung = rung_of(plate, element_id)
    if part not in rung:
        raise BadInput("part", phrase("files.plate-edits.not-rung", part=part, element_id=element_id))
    at = rung.index(part)
    to = at + by
    if 0 <= to < len(rung):
        rung[at], rung[to] = rung[to], rung[at]


def take_out(plate: Plate, element_id: str, part: str) -> None:
    """A part out of one rung. A limit or link that is in no other then is not there at all."""
    rung = rung_of(plate, element_id)
    if part not in rung or part == element_id:
        raise BadInput(
            "part", phrase("files.plate-edits.cant-taken-out-rung", part=part, element_id=element_id)
        )
    rung.remove(part)
    if not any(part in element["rung"] for element in plate["elements"]):
        for group, _ in LOOSE.values():
            plate[group] = [thing for thing in plate[group] if thing["id"] != part]


def add_loose(plate: Plate, element_id: str, kind: str) -> str:
    """A limit after, or a link before, an element of a rung; its id."""
    group, letters = LOOSE[kind]
    rung = rung_of(plate, element_id)
    new = _free(plate, letters)
    plate[group].append({"id": new})
    rung.insert(rung.index(element_id) + (kind == "limit"), new)
    return new


def put_in(plate: Plate, element_id: str, part: str, at_end: bool = False) -> None:
    """A switch, limit or link that is there into a rung too, at its L1 or its L2 end."""
    rung = rung_of(plate, element_id)
    if part in rung:
        raise BadInput("part", phrase("files.plate-edits.this-rung-already", part=part))
    rung.insert(len(rung) if at_end else 0, part)


def add_element(plate: Plate, circuit: str, closed_by: str = "") -> str:
    """A strip like the last one, with a link and a limit of its own, closed by an element switch
    that is there or by a new device of a kind; its id. Closed by nothing, it would always heat."""
    like = next((e for e in reversed(plate["elements"]) if e["circuit"] == circuit), None)
    like = like or plate["elements"][-1]
    new = _free(plate, "E")
    heads, tails = [closed_by] if closed_by else [], []
    if closed_by in CONTROL_KINDS:
        device = plate["controls"][-1]["call"] if plate["controls"] else "W1"
        made = add_device(plate, closed_by, device)
        ids = [switch["id"] for switch in _device(plate, made)["switches"]]
        heads, tails = ids[:1], ids[1:]
    plate["elements"].append(
        {
            "id": new,
            "rated_kw": like["rated_kw"],
            "rated_volts": like["rated_volts"],
            "circuit": circuit,
            "rung": [*heads, new, *tails],
        }
    )
    add_loose(plate, new, "link")
    add_loose(plate, new, "limit")
    return new


def remove_element(plate: Plate, element_id: str) -> None:
    """A strip and the limits and links that are its own; its switches are spares then."""
    for part in [p for p in rung_of(plate, element_id) if p != element_id]:
        take_out(plate, element_id, part)
    plate["elements"] = [e for e in plate["elements"] if e["id"] != element_id]


def add_device(plate: Plate, kind: str, call: Any) -> str:
    """A sequencer, contactor or relay on a call, with its kind's usual switches; its id."""
    of = CONTROL_KINDS[kind]
    new = _free(plate, "S" if of.thermal else "K")
    switches = [{"id": f"{new}.{n}"} for n in range(1, of.poles + 1)]
    plate["controls"].append({"id": new, "type": kind, "call": call, "switches": switches})
    return new


def change_kind(plate: Plate, device_id: str, kind: str) -> None:
    """A device of another kind under the same id: what the old one had printed goes with it."""
    device = _device(plate, device_id)
    if device["type"] == kind:
        return
    device["type"] = kind
    device["coil"] = {"volts": device.get("coil", {}).get("volts", 24)}
    for switch in device["switches"]:
        switch.pop("on_s", None)
        switch.pop("off_s", None)


def add_switch(plate: Plate, device_id: str, role: str) -> str:
    """One more switch on a device; its id."""
    device = _device(plate, device_id)
    letter = {"blower": "B", "auxiliary": "A"}.get(role, "")
    taken = {switch["id"] for switch in device["switches"]}
    names = [f"{device_id}.{letter}", *(f"{device_id}.{letter}{n}" for n in range(1, 42))]
    new = next(name for name in names if name not in taken and not name.endswith("."))
    device["switches"].append({"id": new, "role": role})
    return new


def remove_switch(plate: Plate, switch_id: str) -> None:
    """A switch off its device and out of every rung; with its last one the device goes."""
    device = next(d for d in plate["controls"] if _has(d, switch_id))
    device["switches"] = [s for s in device["switches"] if s["id"] != switch_id]
    for element in plate["elements"]:
        element["rung"] = [part for part in element["rung"] if part != switch_id]
    if not device["switches"]:
        plate["controls"].remove(device)
    _untie(plate, {switch_id})


def remove_device(plate: Plate, device_id: str) -> None:
    for switch in list(_device(plate, device_id)["switches"]):
        remove_switch(plate, switch["id"])


def add_circuit(plate: Plate) -> str:
    """One more supply circuit, of the volts of the first; its id."""
    new = _free(plate, "C")
    plate["circuits"].append({"id": new, "rated_volts": plate["circuits"][0]["rated_volts"]})
    return new


def remove_circuit(plate: Plate, circuit: str) -> None:
    """A circuit on which nothing hangs."""
    hangs = [e["id"] for e in plate["elements"] if e["circuit"] == circuit]
    hangs += ["blower"] if plate.get("blower", {}).get("circuit") == circuit else []
    hangs += (
        [phrase("files.plate-edits.control-power")] if plate["control_power"]["circuit"] == circuit else []
    )
    if hangs:
        raise BadInput(
            "", phrase("files.plate-edits.still-move-first", hangs=", ".join(hangs), circuit=circuit)
        )
    plate["circuits"] = [c for c in plate["circuits"] if c["id"] != circuit]
    feeder = plate.get("feeder")
    if feeder:
        feeder["circuits"] = [c for c in feeder["circuits"] if c != circuit]
        if not feeder["circuits"]:
            del plate["feeder"]


def add_load(plate: Plate, call: str) -> str:
    """A load outside the unit on a call, such as the outdoor contactor; its id."""
    new = _free(plate, "OD")
    plate["other_loads"].append(
        {"id": new, "label": phrase("files.plate-edits.outdoor-load"), "call": call, "va": 8}
    )
    return new


def remove_load(plate: Plate, load_id: str) -> None:
    plate["other_loads"] = [load for load in plate["other_loads"] if load["id"] != load_id]


def add_blower(plate: Plate) -> str:
    """A blower on the first circuit, its tie not known."""
    if "blower" in plate:
        raise BadInput("", phrase("files.plate-edits.there-blower-already"))
    plate["blower"] = {"circuit": plate["circuits"][0]["id"], "motor": "psc"}
    return "blower"


def remove_blower(plate: Plate) -> None:
    """No blower on this plate."""
    plate.pop("blower", None)


def _untie(plate: Plate, gone: set[str]) -> None:
    """A tie to a switch that is gone is not known any more; so is a call through it."""
    tie = plate.get("blower", {}).get("interlock", {})
    if gone & {tie.get("tap"), tie.get("switch")}:
        del plate["blower"]["interlock"]
    for device in plate["controls"]:
        if isinstance(device["call"], Mapping) and device["call"]["through"] in gone:
            device["call"] = "W1"


def _device(plate: Plate, device_id: str) -> dict[str, Any]:
    found = (device for device in plate["controls"] if device["id"] == device_id)
    device: dict[str, Any] | None = next(found, None)
    if device is None:
        raise BadInput("part", phrase("files.plate-edits.no-device", device_id=device_id))
    return device


def _has(device: Mapping[str, Any], switch_id: str) -> bool:
    return any(switch["id"] == switch_id for switch in device["switches"])


def _ids(plate: Plate) -> Iterator[str]:
    for group in ("circuits", "limits", "links", "elements", "controls", "other_loads"):
        yield from (thing["id"] for thing in plate[group])
    yield from (s["id"] for device in plate["controls"] for s in device["switches"])
    relay = plate.get("blower", {}).get("relay")
    if relay:
        yield relay["id"]


def _free(plate: Plate, letters: str) -> str:
    taken = set(_ids(plate))
    return next(f"{letters}{n}" for n in range(1, 200) if f"{letters}{n}" not in taken)


#: What can be done to a plate that needs no more than a part's id.
REMOVALS: Mapping[str, Callable[[Plate, str], None]] = {
    "element": remove_element,
    "switch": remove_switch,
    "coil": remove_device,
    "circuit": remove_circuit,
    "load": remove_load,
    "blower": lambda plate, _: remove_blower(plate),
}
