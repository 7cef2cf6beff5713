"""Quick numbers, for anybody and without a record: one element, one circuit, a unit without a plate."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from flask import Blueprint, abort, request
from pydantic import BaseModel
from werkzeug.datastructures import MultiDict

from plentar.core.errors import BadInput
from plentar.core.said import Said, say
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

    words: Said | str
    lead: Said | str
    entry: type[BaseModel]
    answer: Callable[..., Numbers]
    askers: tuple[Asker, ...]
    at_first: Mapping[str, str]


TABS = {
    "element": Tab(
        say("quick.routes.one-element"),
        say("quick.routes.rated-kilowatts-volts-nothing"),
        ElementEntry,
        element_numbers,
        (
            Asker("kw", say("quick.routes.rated-kw"), "kW", ("3.5", "4.8", "5", "7.5", "10")),
            Asker("volts", say("quick.routes.rated-volts"), "V", ("208", "230", "240")),
            Asker("measured", say("quick.routes.volts-lugs"), "V", placeholder=say("quick.routes.rated")),
        ),
        ELEMENT_AT_FIRST,
    ),
    "circuit": Tab(
        say("quick.routes.one-circuit"),
        say("quick.routes.minimum-breaker-wire-nothing"),
        CircuitEntry,
        circuit_numbers,
        (
            Asker("kw", say("quick.routes.all-strips"), "kW", ("5", "7.5", "9.6", "10", "15")),
            Asker("volts", say("quick.routes.service-volts"), "V", ("208", "240")),
            Asker("blower", say("quick.routes.blower"), "A", ("0", "2.8", "3.4", "4.5")),
            Asker("run", say("quick.routes.wire-one-way"), "ft", placeholder=say("quick.routes.not-known")),
            Asker("ambient", say("quick.routes.warmest-lies"), "°C", ("30", "40", "50", "60")),
            Asker(
                "ends",
                say("quick.routes.terminals"),
                "°C",
                ("60", "75"),
                placeholder=say("quick.routes.not-given"),
            ),
        ),
        CIRCUIT_AT_FIRST,
    ),
    "no-plate": Tab(
        say("quick.routes.no-plate"),
        say("quick.routes.strips-worked-out-from"),
        NoPlateEntry,
        no_plate_numbers,
        (
            Asker("volts", say("quick.routes.service-volts"), "V", ("208", "240")),
            Asker("ohms", say("quick.routes.cold-ohms-each-strip"), "Ω", placeholder="11.2, 11.4"),
            Asker(
                "limits",
                say("quick.routes.limits-counted"),
                "",
                ("1", "2", "3", "4"),
                placeholder=say("quick.routes.not-counted"),
            ),
            Asker(
                "kw", say("quick.routes.all-strips-stated"), "kW", placeholder=say("quick.routes.not-stated")
            ),
            Asker(
                "amps", say("quick.routes.or-amps-stated"), "A", placeholder=say("quick.routes.not-stated")
            ),
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
    return next((str(asker.label) for asker in tab.askers if asker.name == name), name)
