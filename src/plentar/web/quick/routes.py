"""Quick numbers, for anybody and without a record."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any

from flask import Blueprint, request
from pydantic import AfterValidator, BaseModel, BeforeValidator
from werkzeug.datastructures import MultiDict

from plentar.core.door import Rating
from plentar.core.errors import BadInput
from plentar.core.events import Tolerance
from plentar.core.quantity import Band, show
from plentar.web.answer import Answer, render
from plentar.web.entry import Form, Number, parse_entry

quick = Blueprint("quick", __name__)


def _within(least: float, most: float) -> AfterValidator:
    def check(value: float | None) -> float | None:
        if value is not None and not least <= value <= most:
            raise ValueError(f"from {least:g} to {most:g}")
        return value

    return AfterValidator(check)


class QuickEntry(BaseModel):
    """What is stamped on the element, and the volts at its lugs."""

    kw: Annotated[Number, _within(0.1, 40)]
    volts: Annotated[Number, _within(100, 300)]
    measured: Annotated[
        Number | None, _within(20, 300), BeforeValidator(lambda typed: str(typed).strip() or None)
    ] = None


@dataclass(frozen=True, slots=True)
class Asker:
    """One number to ask for: its field, its unit, and values that a touch fills in."""

    name: str
    label: str
    unit: str
    picks: tuple[str, ...] = ()
    placeholder: str = ""


ASKERS = (
    Asker("kw", "Rated kW", "kW", ("3.5", "4.8", "5", "7.5", "10")),
    Asker("volts", "Rated volts", "V", ("208", "230", "240")),
    Asker("measured", "Volts at the lugs", "V", placeholder="as rated"),
)
AT_FIRST = {"kw": "5", "volts": "240"}


@quick.get("/quick", endpoint="show")
def show_page() -> Answer:
    """The page, or with htmx its answer alone."""
    typed = request.args or MultiDict(AT_FIRST)
    try:
        answer, bad = _answer(parse_entry(QuickEntry, typed)), None
    except BadInput as wrong:
        answer, bad = None, wrong
    return render(
        "quick/quick.html", "quick/answer.html", 422 if bad else 200,
        form=Form(typed, bad), askers=ASKERS, answer=answer,
        complaint=f"{_label(bad.path)}: {bad.reason}" if bad else "",
    )  # fmt: skip


def _label(name: str) -> str:
    return next((asker.label for asker in ASKERS if asker.name == name), name)


def _answer(entry: QuickEntry) -> dict[str, Any]:
    rating = Rating(entry.kw * 1000, entry.volts)
    volts = entry.measured or entry.volts
    at = Band(volts, volts)
    plate, house = (rating.expected_amps(at, school) for school in Tolerance)
    cold, share = rating.expected_cold_ohms, 100 * (volts / rating.rated_volts) ** 2
    return {
        "volts": f"{volts:g} V",
        "amps": show(rating.amps(volts), digits=4),
        "rows": [
            ("on the clamp, plate −10 … +5 %", f"{show(plate.low)} … {show(plate.high, 'A')}"),
            ("on the clamp, house ±10 %", f"{show(house.low)} … {show(house.high, 'A')}"),
            ("hot", show(rating.hot_ohms, "Ω", 4)),
            ("cold, proved dead", f"{show(cold.low)} … {show(cold.high, 'Ω')}"),
            ("power", f"{show(rating.watts(volts) / 1000, 'kW', 4)}, {share:.1f} % of rated"),
            ("heat", f"{rating.heat_btuh(volts):,.0f} BTU/h"),
        ],
        "step": (
            f"I = {rating.rated_watts:g} W × {volts:g} V ÷ ({rating.rated_volts:g} V)²"
            f" = {show(rating.amps(volts), 'A', 4)}"
        ),
    }
