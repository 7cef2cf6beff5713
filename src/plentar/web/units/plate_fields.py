"""The values on a part's plate: one table that draws the panel and reads it back.

A panel edits the part's object in the visit file's terms; the whole unit is then checked again,
so that ranges and fit are judged in one place.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from plentar.core.errors import BadInput
from plentar.core.quantity import parse_reading
from plentar.core.unit import Unit
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.files.visit_file import parse_model

#: Kinds of part that a rung may do without.
REMOVABLE = ("limit", "link")
AWG = ("14", "12", "10", "8", "6", "4", "3", "2", "1", "1/0", "2/0")


@dataclass(frozen=True, slots=True)
class PlateField:
    """One value: ``path`` inside the part's object, as in ``("on_s", 0)``."""

    path: tuple[str | int, ...]
    label: str
    unit: str = ""
    choices: tuple[str, ...] = ()
    number: bool = True

    @property
    def name(self) -> str:
        """The field's name in a form, which is also its JSON path below the part."""
        text = ""
        for step in self.path:
            text += f"[{step}]" if isinstance(step, int) else f".{step}" if text else step
        return text


def _window(key: str, label: str) -> tuple[PlateField, PlateField]:
    return (
        PlateField((key, 0), f"{label}, least", "s"),
        PlateField((key, 1), f"{label}, most", "s"),
    )


_COIL = (
    PlateField(("coil", "volts"), "Coil volts", "V"),
    PlateField(("coil", "ohms", 0), "Coil ohms, least", "Ω"),
    PlateField(("coil", "ohms", 1), "Coil ohms, most", "Ω"),
    PlateField(("coil", "va"), "Coil VA", "VA"),
)
_CONDUCTOR = ("conductor",)
FIELDS = {
    "circuit": (
        PlateField(("rated_volts",), "Rated volts", "V"),
        PlateField(("breaker_amps",), "Breaker", "A"),
        PlateField(("plate", "min_circuit_amps"), "Minimum circuit amps (MCA)", "A"),
        PlateField(("plate", "max_breaker_amps"), "Maximum breaker (MOP)", "A"),
        PlateField((*_CONDUCTOR, "awg"), "Conductor", "AWG", ("", *AWG), number=False),
        PlateField((*_CONDUCTOR, "material"), "Metal", "", ("copper", "aluminium"), number=False),
        PlateField((*_CONDUCTOR, "termination_c"), "Terminals", "°C", ("60", "75")),
        PlateField((*_CONDUCTOR, "insulation_c"), "Insulation", "°C", ("60", "75", "90")),
        PlateField((*_CONDUCTOR, "cable"), "Cable", "", ("other", "nm"), number=False),
        PlateField((*_CONDUCTOR, "ambient_c"), "Warmest it lies in", "°C"),
        PlateField((*_CONDUCTOR, "length_ft"), "Length one way", "ft"),
    ),
    "element": (
        PlateField(("rated_kw",), "Rated power", "kW"),
        PlateField(("rated_volts",), "Rated volts", "V"),
    ),
    "switch": (
        *_window("on_s", "On time"),
        *_window("off_s", "Off time"),
        PlateField(("contact_amps",), "Contact rating", "A"),
    ),
    "limit": (
        PlateField(("opens_f",), "Opens at", "°F"),
        PlateField(("closes_f",), "Closes at", "°F"),
    ),
    "link": (),
    "coil": _COIL,
    "blower": (
        PlateField(("fla",), "Full-load amps", "A"),
        PlateField(("typical_amps",), "Typical amps", "A"),
        PlateField(("rated_cfm",), "Rated airflow", "CFM"),
        PlateField(("tons",), "Cooling", "tons"),
    ),
    "capacitor": (PlateField(("capacitor_uf",), "Marked", "µF"),),
    "terminal": (
        PlateField(("va",), "Transformer", "VA"),
        PlateField(("volts",), "Secondary", "V"),
        PlateField(("fuse_amps",), "Fuse", "A"),
        PlateField(("primary_volts",), "Primary on its tap for", "V"),
    ),
}


