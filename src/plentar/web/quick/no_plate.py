"""A unit without a plate: what its strips are, by what can be read of it."""

from __future__ import annotations

from typing import Annotated

from flask import url_for
from pydantic import AfterValidator, BaseModel

from plentar.core.errors import BadInput
from plentar.core.quantity import parse_reading
from plentar.core.unit.no_plate import work_out
from plentar.web.entry import Number
from plentar.web.quick.numbers import MayLack, Numbers, within
from plentar.words import capital, phrase
from plentar.words.numbers import show

MOST_STRIPS = 12


def _ohms(typed: str) -> str:
    try:
        found = _values(typed)
    except BadInput as bad:
        raise ValueError(bad.reason) from None
    if len(found) > MOST_STRIPS:
        raise ValueError(phrase("quick.no-plate.strips-most", most_strips=MOST_STRIPS))
    return typed


def _values(typed: str) -> list[float]:
    return [parse_reading(one) for one in typed.replace(";", " ").replace(", ", " ").split()]


class NoPlateEntry(BaseModel):
    """What is known: ohms of each strip, or a stated total and the limits counted."""

    volts: Annotated[Number, within(100, 300)]
    ohms: Annotated[str, AfterValidator(_ohms)] = ""
    limits: Annotated[MayLack, within(1, MOST_STRIPS)] = None
    kw: Annotated[MayLack, within(0.1, 100)] = None
    amps: Annotated[MayLack, within(1, 400)] = None


def no_plate_numbers(entry: NoPlateEntry) -> Numbers:
    """The strips, each with why, and how sure it is."""
    limits = None if entry.limits is None else round(entry.limits)
    found = work_out(entry.volts, _values(entry.ohms), limits, entry.amps, entry.kw)
    rows = [
        (phrase("quick.no-plate.strip", n=n), phrase("quick.no-plate.kw", kw=f"{s.kw:g}", because=s.because))
        for n, s in enumerate(found.strips, start=1)
    ]
    onward = url_for(
        "units.new", elements=len(found.strips), kw=f"{found.strips[0].kw:g}", volts=f"{entry.volts:g}"
    )
    return Numbers(
        show(found.total_kw),
        "kW",
        phrase("quick.no-plate.strips-v", len=len(found.strips), volts=f"{entry.volts:g}"),
        tuple(rows),
        phrase("quick.no-plate.stamping-strip-goes-before", capital=capital(str(found.sure))),
        (onward, phrase("quick.no-plate.begin-unit-these")),
    )
