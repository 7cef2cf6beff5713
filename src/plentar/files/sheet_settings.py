"""What a shop's sheets say and in which language, as the store keeps it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from plentar.files.shapes import Strict
from plentar.words import LANGUAGES

SCALES = {"F": "Fahrenheit", "C": "Celsius"}


class SheetSettings(Strict):
    """Who to call, the owner's language, the scale of temperatures, the currency of prices; and the language of
    the shop's own screens."""

    phone: Annotated[str, Field(max_length=60)] = ""
    language: Literal[tuple(LANGUAGES)] = "en"  # type: ignore[valid-type]
    scale: Literal[tuple(SCALES)] = "F"  # type: ignore[valid-type]
    screens: Literal[tuple(LANGUAGES)] = "en"  # type: ignore[valid-type]
    currency: Annotated[str, Field(max_length=8)] = ""
