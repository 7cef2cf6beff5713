"""The page of practice: a new scene, those so far, lessons, and how somebody is coming on."""

from __future__ import annotations

import uuid
from collections.abc import Mapping

from flask import render_template, request

from plentar.practice.difficulty import Grade
from plentar.practice.scene import MOST_FAULTS, THEMES
from plentar.store.accounts import SignedIn
from plentar.store.people import people_of
from plentar.store.practices import practices_of
from plentar.store.units import list_units
from plentar.web.database import database
from plentar.web.entry import Form
from plentar.web.people import me
from plentar.web.practice.beginning import COACHING
from plentar.web.practice.learning import ProgressView, known_lessons
from plentar.web.practice.view import PracticeView
from plentar.words import language, phrase

#: How many practices are listed.
SHOWN = 30


def list_page(form: Form) -> str:
    account = me()
    lead = account.role == "lead"
    rows = practices_of(database(), account.shop_id, None if lead else account.id)
    names = {one.id: one.name for one in people_of(database(), account.shop_id)}
    who = _whose(account, names)
    known = known_lessons()
    return render_template(
        "practice/list.html",
        form=form,
        practices=[(row, PracticeView(row), names.get(row.account_id, "")) for row in rows[:SHOWN]],
        themes={theme: phrase(f"practice.theme.{theme}") for theme in THEMES},
        coachings={one: phrase(f"practice.coaching.{one}") for one in COACHING},
        counts={str(n): phrase(f"practice.faults.{n}") for n in range(MOST_FAULTS + 1)},
        units={str(one.row.id): one.unit.label for one in list_units(database(), account.shop_id)[:500]},
        lessons=[(lesson.name, lesson.said(language())) for lesson in known.lessons],
        left_out=known.wrong if lead else [],
        lead=lead,
        lesson_form=known.lessons[0].text,
        own_lessons=known.own,
        progress=ProgressView([row for row in rows if row.account_id == who]),
        who=names[who],
        people=sorted(names.items(), key=lambda one: one[1]) if lead else [],
        grades={grade: phrase(f"practice.grade.{grade}") for grade in Grade},
        set_by={str(one): name for one, name in names.items()},
    )


def _whose(account: SignedIn, names: Mapping[uuid.UUID, str]) -> uuid.UUID:
    """Whose progress is looked at: one's own, or, by a lead, somebody's of the shop."""
    try:
        asked = uuid.UUID(request.args.get("who", ""))
    except ValueError:
        return account.id
    return asked if account.role == "lead" and asked in names else account.id
