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
from plentar.core.said import Said, say
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
from plentar.words import measures, phrase

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
    label: Said | str
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


def _window(key: str, label: Said | str, *above: str) -> tuple[PlateField, PlateField]:
    return (
        PlateField((*above, key, 0), say("units.plate-fields.least", label=label), "s"),
        PlateField((*above, key, 1), say("units.plate-fields.most", label=label), "s"),
    )


def _choice(path: tuple[str, ...], label: Said | str, choices: Choices, kind: str = "choice") -> PlateField:
    return PlateField(path, label, "", choices, kind)


def _coil(*above: str) -> tuple[PlateField, ...]:
    return (
        PlateField((*above, "coil", "volts"), say("units.plate-fields.coil-volts"), "V"),
        PlateField((*above, "coil", "ohms", 0), say("units.plate-fields.coil-ohms-least"), "Ω"),
        PlateField((*above, "coil", "ohms", 1), say("units.plate-fields.coil-ohms-most"), "Ω"),
        PlateField((*above, "coil", "va"), say("units.plate-fields.coil-va"), "VA"),
    )


def _rarely(*fields: PlateField) -> tuple[PlateField, ...]:
    return tuple(replace(field, rare=True) for field in fields)


_CONDUCTOR = (
    _choice(("conductor", "awg"), say("units.plate-fields.conductor-awg"), ("", *AWG)),
    _choice(("conductor", "material"), say("units.plate-fields.metal"), ("copper", "aluminium")),
    PlateField(
        ("conductor", "termination_c"), say("units.plate-fields.terminals"), "°C", ("", "60", "75"), "whole"
    ),
    PlateField(
        ("conductor", "insulation_c"),
        say("units.plate-fields.insulation"),
        "°C",
        ("", "60", "75", "90"),
        "whole",
    ),
    _choice(("conductor", "cable"), say("units.plate-fields.cable"), ("other", "nm")),
    PlateField(("conductor", "ambient_c"), say("units.plate-fields.warmest-lies"), "°C"),
    PlateField(("conductor", "length_ft"), say("units.plate-fields.length-one-way"), "ft"),
    PlateField(
        ("conductor", "length_measured"), say("units.plate-fields.length-was-measured"), kind="yes-no"
    ),
)
_TIE = (
    _choice(("interlock", "kind"), say("units.plate-fields.heat-tied"), ("", *KIT_TIES)),
    _choice(("interlock", "tap"), say("units.plate-fields.tapped-switch-nc-contact"), _switches("element")),
    _choice(("interlock", "switch"), say("units.plate-fields.blower-switch"), _switches("blower")),
)
_NAME = PlateField(("name",), say("units.plate-fields.printed"), kind="text", rare=True)
FIELDS: Mapping[str, tuple[PlateField, ...]] = {
    "unit": (
        PlateField(("label",), say("units.plate-fields.where"), kind="text"),
        _choice(("kind",), say("units.plate-fields.kind"), tuple(KIT_KINDS)),
    ),
    "circuit": (
        PlateField(("rated_volts",), say("units.plate-fields.rated-volts"), "V"),
        PlateField(("breaker_amps",), say("units.plate-fields.breaker"), "A"),
        PlateField(("breaker_legs",), say("units.plate-fields.legs-opens"), "", ("", "1", "2"), "whole"),
        _choice(("breaker_at",), say("units.plate-fields.breaker-2"), ("", *BREAKER_PLACES)),
        PlateField(("plate", "min_circuit_amps"), say("units.plate-fields.minimum-circuit-amps-mca"), "A"),
        PlateField(("plate", "max_breaker_amps"), say("units.plate-fields.maximum-breaker-mop"), "A"),
        PlateField(("plate", "dual"), say("units.plate-fields.plate-says-such-208"), kind="text"),
        PlateField(("subdivided",), say("units.plate-fields.split-inside-kit"), kind="yes-no"),
        *_CONDUCTOR,
        _NAME,
    ),
    "feeder": (
        PlateField(("circuits",), say("units.plate-fields.ahead"), "", _circuits, "several"),
        _choice(("disconnect",), say("units.plate-fields.disconnect"), ("", *DISCONNECTS)),
        PlateField(("breaker_amps",), say("units.plate-fields.breaker-or-fuse"), "A"),
        PlateField(("breaker_legs",), say("units.plate-fields.legs-opens"), "", ("", "1", "2"), "whole"),
        *_CONDUCTOR,
    ),
    "element": (
        PlateField(("rated_kw",), say("units.plate-fields.rated-power"), "kW"),
        PlateField(("rated_volts",), say("units.plate-fields.rated-volts"), "V"),
        _choice(("circuit",), say("units.plate-fields.circuit"), _circuits),
        _NAME,
    ),
    "switch": (
        *_window("on_s", say("units.plate-fields.time")),
        *_window("off_s", say("units.plate-fields.off-time")),
        PlateField(("contact_amps",), say("units.plate-fields.contact-rating"), "A"),
        _choice(("role",), say("units.plate-fields.works"), ("element", "blower", "auxiliary")),
        _NAME,
    ),
    "limit": (
        PlateField(("opens_f",), say("units.plate-fields.opens"), "°F"),
        PlateField(("closes_f",), say("units.plate-fields.closes"), "°F"),
        _NAME,
    ),
    "link": (_NAME,),
    "coil": (
        _choice(("type",), say("units.plate-fields.kind"), tuple(CONTROL_KINDS), "control-kind"),
        _choice(("call",), say("units.plate-fields.driven"), _calls, "call"),
        *_coil(),
        PlateField(("outdoor_thermostat",), say("units.plate-fields.outdoor-thermostat"), kind="there"),
        PlateField(("outdoor_thermostat", "closes_below_f"), say("units.plate-fields.closes-below"), "°F"),
        _NAME,
    ),
    "relay": (
        _choice(("relay", "type"), say("units.plate-fields.kind"), ("", *RELAY_KINDS)),
        _choice(("relay", "call"), say("units.plate-fields.driven"), CALLS),
        *_coil("relay"),
        *_window("on_s", say("units.plate-fields.time"), "relay"),
        *_window("off_s", say("units.plate-fields.off-time"), "relay"),
    ),
    "contact": (
        PlateField(("relay", "contact_amps"), say("units.plate-fields.contact-rating"), "A"),
        *(
            _choice(("relay", "wires", end), say("units.plate-fields.on-its", said=said), ("", *RELAY_ENDS))
            for end, said in (
                ("common", "common"),
                ("no", say("units.plate-fields.normally-open")),
                ("nc", say("units.plate-fields.normally-closed")),
            )
        ),
        *_TIE,
    ),
    "blower": (
        _choice(("motor",), say("units.plate-fields.motor"), ("psc", "ecm")),
        _choice(("circuit",), say("units.plate-fields.circuit"), _circuits),
        PlateField(("fla",), say("units.plate-fields.full-load-amps"), "A"),
        PlateField(("capacitor_uf",), say("units.plate-fields.capacitor"), "µF"),
        *_rarely(
            PlateField(("typical_amps",), say("units.plate-fields.typical-amps"), "A"),
            PlateField(("rated_cfm",), say("units.plate-fields.rated-airflow"), "CFM"),
            PlateField(("min_cfm",), say("units.plate-fields.least-airflow-heat"), "CFM"),
            PlateField(("tons",), say("units.plate-fields.cooling"), "tons"),
            PlateField(("speed_tap",), say("units.plate-fields.speed-tap-use"), kind="text"),
            PlateField(("other_speed", "tap"), say("units.plate-fields.other-speed"), kind="text"),
            _choice(("other_speed", "lead"), say("units.plate-fields.whose-lead"), SPEED_LEADS),
            _choice(("relay", "type"), say("units.plate-fields.relay"), ("", *RELAY_KINDS)),
            *(
                PlateField(
                    ("taps", call),
                    say("units.plate-fields.24-v-tap", call=call),
                    "",
                    ("", *"123456789"),
                    "whole",
                )
                for call in ("G", "W1", "W2")
            ),
            *_TIE,
        ),
    ),
    "capacitor": (PlateField(("capacitor_uf",), say("units.plate-fields.marked"), "µF"),),
    "control power": (
        PlateField(("va",), say("units.plate-fields.transformer"), "VA"),
        PlateField(("volts",), say("units.plate-fields.secondary"), "V"),
        PlateField(("fuse_amps",), say("units.plate-fields.fuse"), "A"),
        PlateField(("primary_volts",), say("units.plate-fields.primary-tap"), "V"),
        _choice(("circuit",), say("units.plate-fields.fed-from"), _circuits),
        PlateField(("c_grounded",), say("units.plate-fields.c-bonded-cabinet"), kind="yes-no"),
    ),
    "load": (
        PlateField(("label",), say("units.plate-fields.what"), kind="text"),
        _choice(("call",), say("units.plate-fields.driven"), CALLS),
        PlateField(("va",), say("units.plate-fields.draws"), "VA"),
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
    raise BadInput("part", phrase("units.plate-fields.no-part-this-unit", part=part))


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
    if field.kind == "number" and (shown := measures.shown(thing, field.unit)[0]) != thing:
        return _plain(round(shown, 1))
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
        if field.kind == "number" and said and said == read_value(thing, field):
            continue  # as it was shown, to a tenth where the shop has another measure
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
        raise BadInput(field.name, phrase("units.plate-fields.choose-one-list"))
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
        value = measures.read_typed(typed, field.unit)
    except BadInput as bad:
        raise BadInput(field.name, bad.reason) from None
    if math.isinf(value):
        raise BadInput(field.name, phrase("units.plate-fields.number-please"))
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
