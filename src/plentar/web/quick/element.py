"""One element: kilowatts and volts in, amps, ohms and heat out."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel

from plentar.core.quantity import Band
from plentar.core.unit.ratings import Rating
from plentar.core.visit.events import Tolerance
from plentar.web.entry import Number
from plentar.web.quick.numbers import MayLack, Numbers, within
from plentar.words import chosen, phrase
from plentar.words.numbers import show, show_span

ELEMENT_AT_FIRST = {"kw": "5", "volts": "240"}


class ElementEntry(BaseModel):
    kw: Annotated[Number, within(0.1, 40)]
    volts: Annotated[Number, within(100, 300)]
    measured: Annotated[MayLack, within(20, 300)] = None


def element_numbers(entry: ElementEntry) -> Numbers:
    rating = Rating(entry.kw * 1000, entry.volts)
    volts = entry.measured or entry.volts
    at = Band(volts, volts)
    plate, house = (rating.expected_amps(at, school) for school in Tolerance)
    cold, share = rating.expected_cold_ohms, 100 * (volts / rating.rated_volts) ** 2
    return Numbers(
        show(rating.amps(volts), digits=4),
        "A",
        phrase("quick.element.v", volts=f"{volts:g}"),
        (
            (phrase("quick.element.clamp-plate-10-5"), show_span(plate.low, plate.high, "A")),
            (phrase("quick.element.clamp-house-10"), show_span(house.low, house.high, "A")),
            ("hot", show(rating.hot_ohms, "Ω", 4)),
            (phrase("quick.element.cold-proved-dead"), show_span(cold.low, cold.high, "Ω")),
            (
                chosen("power"),
                phrase(
                    "quick.element.rated",
                    watts=show(rating.watts(volts) / 1000, "kW", 4),
                    share=f"{share:.1f}",
                ),
            ),
            (chosen("heat"), phrase("quick.element.btu-h", heat_btuh=f"{rating.heat_btuh(volts):,.0f}")),
        ),
        f"I = {rating.rated_watts:g} W × {volts:g} V ÷ ({rating.rated_volts:g} V)²"
        f" = {show(rating.amps(volts), 'A', 4)}",
    )
