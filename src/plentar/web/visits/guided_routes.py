"""Guided tests: begin or leave one, and show it in the judge's place; and the circuits on their scales."""

from __future__ import annotations

import uuid

from flask import Blueprint, redirect, render_template, request, url_for

from plentar.web.answer import Answer, render
from plentar.web.entry import parse_entry
from plentar.web.people import signed_in
from plentar.web.visits.answers import changed, mine
from plentar.web.visits.circuits import circuit_cards
from plentar.web.visits.entry import TestEntry
from plentar.web.visits.guided import TestView
from plentar.web.visits.guided_tests import stand_in, standing_test
from plentar.web.visits.view import BenchView

guided = Blueprint("guided", __name__, url_prefix="/visits")


@guided.app_template_global("guided_test")
def guided_test(view: BenchView) -> TestView:
    return TestView(view, view.test)


@guided.post("/<uuid:visit_id>/test")
@signed_in
def begin(visit_id: uuid.UUID) -> Answer:
    """Begin a test, or leave it; nothing is stored of that but in this browser."""
    record = mine(visit_id)
    stand_in(record.unit, visit_id, parse_entry(TestEntry, request.form).test)
    return changed(visit_id)


@guided.get("/<uuid:visit_id>/circuits")
@signed_in
def circuits(visit_id: uuid.UUID) -> Answer:
    view = BenchView(mine(visit_id))
    return render_template("visits/circuits.html", view=view, cards=circuit_cards(view))


@guided.get("/<uuid:visit_id>/test")
@signed_in
def show(visit_id: uuid.UUID) -> Answer:
    view = BenchView(mine(visit_id))
    test = standing_test(view.unit, visit_id)
    if not test:
        return redirect(url_for("visits.judged", visit_id=visit_id))
    return render("visits/test.html", "visits/_test.html", view=view, test=TestView(view, test))
