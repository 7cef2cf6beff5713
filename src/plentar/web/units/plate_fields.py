"""The values on a part's plate: one table that draws the panel and reads it back.

A panel edits the part's object in the visit file's terms; the whole unit is then checked again,
so that ranges and fit are judged in one place.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

from plentar.core.errors import BadInput
from plentar.core.quantity import parse_reading
from plentar.core.unit.kits import KIT_KINDS, KIT_TIES
from plentar.core.unit.parts import (
    BREAKER_PLACES,
    CALLS,
    CONTROL_KINDS,
    DISCONNECTS,
    RELAY_ENDS,
    RELAY_KINDS,
    SPEED_LEADS,
)
from plentar.core.unit.unit import Unit
from plentar.files.plate_edits import change_kind
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.files.visit_file import parse_model

AWG = ("14", "12", "10", "8", "6", "4", "3", "2", "1", "1/0", "2/0")
#: A call that comes through an auxiliary switch, as a choice says it.
THROUGH = "through "
YES, NO = "yes", "no"
Choices = tuple[str, ...] | Callable[[Unit], tuple[str, ...]]


@dataclass(frozen=True, slots=True)
class PlateField:
    """One value: ``path`` inside the part's object, as in ``("on_s", 0)``.

    ``kind``: a number, a text, a choice, a whole number to choose, yes or no, several choices, a
    call, or whether an optional object is there. An empty value is left out.
    """

    path: tuple[str | int, ...]
    label: str
    unit: str = ""
    choices: Choices = ()
    kind: str = "number"
    #: Rarely asked of the part in hand: behind a fold.
    rare: bool = False

    @property
    def name(self) -> str:
        """The field's name in a form, which is also its JSON path below the part."""
        text = ""
        for step in self.path:
            text += f"[{step}]" if isinstance(step, int) else f".{step}" if text else step
        return text

    def options(self, unit: Unit) -> tuple[str, ...]:
        if self.kind in ("yes-no", "there"):
            return ("", YES, NO) if self.kind == "yes-no" else (NO, YES)
        return self.choices(unit) if callable(self.choices) else self.choices


def _circuits(unit: Unit) -> tuple[str, ...]:
    return tuple(unit.circuit_by_id)


def _switches(role: str, none: str = "") -> Callable[[Unit], tuple[str, ...]]:
    def choices(unit: Unit) -> tuple[str, ...]:
        return (none, *(s.id for s in unit.switch_by_id.values() if s.role == role))

    return choices


def _calls(unit: Unit) -> tuple[str, ...]:
    passing = (s.id for s in unit.switch_by_id.values() if s.role == "auxiliary")
    return (*CALLS, *(f"{THROUGH}{switch}" for switch in passing))


def _window(key: str, label: str, *above: str) -> tuple[PlateField, PlateField]:
    return (
        PlateField((*above, key, 0), f"{label}, least", "s"),
        PlateField((*above, key, 1), f"{label}, most", "s"),
    )


def _choice(path: tuple[str, ...], label: str, choices: Choices, kind: str = "choice") -> PlateField:
    return PlateField(path, label, "", choices, kind)


def _coil(*above: str) -> tuple[PlateField, ...]:
    return (
        PlateField((*above, "coil", "volts"), "Coil volts", "V"),
        PlateField((*above, "coil", "ohms", 0), "Coil ohms, least", "Ω"),
        PlateField((*above, "coil", "ohms", 1), "Coil ohms, most", "Ω"),
        PlateField((*above, "coil", "va"), "Coil VA", "VA"),
    )


def _rarely(*fields: PlateField) -> tuple[PlateField, ...]:
    return tuple(replace(field, rare=True) for field in fields)


