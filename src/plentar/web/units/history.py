"""A unit's history: every series over its visits, those that drift first, in words and as plots."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from flask import url_for
from markupsafe import Markup

from plentar.core.history.drift import Shape
from plentar.core.history.series import DAYS_A_YEAR, History, histories, visit_of
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.evidence import Evidence
from plentar.drawing.history import history_plot, shown_value
from plentar.store.history import added_to
from plentar.store.models import now
from plentar.store.record import VisitRecord
from plentar.store.units import UnitRecord
from plentar.web.database import database
from plentar.web.showing import local
from plentar.words import capital, phrase
from plentar.words.numbers import show

#: A marker in front of what moves, beside its colour.
MARKS = {Shape.DRIFT: "▲", Shape.JUMP: "◆", Shape.STEADY: "●", Shape.TOO_FEW: "○"}
#: From December on, three months each.
SEASONS = ("season.winter", "season.spring", "season.summer", "season.autumn")


@dataclass(frozen=True, slots=True)
class HistoryRow:
    """One series: what of, its newest value, how it moves in words, its plot."""

    part: str
    title: str
    newest: str
    said: str
    moves: bool
    plot: Markup


def _day(at: datetime) -> date:
    return local(at).date()


def history_at(record: VisitRecord) -> tuple[History, ...]:
    """The series of a visit's unit, up to what this visit has added."""
    row = record.row
    before = added_to(database(), row.shop_id, row.unit_id, _day, row.started_at)
    own = visit_of(_day(row.started_at), str(row.id), Evidence(record.unit, record.core()))
    return histories(record.unit, [*before, own])


def history_of(unit: UnitRecord, still_open: VisitRecord | None) -> tuple[History, ...]:
    """The series of a unit over all its visits, one that is open among them."""
    if still_open is not None:
        return history_at(still_open)
    return histories(unit.unit, added_to(database(), unit.row.shop_id, unit.row.id, _day))


def history_rows(unit: Unit, series: Sequence[History]) -> list[HistoryRow]:
    today = local(now()).date()
    return [
        HistoryRow(
            capital(str(said_of(unit, one.part))),
            str(one.said.title),
            shown_value(one, one.values[-1].added.value),
            in_words(one, today),
            one.drifts,
            Markup(history_plot(one, _report, today)),
        )
        for one in series
        if len(one.values) > 1
    ]


def drifts_in_words(unit: Unit, series: Sequence[History]) -> list[str]:
    today = local(now()).date()
    return [
        f"{capital(str(said_of(unit, one.part)))}, {one.said.title}: {in_words(one, today)}"
        for one in series
        if one.drifts
    ]


def _report(visit_id: str) -> str:
    return url_for("reports.report", visit_id=visit_id)


def in_words(history: History, today: date) -> str:
    """How a series moves: “▲ falls by 0.8 A a year; leaves its band between autumn 2027 and spring
    2029”."""
    trend, mark = history.trend, MARKS[history.trend.shape]
    if trend.shape is Shape.TOO_FEW:
        return phrase("units.history.too-few-readings-say", mark=mark)
    if trend.shape is Shape.STEADY:
        return phrase("units.history.steady", mark=mark)
    if trend.shape is Shape.JUMP:
        return phrase("units.history.changed-one-step-read", mark=mark)
    assert trend.per_year is not None
    by = (
        phrase("units.history.each-year", per_year=f"{100 * 10**trend.per_year:.0f}")
        if history.said.log
        else phrase("units.history.year", per_year=show(abs(trend.per_year), history.said.sign))
    )
    moves = "units.history.rises" if trend.per_year > 0 else "units.history.falls"
    return f"{mark} {phrase(moves, by=by)}{_leaves(history, today)}"


def _leaves(history: History, today: date) -> str:
    forecast = history.trend.forecast
    if forecast is None:
        return ""
    early, late = (_day_of(years) for years in (forecast.early, forecast.late))
    if late is not None and late <= today:
        return phrase("units.history.has-left-band")
    if early is None:
        return phrase("units.history.band-holds-next-fifteen")
    begins = phrase("units.history.now") if early <= today else season(early)
    ends = season(late) if late else phrase("units.history.later-than-anybody-can")
    return (
        phrase("units.history.leaves-band-between", begins=begins, ends=ends)
        if begins != ends
        else phrase("units.history.leaves-band", ends=ends)
    )


def _day_of(years: float) -> date | None:
    return date.min + timedelta(days=(years - 1) * DAYS_A_YEAR - 1) if math.isfinite(years) else None


def season(day: date) -> str:
    """“autumn 2027”; a winter is of the year in which it ends."""
    year = str(day.year + (day.month == 12))
    return phrase(SEASONS[day.month % 12 // 3], year=year)
