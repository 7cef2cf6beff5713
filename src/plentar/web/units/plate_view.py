"""What the plate panel shows: a part's values, and what is due by them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from plentar.core.errors import BadInput
from plentar.core.parts import Element
from plentar.core.points import resolve
from plentar.core.quantity import Band, show
from plentar.core.unit import Unit
from plentar.files.unit_json import unit_to_json
from plentar.web.units.plate_fields import FIELDS, REMOVABLE, PlateField, locate, read_value


@dataclass(frozen=True, slots=True)
class FieldView:
    """A field with what it holds and what is wrong with it."""

    id: str
    field: PlateField
    value: str
    error: str = ""


@dataclass(frozen=True, slots=True)
class PlateView:
    """One part's panel."""

    part: str
    title: str
    href: str
    fields: list[FieldView]
    due: list[tuple[str, str]]
    #: The element in whose rung it can be moved, and whether it can be taken out of it.
    rung: str
    removable: bool
    error: str = ""


def plate_view(
    unit: Unit, part: str, href: str,
    typed: Mapping[str, str] | None = None, bad: BadInput | None = None,
) -> PlateView:  # fmt: skip
    """The panel of a part, which posts to ``href``; after a refusal, with what was typed and the complaint beside it."""
    kind, _, thing = locate(unit_to_json(unit), part)
    fields, placed = [], False
    for number, field in enumerate(FIELDS[kind], start=1):
        value = read_value(thing, field) if typed is None else typed.get(field.name, "")
        mine = bad is not None and bad.path == field.name
        placed = placed or mine
        fields.append(FieldView(f"f{number}", field, value, bad.reason if bad and mine else ""))
    return PlateView(
        part, resolve(unit, part).title, href, fields, _due(unit, part),
        part if kind == "element" else next((e.id for e in unit.elements_through(part)), ""),
        kind in REMOVABLE,
        "" if bad is None or placed else str(bad),
    )  # fmt: skip


def _due(unit: Unit, part: str) -> list[tuple[str, str]]:
    element = unit.element_by_id.get(part)
    if element is None:
        return []
    rows = _at(element, element.rated_volts)
    served = unit.circuit_by_id[element.circuit].rated_volts
    if served != element.rated_volts:
        rows += _at(element, served)
    cold = element.rating.expected_cold_ohms
    return [*rows, ("cold, proved dead", f"{show(cold.low)} … {show(cold.high, 'Ω')}")]


def _at(element: Element, volts: float) -> list[tuple[str, str]]:
    rating = element.rating
    band = rating.expected_amps(Band(volts, volts))
    return [
        (f"amps at {volts:g} V", f"{show(rating.amps(volts), 'A', 4)}"),
        ("on the clamp", f"{show(band.low)} … {show(band.high, 'A')}"),
        ("power", f"{show(rating.watts(volts), 'W', 4)}"),
        ("heat", f"{rating.heat_btuh(volts):,.0f} BTU/h"),
    ]
