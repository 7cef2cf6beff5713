"""Search, as a page whose address says what is asked and as CSV; and the board."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any
from urllib.parse import urlencode

from flask import Blueprint, Response, render_template, request, url_for
from pydantic import AfterValidator, BaseModel, Field

from plentar.core.errors import BadInput
from plentar.core.handover.work import PARTS
from plentar.core.history.series import KINDS
from plentar.core.judgement import FindingCode
from plentar.core.visit.events import COMPLAINTS, OUTCOMES
from plentar.files.found_csv import FoundRow, found_csv
from plentar.files.times import Day, TimeOfDay
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
from plentar.words import measures, phrase
from plentar.words.numbers import show as in_units
from plentar.words.visits import complaint_in_words, complaints, finding_in_words, outcome_in_words, outcomes

search = Blueprint("search", __name__)


def _one_of(values: Iterable[str]) -> AfterValidator:
    known = frozenset(values)

    def check(typed: str) -> str:
        if typed and typed not in known:
            raise ValueError(phrase("search.routes.not-one-list"))
        return typed

    return AfterValidator(check)


MaybeDay = Annotated[Day | None, empty_as_none]
Value = Annotated[Annotated[float, Field(ge=-1e12, le=1e12)] | None, MAYBE]


class SearchEntry(BaseModel):
    words: Annotated[str, Field(max_length=200)] = ""
    finding: Annotated[str, _one_of(map(str, FindingCode))] = ""
    mended: Annotated[str, Field(max_length=60)] = ""
    who: Annotated[str, Field(max_length=120)] = ""
    complaint: Annotated[str, _one_of(COMPLAINTS)] = ""
    outcome: Annotated[str, _one_of(OUTCOMES)] = ""
    since: MaybeDay = None
    until: MaybeDay = None
    kind: Annotated[str, _one_of(KINDS)] = ""
    above: Value = None
    below: Value = None
    before: Annotated[TimeOfDay | None, empty_as_none] = None
    skipped: Annotated[int, Field(ge=0, le=MOST_ROWS)] = 0

    def asked(self) -> Asked:
        """The same for the store."""
        unit = KINDS[self.kind].sign if self.kind else ""
        ends = {
            end: value if value is None else measures.kept(value, unit)
            for end, value in (("above", self.above), ("below", self.below))
        }
        return Asked(**dict(self) | ends)


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
        on = visits[-1].started_at.isoformat()
        goes_on = {"skipped": asked.skipped + PAGE} if asked.kind else {"before": on}
        rest = request.args.to_dict() | goes_on
        more = f"{url_for('search.show')}?{urlencode(rest)}"
    return render_template(
        "search/search.html",
        form=form,
        units=units,
        rows=[_row(v, asked) for v in visits],
        more=more,
        by_value=bool(asked.kind),
        csv=f"{url_for('search.as_csv')}?{urlencode(request.args.to_dict())}",
        codes=[(str(code), phrase(f"finding.{code}")) for code in FindingCode],
        complaints=complaints(),
        outcomes=outcomes(),
        kind_choices=[(name, f"{kind.title}, {measures.sign(kind.sign)}") for name, kind in KINDS.items()],
    )


def _row(found: Found, asked: Asked) -> dict[str, Any]:
    value = ""
    if found.value is not None:
        kind = KINDS[asked.kind]
        read = in_units(10**found.value if kind.log else found.value, kind.sign)
        value = f"{found.part} {read}"
    return {
        "href": url_for("reports.report", visit_id=found.visit_id),
        "unit": url_for("units.show", unit_id=found.unit_id),
        "label": found.label,
        "day": found.started_at,
        "who": found.who,
        "about": complaint_in_words(found.complaint),
        "left": outcome_in_words(found.outcome),
        "findings": ", ".join(finding_in_words(code) for code in found.findings),
        "mended": ", ".join(found.mended),
        "value": value,
    }


@search.get("/search.csv")
@signed_in
def as_csv() -> Response:
    asked = parse_entry(SearchEntry, request.args).asked()
    found = find_visits(database(), me().shop_id, asked, MOST_ROWS)
    rows = [
        FoundRow(
            f.started_at,
            f.label,
            f.who,
            f.complaint or "",
            f.outcome,
            " ".join(f.findings),
            " ".join(f.mended),
            f.value,
            url_for("reports.report", visit_id=f.visit_id, _external=True),
        )
        for f in found
    ]
    return download(found_csv(rows), "visits.csv", "text/csv")


@search.get("/board")
@signed_in
def board() -> str:
    board = board_of(database(), me().shop_id)
    return render_template(
        "search/board.html",
        board=board,
        stops=open_stops(board.open_visits),
        outcomes=outcomes(),
        parts={key: phrase(f"parts.{key}") for key in PARTS},
        most=MOST_ON_BOARD,
    )
