"""A shop's own lessons: any lesson as it is written, one that a lead writes, one that is taken away."""

from __future__ import annotations

import re
from typing import Annotated

from flask import Response, redirect, request, url_for
from pydantic import BaseModel, Field

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.practice.lesson import ENGLISH, lesson_of
from plentar.store.errors import NotFound
from plentar.store.lessons import drop_lesson, keep_lesson
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.entry import Form, parse_entry
from plentar.web.people import me, signed_in
from plentar.web.practice.blueprint import practice
from plentar.web.practice.learning import known_lessons
from plentar.web.practice.listing import list_page
from plentar.words import phrase

MOST_TEXT = 12_000


class LessonEntry(BaseModel):
    """A lesson as TOML."""

    text: Annotated[str, Field(min_length=1, max_length=MOST_TEXT)]


@practice.post("/lessons")
@signed_in
def add_lesson() -> Answer:
    """By its English title: the same title again is the same lesson, written anew."""
    try:
        text = parse_entry(LessonEntry, request.form).text
        try:
            title = lesson_of("", text).told[ENGLISH]["title"]
        except BadInput as bad:
            raise BadInput("text", f"{bad.path}: {bad.reason}" if bad.path else bad.reason) from None
        name = re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:60]
        known = known_lessons()
        others = [one for one in known.lessons if one.name not in known.own]
        if not name or any(name == one.name or title == one.told[ENGLISH]["title"] for one in others):
            raise BadInput("text", say("practice.lesson.another-title"))
    except BadInput as bad:
        return list_page(Form(request.form, bad)), 422
    keep_lesson(database(), me().shop_id, name, text)
    database().commit()
    return redirect(url_for("practice.show"))


@practice.get("/lessons/<name>.toml")
@signed_in
def lesson_text(name: str) -> Response:
    """Any lesson as it is written: it says what is hidden, so it is for leads."""
    lesson = known_lessons().named(name)
    if lesson is None:
        raise NotFound(phrase("practice.no-such-lesson"))
    return download(lesson.text, f"{name}.toml", "application/toml")


@practice.post("/lessons/<name>/remove")
@signed_in
def remove_lesson(name: str) -> Answer:
    drop_lesson(database(), me().shop_id, name)
    database().commit()
    return redirect(url_for("practice.show"))
