"""Rounds: plan one, see how far it is, say who takes which."""

from __future__ import annotations

import uuid
from typing import Annotated

from flask import Blueprint, redirect, render_template, request, url_for
from pydantic import BaseModel, Field

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.files.times import Day
from plentar.store.people import people_of
from plentar.store.rounds import assign, find_round, minutes_of, plan_round, rounds_of, stops_of
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.entry import Form, empty_as_none, parse_entry, required
from plentar.web.people import me, signed_in
from plentar.web.rounds.view import RoundView
from plentar.words import phrase

rounds = Blueprint("rounds", __name__, url_prefix="/rounds")


class PlanEntry(BaseModel):
    """A new round: over the units that fit some words, or over what an earlier one left."""

    title: Annotated[str, Field(max_length=80), required(say("required.name"))]
    due_on: Annotated[Day | None, empty_as_none] = None
    words: Annotated[str, Field(max_length=200)] = ""
    names: Annotated[str, Field(max_length=400_000)] = ""
    left_by: Annotated[uuid.UUID | None, empty_as_none] = None


class AssignEntry(BaseModel):
    """Who takes some of a round's units; empty for nobody."""

    unit: Annotated[tuple[uuid.UUID, ...], Field(max_length=5_000)] = ()
    who: Annotated[uuid.UUID | None, empty_as_none] = None


@rounds.get("")
@signed_in
def show() -> str:
    return _page(Form())


def _page(form: Form) -> str:
    return render_template("rounds/rounds.html", form=form, rounds=rounds_of(database(), me().shop_id))


@rounds.post("")
@signed_in
def plan() -> Answer:
    try:
        entry = parse_entry(PlanEntry, request.form)
        planned = plan_round(
            database(),
            me().shop_id,
            entry.title.strip(),
            entry.due_on,
            entry.words,
            entry.left_by,
            list(dict.fromkeys(filter(None, map(str.strip, entry.names.splitlines())))),
        )
    except BadInput as bad:
        database().rollback()
        return _page(Form(request.form, bad)), 422
    database().commit()
    return redirect(url_for("rounds.one", round_id=planned.id))


@rounds.get("/<uuid:round_id>")
@signed_in
def one(round_id: uuid.UUID) -> str:
    """A round's units in the order of their places, and how far it is."""
    round_ = find_round(database(), me().shop_id, round_id)
    view = RoundView(
        round_,
        stops_of(database(), round_),
        minutes_of(database(), round_),
        people_of(database(), me().shop_id),
    )
    return render_template("rounds/round.html", view=view)


@rounds.post("/<uuid:round_id>/assign")
@signed_in
def take(round_id: uuid.UUID) -> Answer:
    round_ = find_round(database(), me().shop_id, round_id)
    entry = parse_entry(AssignEntry, request.form)
    if not entry.unit:
        raise BadInput("unit", phrase("rounds.routes.mark-units-first"))
    assign(database(), round_, entry.unit, entry.who)
    database().commit()
    return redirect(url_for("rounds.one", round_id=round_id))
