"""Lessons, and how somebody is coming on, as the page shows them."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC
from pathlib import Path

from werkzeug.utils import cached_property

from plentar.core.errors import BadInput
from plentar.practice.lesson import Lesson, lesson_of, lessons
from plentar.practice.progress import Ended, met, skills
from plentar.store.lessons import lessons_of_shop
from plentar.store.models import Practice, now
from plentar.web.database import database
from plentar.web.people import me
from plentar.web.practice.rows import bench_of
from plentar.web.showing import local
from plentar.words import phrase
from plentar.words.dates import day_of_year

#: A folder with lessons of an installation's own.
OWN = "PLENTAR_LESSONS"
#: How many kinds are shown.
FEW = 8


@dataclass(frozen=True, slots=True)
class Known:
    """Every lesson of this installation and of the shop, what is wrong with those that are left out, and the names of
    the shop's own."""

    lessons: Sequence[Lesson]
    wrong: Sequence[BadInput]
    own: frozenset[str]

    def named(self, name: str) -> Lesson | None:
        return next((one for one in self.lessons if one.name == name), None)


def known_lessons() -> Known:
    folder, own = os.environ.get(OWN), lessons_of_shop(database(), me().shop_id)
    known, wrong = lessons(Path(folder) if folder else None)
    for name, text in own.items():
        try:
            known.append(lesson_of(name, text))
        except BadInput as bad:
            wrong.append(BadInput(f"{name}/{bad.path}", bad.reason))
    return Known(known, wrong, frozenset(own))


@dataclass(frozen=True, slots=True)
class KindRow:
    """A kind of fault that was met, in words; ``wanted``: it is worth meeting once more by now."""

    kind: str
    words: str
    counted: str
    when: str
    wanted: bool


class ProgressView:
    """One person's practices that are over."""

    def __init__(self, rows: Sequence[Practice]) -> None:
        self.ended = [
            Ended(
                bench_of(row),
                row.named or [],
                row.hints,
                row.coaching == "guide",
                row.ended_at.astimezone(UTC),
            )
            for row in rows
            if row.ended_at is not None
        ]

    @cached_property
    def kinds(self) -> list[KindRow]:
        """The kinds that were met, the one that is wanted soonest first."""
        return [
            KindRow(
                one.kind,
                phrase(f"practice.kind.{one.kind}"),
                phrase("practice.found-of", found=one.found, met=one.met),
                day_of_year(local(one.again_at)),
                one.again_at <= now(),
            )
            for one in met(self.ended)[:FEW]
        ]

    @property
    def skills(self) -> list[tuple[str, str]]:
        """Each habit and how often it was kept."""
        return [
            (
                phrase(f"practice.skill.{one.code}"),
                phrase("practice.kept-of", done=one.done, occasions=one.occasions),
            )
            for one in skills(self.ended)
        ]
