"""The shapes that the models of the visit file share: strict objects, ranges, and how what is not
given is left out."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from plentar.core.quantity import Band
from plentar.words import phrase

Id = Annotated[str, Field(pattern=r"^[A-Za-z][A-Za-z0-9-]*(\.[A-Za-z0-9]+)?$", max_length=40)]
Text = Annotated[str, Field(max_length=200)]
SupplyVolts = Annotated[float, Field(ge=100, le=300)]
Amps = Annotated[float, Field(gt=0, le=400)]
Va = Annotated[float, Field(gt=0, le=500)]
Seconds = Annotated[float, Field(ge=0, le=3600)]
WindowS = Annotated[tuple[Seconds, Seconds], Field(strict=False)]
OhmsRange = Annotated[
    tuple[Annotated[float, Field(gt=0, le=1e5)], Annotated[float, Field(gt=0, le=1e5)]], Field(strict=False)
]


class Strict(BaseModel):
    """No unknown keys, no NaN, no numbers in quotes."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, strict=True)


class Named(Strict):
    """A part of the unit by its id."""

    id: Id
    name: Annotated[str, Field(max_length=24, description="As it is printed in the unit.")] = ""


def rising(given: tuple[float, float]) -> tuple[float, float]:
    """A least and a most in this order; raises ValueError where they are not."""
    if given[0] > given[1]:
        raise ValueError(phrase("files.shapes.first-least-second-most"))
    return given


def present(**values: Any) -> dict[str, Any]:
    """What is given: None is left out."""
    return {name: value for name, value in values.items() if value is not None}


def fields_of(thing: Any) -> dict[str, Any]:
    return {name: getattr(thing, name) for name in thing.__dataclass_fields__}


def pair(band: Band | None) -> list[float] | None:
    return None if band is None else [band.low, band.high]
