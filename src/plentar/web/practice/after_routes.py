"""What is told of a practice that is over, and its scene as a file."""

from __future__ import annotations

import uuid

from flask import Response, redirect, render_template, url_for

from plentar.core.judgement import Diagnosis
from plentar.core.visit.events import Reading
from plentar.core.visit.evidence import Evidence
from plentar.practice.coach import Judge
from plentar.practice.debrief import before_each_reading, told
from plentar.practice.difficulty import difficulty
from plentar.practice.scene_file import scene_file
from plentar.store.errors import NotFound
from plentar.store.models import Practice
from plentar.store.people import people_of
from plentar.store.practices import find_practice, practices_of
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.judge_pool import Busy, judge_pool
from plentar.web.people import me, signed_in
from plentar.web.practice.afterwards import DebriefView, ways
from plentar.web.practice.blueprint import practice
from plentar.web.practice.rows import same_scene
from plentar.words import phrase


@practice.get("/<uuid:practice_id>/debrief")
@signed_in
def debrief(practice_id: uuid.UUID) -> Answer:
    row = find_practice(database(), me(), practice_id)
    if row.ended_at is None:
        return redirect(url_for("practice.bench", practice_id=practice_id))
    again = row.scene["again"]
    same = url_for("practice.show", coaching=row.coaching, **again) if "unit" in again else ""
    return render_template("practice/debrief.html", view=DebriefView(row), same=same, alike=_alike(row))


def _alike(row: Practice) -> list[tuple[str, DebriefView]]:
    """Everybody who has ended this scene, for a lead."""
    account = me()
    if account.role != "lead":
        return []
    names = {one.id: one.name for one in people_of(database(), account.shop_id)}
    every = practices_of(database(), account.shop_id, None)
    ended = [one for one in every if one.ended_at is not None and same_scene(one, row)]
    return [(names.get(one.account_id, ""), DebriefView(one)) for one in ended]


@practice.get("/<uuid:practice_id>/told")
@signed_in
def what_was_told(practice_id: uuid.UUID) -> Answer:
    """What each reading told, by the judge; asked for after the page."""
    view = DebriefView(_ended(practice_id))
    try:
        answers = [_judge()(evidence) for evidence in before_each_reading(view.bench)]
    except Busy:
        return render_template("practice/_told.html", view=view, told=None)
    found = told(answers, view.bench)
    read = [event for event in view.bench.visit.events if isinstance(event, Reading)]
    rows = [(str(event.words(view.unit)), bits) for event, bits in zip(read, found.bits, strict=False)]
    return render_template("practice/_told.html", view=view, told=found, rows=rows)


@practice.get("/<uuid:practice_id>/ways")
@signed_in
def other_ways(practice_id: uuid.UUID) -> Answer:
    """The judge's way through the scene and the customary one; asked for after the page."""
    view = DebriefView(_ended(practice_id))
    try:
        hard = difficulty(view.bench.scene, _judge())
        return render_template("practice/_ways.html", view=view, ways=ways(view, _judge()), hard=hard)
    except Busy:
        return render_template("practice/_ways.html", view=view, ways=None, hard=None)


@practice.get("/<uuid:practice_id>/scene.json")
@signed_in
def export_scene(practice_id: uuid.UUID) -> Response:
    """The scene, for somebody else to begin: what is hidden is not written in it."""
    scene = find_practice(database(), me(), practice_id).scene
    return download(scene_file(scene["plate"], scene["again"]), "scene.json", "application/json")


def _ended(practice_id: uuid.UUID) -> Practice:
    row = find_practice(database(), me(), practice_id)
    if row.ended_at is None:
        raise NotFound(phrase("practice.no-such-practice"))
    return row


def _judge() -> Judge:
    shop_id = me().shop_id

    def judge(evidence: Evidence) -> Diagnosis:
        return judge_pool().diagnose(evidence, shop_id)

    return judge
