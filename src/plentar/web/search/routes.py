"""Search, as a page whose address says what is asked and as CSV; and the board."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from typing import Annotated, Any
from urllib.parse import urlencode

from flask import Blueprint, Response, render_template, request, url_for
from pydantic import AfterValidator, BaseModel, Field

from plentar.core.door import (
    KINDS,
    LEAST_FAILURES,
    PARTS,
    SurvivalStep,
    Watched,
    enough,
    kaplan_meier,
    still_in_at,
)
from plentar.core.errors import BadInput
from plentar.core.events import COMPLAINTS, OUTCOMES
from plentar.core.judgement import FindingCode
from plentar.core.quantity import show as in_units
from plentar.files.found_csv import FoundRow, found_csv
from plentar.store.parts_on_record import watched_devices
from plentar.store.search import (
    MOST_ON_BOARD,
    MOST_ROWS,
    PAGE,
    Asked,
    Found,
    board_of,
    find_units,
    find_visits,
)
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.entry import MAYBE, Form, empty_as_none, parse_entry
from plentar.web.people import me, signed_in
from plentar.web.search.stops import open_stops

search = Blueprint("search", __name__)


def _one_of(known: Any) -> AfterValidator:
    def check(typed: str) -> str:
        if typed and typed not in set(known):
            raise ValueError("not one of the list")
        return typed

    return AfterValidator(check)


Day = Annotated[date | None, empty_as_none]
Value = Annotated[Annotated[float, Field(ge=-1e12, le=1e12)] | None, MAYBE]


class SearchEntry(BaseModel):
    """What is looked for, as an address says it."""

    words: Annotated[str, Field(max_length=200)] = ""
    finding: Annotated[str, _one_of(map(str, FindingCode))] = ""
    mended: Annotated[str, Field(max_length=60)] = ""
    who: Annotated[str, Field(max_length=120)] = ""
    complaint: Annotated[str, _one_of(COMPLAINTS)] = ""
    outcome: Annotated[str, _one_of(OUTCOMES)] = ""
    since: Day = None
    until: Day = None
    kind: Annotated[str, _one_of(KINDS)] = ""
    above: Value = None
    below: Value = None
    before: Annotated[datetime | None, empty_as_none] = None

    def asked(self) -> Asked:
        """The same for the store."""
        return Asked(**self.model_dump())


@search.get("/search")
@signed_in
def show() -> Answer:
    """The units and finished visits that fit what the address asks."""
    try:
        asked = parse_entry(SearchEntry, request.args).asked()
    except BadInput as bad:
        return _page(Form(request.args, bad), Asked(), ()), 422
    visits = find_visits(database(), me().shop_id, asked)
    return _page(Form(request.args), asked, visits)


def _page(form: Form, asked: Asked, visits: Any) -> str:
    units = find_units(database(), me().shop_id, asked.words) if asked.only_words else []
    more = ""
    if len(visits) == PAGE:
        rest = request.args.to_dict() | {"before": visits[-1].started_at.isoformat()}
        more = f"{url_for('search.show')}?{urlencode(rest)}"
    return render_template(
        "search/search.html", form=form, units=units, rows=[_row(v, asked) for v in visits], more=more,
        csv=f"{url_for('search.as_csv')}?{urlencode(request.args.to_dict())}", codes=[(str(code), str(code).replace("-", " ")) for code in FindingCode],
        complaints=COMPLAINTS, outcomes=OUTCOMES,
        kind_choices=[(name, f"{kind.title}, {kind.sign}") for name, kind in KINDS.items()],
    )  # fmt: skip


def _row(found: Found, asked: Asked) -> dict[str, Any]:
    value = ""
    if found.value is not None:
        kind = KINDS[asked.kind]
        read = in_units(10**found.value if kind.log else found.value, kind.sign)
        value = f"{found.part} {read}"
    return {
        "href": url_for("reports.report", visit_id=found.visit_id),
        "unit": url_for("units.show", unit_id=found.unit_id),
        "label": found.label, "day": found.started_at, "who": found.who,
        "about": COMPLAINTS.get(found.complaint or "", "visit"), "left": OUTCOMES[found.outcome],
        "findings": ", ".join(found.findings), "mended": ", ".join(found.mended), "value": value,
    }  # fmt: skip


@search.get("/search.csv")
@signed_in
def as_csv() -> Response:
    """All that fits, as CSV."""
    asked = parse_entry(SearchEntry, request.args).asked()
    found = find_visits(database(), me().shop_id, asked, MOST_ROWS)
    rows = [
        FoundRow(
            f.started_at, f.label, f.who, f.complaint or "", f.outcome, " ".join(f.findings),
            " ".join(f.mended), f.value, url_for("reports.report", visit_id=f.visit_id, _external=True),
        )
        for f in found
    ]  # fmt: skip
    return download(found_csv(rows), "visits.csv", "text/csv")


#: The years at which the share still in is told.
TOLD_YEARS = (1, 2, 3, 5, 10)


@search.get("/how-long")
@signed_in
def parts() -> str:
    """How long the shop's devices last, by type, from its own repairs."""
    rows = []
    for kind, watched in sorted(watched_devices(database(), me().shop_id).items()):
        steps = kaplan_meier(watched)
        told = [_still_in(steps, watched, years) for years in TOLD_YEARS] if enough(watched) else []
        rows.append((kind, len(watched), sum(w.replaced for w in watched), told))
    return render_template(
        "search/parts.html",
        rows=rows,
        heads=[f"after {y} year{'s' if y > 1 else ''}" for y in TOLD_YEARS],
        least=LEAST_FAILURES,
    )


def _still_in(steps: Sequence[SurvivalStep], watched: Sequence[Watched], years: float) -> str:
    """Such as “93 % (88 … 96), 120 at risk”; a dash past the longest that was watched."""
    at_risk = sum(part.years >= years for part in watched)
    step = still_in_at(steps, years)
    if not at_risk:
        return "—"
    if step is None:
        return f"all of {at_risk} at risk"
    return f"{100 * step.still_in:.0f} % ({100 * step.low:.0f} … {100 * step.high:.0f}), {at_risk} at risk"


@search.get("/board")
@signed_in
def board() -> str:
    """What is open over the whole shop."""
    board = board_of(database(), me().shop_id)
    return render_template(
        "search/board.html", board=board, stops=open_stops(board.open_visits), outcomes=OUTCOMES,
        parts=PARTS, most=MOST_ON_BOARD,
    )  # fmt: skip
