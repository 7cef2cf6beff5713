"""How long a shop's parts last, from its own repairs, and how often each kind fails for the judge."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from flask import Blueprint, redirect, render_template, request, url_for
from pydantic import BaseModel

from plentar.core.history.series import DAYS_A_YEAR
from plentar.core.history.shop import COUNTED_KINDS, SHRINK
from plentar.core.history.survival import (
    LEAST_FAILURES,
    SurvivalStep,
    Watched,
    enough,
    kaplan_meier,
    still_in_at,
)
from plentar.core.unit.parts import CONTROL_KINDS
from plentar.files.visit_json import SettingsJson
from plentar.store.accounts import set_judging
from plentar.store.models import now
from plentar.store.parts_on_record import OnRecord, parts_on_record, shops_frequencies
from plentar.store.search import labels_of
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.entry import parse_entry
from plentar.web.people import me, signed_in
from plentar.words import chosen, phrase

parts = Blueprint("parts", __name__, url_prefix="/how-long")
#: The years at which the share still in is told.
TOLD_YEARS = (1, 2, 3, 5, 10)
#: How many parts the list of the oldest has.
MOST_OLDEST = 100


class OldestEntry(BaseModel):
    """Which kind of parts."""

    kind: Literal[COUNTED_KINDS]  # type: ignore[valid-type]


@parts.get("")
@signed_in
def show() -> str:
    """How long the shop's parts last, by kind, and what that says of how often each fails."""
    found = parts_on_record(database(), me().shop_id)
    own = shops_frequencies(found)
    standing = SettingsJson.model_validate(me().shop_settings).frequencies
    rows = [
        (
            kind,
            len(record.watched),
            sum(w.replaced for w in record.watched),
            str(record.welded) if kind in CONTROL_KINDS else "—",
            _told(record),
            _factor(own.get(kind)),
            _factor(standing.get(kind)),
        )
        for kind, record in sorted(found.items())
    ]
    return render_template(
        "search/parts.html",
        rows=rows,
        heads=[phrase("search.after-years", n=y) for y in TOLD_YEARS],
        least=LEAST_FAILURES,
        shrink=f"{SHRINK:g}",
        own=own,
        standing=standing,
    )


@parts.get("/oldest")
@signed_in
def oldest() -> str:
    """The parts of a kind that are on record the longest, with their units."""
    kind = parse_entry(OldestEntry, request.args).kind
    standing = sorted(parts_on_record(database(), me().shop_id).get(kind, OnRecord()).standing)[:MOST_OLDEST]
    names = labels_of(database(), me().shop_id, {unit_id for _, unit_id, _ in standing})
    rows = [
        (
            part,
            names.get(unit_id, ""),
            url_for("units.show", unit_id=unit_id),
            since,
            f"{(now() - since).days / DAYS_A_YEAR:.1f}",
        )
        for since, unit_id, part in standing
    ]
    return render_template("search/oldest.html", kind=chosen(kind), rows=rows)


def _factor(factor: float | None) -> str:
    return "—" if factor is None else f"× {factor:.2f}"


def _told(record: OnRecord) -> list[str]:
    if not enough(record.watched):
        return []
    steps = kaplan_meier(record.watched)
    return [_still_in(steps, record.watched, years) for years in TOLD_YEARS]


def _still_in(steps: Sequence[SurvivalStep], watched: Sequence[Watched], years: float) -> str:
    """Such as “93 % (88 … 96), 120 at risk”; a dash past the longest that was watched."""
    at_risk = sum(part.years >= years for part in watched)
    step = still_in_at(steps, years)
    if not at_risk:
        return "—"
    if step is None:
        return phrase("search.parts.all-risk", at_risk=at_risk)
    return phrase(
        "search.parts.risk",
        still_in=f"{100 * step.still_in:.0f}",
        low=f"{100 * step.low:.0f}",
        high=f"{100 * step.high:.0f}",
        at_risk=at_risk,
    )


@parts.post("/use")
@signed_in
def use() -> Answer:
    """New visits are judged with the shop's own frequencies, as they are now."""
    return _judge_with(shops_frequencies(parts_on_record(database(), me().shop_id)))


@parts.post("/leave")
@signed_in
def leave() -> Answer:
    return _judge_with({})


def _judge_with(own: dict[str, float]) -> Answer:
    settings = SettingsJson.model_validate(me().shop_settings | {"frequencies": own})
    set_judging(database(), me().shop_id, settings.model_dump())
    database().commit()
    return redirect(url_for("parts.show"))
