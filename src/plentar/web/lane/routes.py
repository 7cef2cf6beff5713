"""The first page: the round on its lane, and units elsewhere."""

from __future__ import annotations

from flask import Blueprint, render_template

from plentar.store.units import list_units
from plentar.store.visits import left_over, newest_round, visits_of_round
from plentar.web.database import database
from plentar.web.lane.view import lane_view
from plentar.web.people import me, signed_in

lane = Blueprint("lane", __name__)


@lane.get("/")
@signed_in
def show() -> str:
    """Units by what this round has done with them."""
    session, shop_id = database(), me().shop_id
    round_ = newest_round(session, shop_id)
    visits = visits_of_round(session, round_) if round_ else {}
    view = lane_view(list_units(session, shop_id), round_, visits, left_over(session, shop_id))
    return render_template("lane/lane.html", view=view)
