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


def own_lessons() -> tuple[list[Lesson], list[BadInput]]:
    """Every lesson of this installation and of the shop, and what is wrong with files that are left out."""
    folder = os.environ.get(OWN)
    known, wrong = lessons(Path(folder) if folder else None)
    for name, text in lessons_of_shop(database(), me().shop_id).items():
        try:
            known.append(lesson_of(name, text))
        except BadInput as bad:
            wrong.append(BadInput(f"{name}/{bad.path}", bad.reason))
    return known, wrong


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
