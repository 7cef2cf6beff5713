"""Quick numbers, for anybody and without a record: one element, one circuit, a unit without a plate."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from flask import Blueprint, abort, request
from pydantic import BaseModel
from werkzeug.datastructures import MultiDict

from plentar.core.errors import BadInput
from plentar.web.answer import Answer, render
from plentar.web.entry import Form, parse_entry
from plentar.web.quick.circuit import CIRCUIT_AT_FIRST, CircuitEntry, circuit_numbers
from plentar.web.quick.element import ELEMENT_AT_FIRST, ElementEntry, element_numbers
from plentar.web.quick.no_plate import NoPlateEntry, no_plate_numbers
from plentar.web.quick.numbers import Asker, Numbers

quick = Blueprint("quick", __name__)


@dataclass(frozen=True, slots=True)
class Tab:
    """One kind of numbers: what is asked for, how it is answered, what stands there at first."""

    words: str
    lead: str
    entry: type[BaseModel]
    answer: Callable[..., Numbers]
    askers: tuple[Asker, ...]
    at_first: Mapping[str, str]


TABS = {
    "element": Tab(
        "One element",
        "Rated kilowatts and volts; nothing kept.",
        ElementEntry,
        element_numbers,
        (
            Asker("kw", "Rated kW", "kW", ("3.5", "4.8", "5", "7.5", "10")),
            Asker("volts", "Rated volts", "V", ("208", "230", "240")),
            Asker("measured", "Volts at the lugs", "V", placeholder="as rated"),
        ),
        ELEMENT_AT_FIRST,
    ),
    "circuit": Tab(
        "One circuit",
        "Minimum, breaker and wire; nothing kept.",
        CircuitEntry,
        circuit_numbers,
        (
            Asker("kw", "All its strips", "kW", ("5", "7.5", "9.6", "10", "15")),
            Asker("volts", "Service volts", "V", ("208", "240")),
            Asker("blower", "Blower on it", "A", ("0", "2.8", "3.4", "4.5")),
            Asker("run", "Wire, one way", "ft", placeholder="not known"),
            Asker("ambient", "Warmest it lies in", "°C", ("30", "40", "50", "60")),
            Asker("ends", "Terminals", "°C", ("60", "75"), placeholder="not given"),
        ),
        CIRCUIT_AT_FIRST,
    ),
    "no-plate": Tab(
        "No plate",
        "Strips worked out from what can be read; nothing kept.",
        NoPlateEntry,
        no_plate_numbers,
        (
            Asker("volts", "Service volts", "V", ("208", "240")),
            Asker("ohms", "Cold ohms of each strip", "Ω", placeholder="11.2, 11.4"),
            Asker("limits", "Limits counted", "", ("1", "2", "3", "4"), placeholder="not counted"),
            Asker("kw", "All strips, as stated", "kW", placeholder="not stated"),
            Asker("amps", "or amps, as stated", "A", placeholder="not stated"),
        ),
        {"volts": "240", "ohms": "11.2, 11.4"},
    ),
}


@quick.get("/quick", endpoint="show")
@quick.get("/quick/<kind>", endpoint="show")
def show_page(kind: str = "element") -> Answer:
    """The page, or with htmx its answer alone."""
    tab = TABS.get(kind) or abort(404)
    typed = request.args or MultiDict(tab.at_first)
    try:
        answer, bad = tab.answer(parse_entry(tab.entry, typed)), None
    except BadInput as wrong:
        answer, bad = None, wrong
    return render(
        "quick/quick.html",
        "quick/answer.html",
        422 if bad else 200,
        form=Form(typed, bad),
        kind=kind,
        tab=tab,
        tabs=TABS,
        answer=answer,
        complaint=f"{_label(tab, bad.path)}: {bad.reason}" if bad else "",
    )


def _label(tab: Tab, name: str) -> str:
    return next((asker.label for asker in tab.askers if asker.name == name), name)