_CONDUCTOR = (
    _choice(("conductor", "awg"), "Conductor, AWG", ("", *AWG)),
    _choice(("conductor", "material"), "Metal", ("copper", "aluminium")),
    PlateField(("conductor", "termination_c"), "Terminals", "°C", ("", "60", "75"), "whole"),
    PlateField(("conductor", "insulation_c"), "Insulation", "°C", ("", "60", "75", "90"), "whole"),
    _choice(("conductor", "cable"), "Cable", ("other", "nm")),
    PlateField(("conductor", "ambient_c"), "Warmest it lies in", "°C"),
    PlateField(("conductor", "length_ft"), "Length one way", "ft"),
    PlateField(("conductor", "length_measured"), "Length was measured", kind="yes-no"),
)
_TIE = (
    _choice(("interlock", "kind"), "Heat tied to it by", ("", *KIT_TIES)),
    _choice(("interlock", "tap"), "Tapped switch (NC contact)", _switches("element")),
    _choice(("interlock", "switch"), "Blower switch", _switches("blower")),
)
FIELDS: Mapping[str, tuple[PlateField, ...]] = {
    "unit": (
        PlateField(("label",), "Where it is", kind="text"),
        _choice(("kind",), "Kind", tuple(KIT_KINDS)),
    ),
    "circuit": (
        PlateField(("rated_volts",), "Rated volts", "V"),
        PlateField(("breaker_amps",), "Breaker", "A"),
        PlateField(("breaker_legs",), "Legs that it opens", "", ("", "1", "2"), "whole"),
        _choice(("breaker_at",), "Breaker is in the", ("", *BREAKER_PLACES)),
        PlateField(("plate", "min_circuit_amps"), "Minimum circuit amps (MCA)", "A"),
        PlateField(("plate", "max_breaker_amps"), "Maximum breaker (MOP)", "A"),
        PlateField(("plate", "dual"), "Plate says, such as 208/230", kind="text"),
        PlateField(("subdivided",), "Split inside the kit", kind="yes-no"),
        *_CONDUCTOR,
    ),
    "feeder": (
        PlateField(("circuits",), "Ahead of", "", _circuits, "several"),
        _choice(("disconnect",), "Disconnect", ("", *DISCONNECTS)),
        PlateField(("breaker_amps",), "Breaker or fuse", "A"),
        PlateField(("breaker_legs",), "Legs that it opens", "", ("", "1", "2"), "whole"),
        *_CONDUCTOR,
    ),
    "element": (
        PlateField(("rated_kw",), "Rated power", "kW"),
        PlateField(("rated_volts",), "Rated volts", "V"),
        _choice(("circuit",), "Circuit", _circuits),
    ),
    "switch": (
        *_window("on_s", "On time"),
        *_window("off_s", "Off time"),
        PlateField(("contact_amps",), "Contact rating", "A"),
        _choice(("role",), "Works as", ("element", "blower", "auxiliary")),
    ),
    "limit": (PlateField(("opens_f",), "Opens at", "°F"), PlateField(("closes_f",), "Closes at", "°F")),
    "link": (),
    "coil": (
        _choice(("type",), "Kind", tuple(CONTROL_KINDS), "control-kind"),
        _choice(("call",), "Driven by", _calls, "call"),
        *_coil(),
        PlateField(("outdoor_thermostat",), "Outdoor thermostat", kind="there"),
        PlateField(("outdoor_thermostat", "closes_below_f"), "It closes below", "°F"),
    ),
    "relay": (
        _choice(("relay", "type"), "Kind", ("", *RELAY_KINDS)),
        _choice(("relay", "call"), "Driven by", CALLS),
        *_coil("relay"),
        *_window("on_s", "On time", "relay"),
        *_window("off_s", "Off time", "relay"),
    ),
    "contact": (
        PlateField(("relay", "contact_amps"), "Contact rating", "A"),
        *(
            _choice(("relay", "wires", end), f"On its {said}", ("", *RELAY_ENDS))
            for end, said in (("common", "common"), ("no", "normally open"), ("nc", "normally closed"))
        ),
        *_TIE,
    ),
    "blower": (
        _choice(("motor",), "Motor", ("psc", "ecm")),
        _choice(("circuit",), "Circuit", _circuits),
        PlateField(("fla",), "Full-load amps", "A"),
        PlateField(("capacitor_uf",), "Capacitor", "µF"),
        *_rarely(
            PlateField(("typical_amps",), "Typical amps", "A"),
            PlateField(("rated_cfm",), "Rated airflow", "CFM"),
            PlateField(("min_cfm",), "Least airflow with heat", "CFM"),
            PlateField(("tons",), "Cooling", "tons"),
            PlateField(("speed_tap",), "Speed tap in use", kind="text"),
            PlateField(("other_speed", "tap"), "Its other speed", kind="text"),
            _choice(("other_speed", "lead"), "Whose lead is", SPEED_LEADS),
            _choice(("relay", "type"), "Relay", ("", *RELAY_KINDS)),
            *(
                PlateField(("taps", call), f"24 V tap for {call}", "", ("", *"123456789"), "whole")
                for call in ("G", "W1", "W2")
            ),
            *_TIE,
        ),
    ),
    "capacitor": (PlateField(("capacitor_uf",), "Marked", "µF"),),
    "control power": (
        PlateField(("va",), "Transformer", "VA"),
        PlateField(("volts",), "Secondary", "V"),
        PlateField(("fuse_amps",), "Fuse", "A"),
        PlateField(("primary_volts",), "Primary on its tap for", "V"),
        _choice(("circuit",), "Fed from", _circuits),
        PlateField(("c_grounded",), "C bonded to the cabinet", kind="yes-no"),
    ),
    "load": (
        PlateField(("label",), "What it is", kind="text"),
        _choice(("call",), "Driven by", CALLS),
        PlateField(("va",), "Draws", "VA"),
    ),
    "terminal": (),
}


