"""What the plate panel shows: a part's values, what can be done to it, and what is due by them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from plentar.core.errors import BadInput
from plentar.core.quantity import Band
from plentar.core.unit.parts import CALLS, Element
from plentar.core.unit.points import resolve
from plentar.core.unit.unit import Unit
from plentar.files.unit_json import unit_to_json
from plentar.web.units.acts import Act, Rung, acts_of, rungs_of
from plentar.web.units.alike import alike
from plentar.web.units.plate_fields import FIELDS, PlateField, locate, read_value
from plentar.web.units.typical import Typical, typical_of
from plentar.words import chosen, measures, phrase
from plentar.words.numbers import show, show_span

#: Where the tie's other end is touched on the drawing.
TAPPED = "interlock.tap"


@dataclass(frozen=True, slots=True)
class FieldView:
    id: str
    field: PlateField
    value: str
    options: tuple[str, ...] = ()
    error: str = ""
    #: What is taken while nobody has read the print.
    typical: str = ""

    @property
    def unit(self) -> str:
        return chosen(measures.sign(self.field.unit))

    @property
    def several(self) -> bool:
        return self.field.kind == "several"

    def chosen(self, option: str) -> bool:
        return option in self.value.split(",") if self.several else option == self.value

    @property
    def mode(self) -> str:
        return "text" if self.field.kind == "text" else "decimal"


@dataclass(frozen=True, slots=True)
class PlateView:
    part: str
    title: str
    href: str
    fields: list[FieldView]
    due: list[tuple[str, str]]
    rungs: list[Rung]
    acts: tuple[Act, ...]
    #: What hangs on a terminal: what each is, and the part to touch for it.
    hangs: list[tuple[str, str]]
    #: How many parts of its kind there are besides, which may take its correction.
    alike: int
    error: str = ""

    @property
    def rare(self) -> list[FieldView]:
        """What is behind the fold."""
        return [f for f in self.fields if f.field.rare]

    @property
    def rare_words(self) -> str:
        """What the fold is called: what of it is known."""
        known = [f"{f.field.label}: {chosen(f.value)}" for f in self.rare if f.value]
        return "; ".join([phrase("units.plate-view.more"), *known])

    @property
    def rare_error(self) -> bool:
        return any(f.error for f in self.rare)

    @property
    def ties(self) -> bool:
        return any(f.field.name == TAPPED for f in self.fields)

    @property
    def nothing(self) -> bool:
        """Nothing is stamped on it, and nothing can be done to it."""
        return not (self.fields or self.acts or self.hangs)


def plate_view(
    unit: Unit, part: str, href: str, typed: Mapping[str, str] | None = None, bad: BadInput | None = None
) -> PlateView:
    """The panel of a part, which posts to ``href``; after a refusal, with what was typed and the complaint beside it."""
    kind, _, thing = locate(unit_to_json(unit), part)
    fields, placed, typical = [], False, typical_of(unit, part)
    for number, field in enumerate(FIELDS[kind], start=1):
        value = read_value(thing, field)
        if typed is not None and (bad is not None or field.name in typed):
            value = typed.get(field.name, "")
        mine = bad is not None and bad.path == field.name
        placed = placed or mine
        error = bad.reason if bad and mine else ""
        fields.append(
            FieldView(f"f{number}", field, value, field.options(unit), str(error), _said(typical, field))
        )
    return PlateView(
        part,
        _title(unit, part, kind),
        href,
        fields,
        _due(unit, part),
        rungs_of(unit, part),
        acts_of(unit, part),
        _hangs(unit, part),
        len(alike(unit, part)),
        "" if bad is None or placed else str(bad),
    )


def _said(typical: Mapping[str, Typical], field: PlateField) -> str:
    found = typical.get(field.name)
    return found.said if found is not None else ""


def _title(unit: Unit, part: str, kind: str) -> str:
    plain = {
        "unit": phrase("units.plate-view.unit"),
        "feeder": phrase("units.plate-view.feeder-ahead-circuits"),
        "fuse": phrase("units.plate-view.control-fuse"),
    }
    if kind == "load":
        return phrase("units.plate-view.outdoor-load", part=part)
    return str(plain.get(part) or resolve(unit, part).title)


def _hangs(unit: Unit, part: str) -> list[tuple[str, str]]:
    if part not in CALLS:
        return []
    devices = [
        (f"{d.kind.title} {d.id}", f"{d.id}.coil") for d in unit.device_by_id.values() if d.call == part
    ]
    return devices + [(f"{x.label or x.id}", x.id) for x in unit.other_loads if x.call == part]


def _due(unit: Unit, part: str) -> list[tuple[str, str]]:
    element = unit.element_by_id.get(part)
    if element is None:
        return []
    rows = _at(element, element.rated_volts)
    served = unit.circuit_by_id[element.circuit].rated_volts
    if served != element.rated_volts:
        rows += _at(element, served)
    cold = element.rating.expected_cold_ohms
    return [*rows, (phrase("units.plate-view.cold-proved-dead"), show_span(cold.low, cold.high, "Ω"))]


def _at(element: Element, volts: float) -> list[tuple[str, str]]:
    rating = element.rating
    band = rating.expected_amps(Band(volts, volts))
    return [
        (phrase("units.plate-view.amps-v", volts=f"{volts:g}"), f"{show(rating.amps(volts), 'A', 4)}"),
        (phrase("units.plate-view.clamp"), show_span(band.low, band.high, "A")),
        (chosen("power"), f"{show(rating.watts(volts), 'W', 4)}"),
        (chosen("heat"), phrase("units.plate-view.btu-h", heat_btuh=f"{rating.heat_btuh(volts):,.0f}")),
    ]
