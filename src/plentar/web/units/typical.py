"""What is taken of a part where nobody has read its print, and the one touch that says the print says so."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from plentar.core.quantity import Band
from plentar.core.unit.parts import WINDOWS, BlowerRelay, Switch
from plentar.core.unit.unit import Device, Unit
from plentar.words.numbers import show


@dataclass(frozen=True, slots=True)
class Typical:
    """A typical value: the fields of the panel that it stands for, with what would be typed there, in words."""

    fields: Mapping[str, str]
    said: str


def typical_of(unit: Unit, part: str) -> dict[str, Typical]:
    """Of a part's panel, what is typical and not printed, by the last of the fields that it stands for."""
    found = {}
    owner, _, end = part.rpartition(".")
    switch, device = unit.switch_by_id.get(part), unit.device_by_id.get(owner)
    if switch is not None:
        found = _windows(switch, "")
    elif device is not None and end == "coil":
        above = "relay." if isinstance(device, BlowerRelay) else ""
        found = _coil(device, above)
        if isinstance(device, BlowerRelay):
            found |= _windows(device, above)
    return found


def _windows(part: Switch | BlowerRelay, above: str) -> dict[str, Typical]:
    return {
        f"{above}{name}[1]": _range(f"{above}{name}", getattr(part, name), "s")
        for name in WINDOWS
        if name in part.typical
    }


def _coil(device: Device, above: str) -> dict[str, Typical]:
    found = {}
    if device.coil.ohms is None:
        found[f"{above}coil.ohms[1]"] = _range(f"{above}coil.ohms", device.coil_ohms, "Ω")
    if device.coil.va is None:
        field = f"{above}coil.va"
        found[field] = Typical({field: f"{device.coil_va:g}"}, show(device.coil_va, "VA"))
    return found


def _range(field: str, band: Band, unit: str) -> Typical:
    ends = {f"{field}[0]": f"{band.low:g}", f"{field}[1]": f"{band.high:g}"}
    return Typical(ends, f"{band.low:g}–{band.high:g} {unit}")


def as_printed(unit: Unit, part: str, field: str) -> Mapping[str, str]:
    """What the touch on a typical value types; nothing where it is not typical any more."""
    typical = typical_of(unit, part).get(field)
    return typical.fields if typical is not None else {}