def locate(plate: dict[str, Any], part: str) -> tuple[str, str, dict[str, Any]]:
    """A part's kind, its JSON path below the unit, and its object; raises BadInput."""
    if part in ("R", "transformer", "fuse", "control-fuse"):
        return "control power", "control_power", plate["control_power"]
    if part == "unit" or part in CALLS:
        return "unit" if part == "unit" else "terminal", "", plate
    if part == "feeder":
        every = [circuit["id"] for circuit in plate["circuits"]]
        return "feeder", "feeder", plate.setdefault("feeder", {"circuits": every})
    if "blower" in plate and (kind := _of_blower(plate["blower"], part)):
        return kind, "blower", plate["blower"]
    return _listed(plate, part)


def _of_blower(blower: dict[str, Any], part: str) -> str:
    """The kind of a part of the blower, its relay's among them; empty where it is none."""
    if part in ("blower", "capacitor"):
        return part
    owner, _, end = part.rpartition(".")
    if owner and owner == blower.get("relay", {}).get("id"):
        return {"coil": "relay", "no": "contact", "nc": "contact"}.get(end, "")
    return ""


def _listed(plate: dict[str, Any], part: str) -> tuple[str, str, dict[str, Any]]:
    groups = {
        "circuits": "circuit",
        "elements": "element",
        "limits": "limit",
        "links": "link",
        "other_loads": "load",
    }
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
            return NO if field.kind == "there" else ""
    match field.kind:
        case "there":
            return YES
        case "yes-no":
            return YES if thing else NO
        case "call" if isinstance(thing, Mapping):
            return f"{THROUGH}{thing['through']}"
        case "several":
            return ",".join(thing)
    return _plain(thing) if isinstance(thing, float) else str(thing)


