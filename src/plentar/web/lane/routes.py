"""The first page: calls, the round that is on, units of no round."""

from __future__ import annotations

import uuid

from flask import Blueprint, redirect, render_template, url_for
from sqlalchemy.orm import Session

from plentar.store.models import now
from plentar.store.rounds import rounds_of, stops_of
from plentar.store.units import how_many_units, list_units, units_off_round
from plentar.store.visit_lists import calls_of, left_over
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.lane.view import MOST_DRAWN, MOST_LISTED, FirstPage
from plentar.web.people import me, signed_in
from plentar.web.shop.room import tight
from plentar.web.showing import local

lane = Blueprint("lane", __name__)


@lane.get("/")
@signed_in
def show() -> Answer:
    """What is to be done, and where; of a new shop first what it stands on."""
    if me().role == "lead" and not me().shop_begun:
        return redirect(url_for("shop.ask"))
    return render_template(
        "lane/lane.html", view=first_page(database(), me().shop_id), tight=me().role == "lead" and tight()
    )


def first_page(session: Session, shop_id: uuid.UUID) -> FirstPage:
    """Of the whole shop only what the page draws is read."""
    today = local(now()).replace(hour=0, minute=0, second=0, microsecond=0)
    rounds = rounds_of(session, shop_id)
    stops = stops_of(session, rounds[0][0]) if rounds else []
    on = rounds[0][0].id if rounds else None
    loose = units_off_round(session, shop_id, on, MOST_LISTED)
    in_all = how_many_units(session, shop_id) - len(stops)
    shown = [*(stop.unit_id for stop in stops[:MOST_DRAWN]), *loose]
    units = {record.row.id: record for record in list_units(session, shop_id, shown)}
    return FirstPage(
        calls_of(session, shop_id, today),
        rounds,
        stops,
        loose,
        in_all,
        units,
        left_over(session, shop_id, shown),
    )
