"""What a shop's sheets say and in which language, as the store keeps it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from plentar.files.shapes import Strict
from plentar.words import LANGUAGES
from plentar.words.measures import AIR, LENGTHS, Measures

SCALES = {"F": "Fahrenheit", "C": "Celsius"}


class SheetSettings(Strict):
    """Who to call, the owner's language, the currency of prices; the measures of sheets and screens, and the
    language of the shop's own screens."""

    phone: Annotated[str, Field(max_length=60)] = ""
    language: Literal[tuple(LANGUAGES)] = "en"  # type: ignore[valid-type]
    scale: Literal[tuple(SCALES)] = "F"  # type: ignore[valid-type]
    screens: Literal[tuple(LANGUAGES)] = "en"  # type: ignore[valid-type]
    air: Literal[AIR] = "CFM"  # type: ignore[valid-type]
    length: Literal[LENGTHS] = "ft"  # type: ignore[valid-type]
    currency: Annotated[str, Field(max_length=8)] = ""

    @property
    def measures(self) -> Measures:
        return Measures(self.scale, self.air, self.length)