def _plain(number: float) -> str:
    """A number with all its figures and without an exponent, as it can be typed again."""
    text = f"{Decimal(repr(number)):f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def changed_unit(unit: Unit, part: str, typed: Mapping[str, str]) -> Unit:
    """The unit with a part's values as typed; an empty value is left out, one that is not among
    them stays as it is.

    Raises BadInput whose path is the field's name, or empty when the parts do not fit.
    """
    plate = unit_to_json(unit)
    kind, path, thing = locate(plate, part)
    # Whether an optional object is there at all is settled after what is in it.
    for field in sorted(FIELDS[kind], key=lambda field: field.kind == "there"):
        if field.name not in typed and field.kind != "several":
            continue  # the form did not ask for it
        said = typed.get(field.name, "").strip()
        if field.kind == "control-kind":
            if _chosen(unit, field, said) != thing["type"]:
                change_kind(plate, thing["id"], said)
                typed = {name: of for name, of in typed.items() if not name.startswith("coil.")}
        else:
            _write(unit, thing, field, said)
    if kind == "feeder" and not thing["circuits"]:
        del plate["feeder"]
    _drop_empty(thing)
    return checked(plate, path)


def checked(plate: dict[str, Any], path: str = "") -> Unit:
    """The unit of a changed plate; a complaint's path is taken relative to ``path``."""
    try:
        return parse_model(UnitJson, plate).to_core()
    except BadInput as bad:
        inside = bad.path.removeprefix(path).removeprefix(".") if path else bad.path
        raise BadInput(inside, bad.reason) from None


def _chosen(unit: Unit, field: PlateField, typed: str) -> str:
    if typed not in field.options(unit):
        raise BadInput(field.name, "choose one of the list")
    return typed


def _write(unit: Unit, thing: Any, field: PlateField, typed: str) -> None:
    value = _value(unit, field, typed)
    *parents, last = field.path
    for step in parents:
        if step not in thing:
            if value is None:
                return
            thing[step] = [None, None] if isinstance(last, int) else {}
        thing = thing[step]
    if field.kind == "there":
        if value and last not in thing:
            thing[last] = {}
        elif not value:
            thing.pop(last, None)
    elif value is not None:
        thing[last] = value
    elif isinstance(last, int):
        thing[last] = None
    else:
        thing.pop(last, None)


def _value(unit: Unit, field: PlateField, typed: str) -> Any:
    """What was typed as the file has it; None where nothing was. Raises BadInput at the field."""
    if field.kind == "several":
        chosen = [one for one in typed.split(",") if one]
        return [_chosen(unit, field, one) for one in chosen]
    if field.kind == "there":
        return typed == YES
    if not typed:
        return None
    if field.kind == "text":
        return typed
    if field.kind == "number":
        return _number(field, typed)
    _chosen(unit, field, typed)
    match field.kind:
        case "whole":
            return int(typed)
        case "yes-no":
            return typed == YES
        case "call" if typed.startswith(THROUGH):
            return {"through": typed.removeprefix(THROUGH)}
    return typed


def _number(field: PlateField, typed: str) -> float:
    try:
        value = parse_reading(typed)
    except BadInput as bad:
        raise BadInput(field.name, bad.reason) from None
    if math.isinf(value):
        raise BadInput(field.name, "a number, please")
    return value


def _drop_empty(thing: dict[str, Any]) -> None:
    """A conductor without a size is no conductor, a relay without a kind no relay, a window
    without ends is not printed, a speed without a name is none."""
    relay = thing.get("relay")
    if relay is not None:
        if not relay.get("type"):
            del thing["relay"]
        relay.setdefault("id", "BR")
        if relay.get("wires") == {}:
            del relay["wires"]
    if "conductor" in thing and "awg" not in thing["conductor"]:
        del thing["conductor"]
    if "tap" not in thing.get("other_speed", {"tap": ""}):
        del thing["other_speed"]
    for whole in ("plate", "taps"):
        if thing.get(whole) == {}:
            del thing[whole]
    if "interlock" in thing and "kind" not in thing["interlock"]:
        del thing["interlock"]
    for owner in (thing, thing.get("coil", {}), relay or {}, (relay or {}).get("coil", {})):
        for key in ("on_s", "off_s", "ohms"):
            if owner.get(key) == [None, None]:
                del owner[key]