def locate(plate: dict[str, Any], part: str) -> tuple[str, str, dict[str, Any]]:
    """A part's kind, its JSON path below the unit, and its object; raises BadInput."""
    if part == "R":
        return "terminal", "control_power", plate["control_power"]
    if part in ("blower", "capacitor") and "blower" in plate:
        return part, "blower", plate["blower"]
    relay = plate.get("blower", {}).get("relay")
    if relay and part == f"{relay['id']}.coil":
        return "coil", "blower.relay", relay
    groups = {"circuits": "circuit", "elements": "element", "limits": "limit", "links": "link"}
    for group, kind in groups.items():
        for index, thing in enumerate(plate[group]):
            if thing["id"] == part:
                return kind, f"{group}[{index}]", thing
    for index, control in enumerate(plate["controls"]):
        if part == f"{control['id']}.coil":
            return "coil", f"controls[{index}]", control
        for at, switch in enumerate(control["switches"]):
            if switch["id"] == part:
                return "switch", f"controls[{index}].switches[{at}]", switch
    raise BadInput("part", f"no part {part!r} on this unit")


def read_value(thing: Any, field: PlateField) -> str:
    """What a field holds now, as text; empty where the plate does not say."""
    for step in field.path:
        try:
            thing = thing[step]
        except (KeyError, IndexError):
            return ""
    return f"{thing:g}" if isinstance(thing, float) else str(thing)


def changed_unit(unit: Unit, part: str, typed: Mapping[str, str]) -> Unit:
    """The unit with a part's values as typed; an empty value is left out.

    Raises BadInput whose path is the field's name, or empty when the parts do not fit.
    """
    plate = unit_to_json(unit)
    kind, path, thing = locate(plate, part)
    for field in FIELDS[kind]:
        _write(thing, field, typed.get(field.name, "").strip())
    _drop_empty(thing)
    return checked(plate, path)


def checked(plate: dict[str, Any], path: str = "") -> Unit:
    """The unit of a changed plate; a complaint's path is taken relative to ``path``."""
    try:
        return parse_model(UnitJson, plate).to_core()
    except BadInput as bad:
        inside = bad.path.removeprefix(path).removeprefix(".") if path else bad.path
        raise BadInput(inside, bad.reason) from None


def _write(thing: Any, field: PlateField, typed: str) -> None:
    *parents, last = field.path
    for step in parents:
        if step not in thing:
            thing[step] = [None, None] if isinstance(last, int) else {}
        thing = thing[step]
    if not typed:
        if isinstance(last, int):
            thing[last] = None
        else:
            thing.pop(last, None)
        return
    if field.choices and typed not in field.choices:
        raise BadInput(field.name, "choose one of the list")
    if not field.number:
        thing[last] = typed
        return
    try:
        value = parse_reading(typed)
    except BadInput as bad:
        raise BadInput(field.name, bad.reason) from None
    if value == float("inf"):
        raise BadInput(field.name, "a number, please")
    thing[last] = int(value) if field.choices else value


def _drop_empty(thing: dict[str, Any]) -> None:
    """A conductor without a size is no conductor; a window without ends is not printed."""
    if "conductor" in thing and "awg" not in thing["conductor"]:
        del thing["conductor"]
    if "plate" in thing and not thing["plate"]:
        del thing["plate"]
    for owner in (thing, thing.get("coil", {})):
        for key in ("on_s", "off_s", "ohms"):
            if owner.get(key) == [None, None]:
                del owner[key]


def moved_part(unit: Unit, element_id: str, part: str, by: int) -> Unit:
    """The unit with a part one place earlier (−1) or later (+1) in an element's rung."""
    plate = unit_to_json(unit)
    rung = _rung(plate, element_id)
    if part not in rung:
        raise BadInput("part", f"{part!r} is not in the rung of {element_id!r}")
    at = rung.index(part)
    to = at + by
    if 0 <= to < len(rung):
        rung[at], rung[to] = rung[to], rung[at]
    return checked(plate)


def without_part(unit: Unit, part: str) -> Unit:
    """The unit without a limit or a link."""
    plate = unit_to_json(unit)
    kind, _, _ = locate(plate, part)
    if kind not in REMOVABLE:
        raise BadInput("part", "only limits and links can be taken out of a rung")
    plate[f"{kind}s"] = [thing for thing in plate[f"{kind}s"] if thing["id"] != part]
    for element in plate["elements"]:
        element["rung"] = [p for p in element["rung"] if p != part]
    return checked(plate)


def _rung(plate: dict[str, Any], element_id: str) -> list[str]:
    for element in plate["elements"]:
        if element["id"] == element_id:
            rung: list[str] = element["rung"]
            return rung
    raise BadInput("element", f"no element {element_id!r}")
