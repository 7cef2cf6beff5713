"""Short lessons: each a scene with a question. A lesson is a TOML file; a shop can put its own beside those that ship.

Keys: ``faults``, patterns of fault ids of which the first that the plate can have is hidden (none for a sound unit);
``complaint``; and a table for each language with ``title``, ``question`` and ``afterwards``.
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from fnmatch import fnmatchcase
from pathlib import Path
from random import Random

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.core.visit.events import COMPLAINTS
from plentar.practice.scene import Scene
from plentar.stand_ins.wider.specimen import Plate, faults_of, filled
from plentar.stand_ins.wider.world import HiddenUnit

SHIPPED = Path(__file__).parent / "lessons"
ENGLISH = "en"
_TOLD = ("title", "question", "afterwards")
MOST_CHARACTERS = 1000


@dataclass(frozen=True, slots=True)
class Lesson:
    """``told`` by language: title, question, and what is said afterwards."""

    name: str
    faults: tuple[str, ...]
    complaint: str
    told: Mapping[str, Mapping[str, str]]
    #: As it is written.
    text: str

    def said(self, language: str) -> Mapping[str, str]:
        return self.told.get(language) or self.told[ENGLISH]

    def scene(self, plate: Plate, seed: str) -> Scene | None:
        """The lesson on a plate; None where the plate can have no such fault."""
        plate = filled(plate)
        if not self.faults:
            return Scene(plate, (), seed, self.complaint)
        known = [f for f in faults_of(plate) if any(fnmatchcase(f, wanted) for wanted in self.faults)]
        felt = [fault for fault in known if HiddenUnit(plate, [fault], seed).complaints]
        if not felt:
            return None
        return Scene(plate, (Random(f"{self.name}/{seed}").choice(felt),), seed, self.complaint)


def lessons(own: Path | None = None) -> tuple[list[Lesson], list[BadInput]]:
    """Those that ship, in their order, then a shop's own; and what is wrong with files that are left out."""
    folders = [SHIPPED, *([own] if own is not None and own.is_dir() else [])]
    found: list[Lesson] = []
    wrong: list[BadInput] = []
    for file in (file for folder in folders for file in sorted(folder.glob("*.toml"))):
        try:
            found.append(read_lesson(file))
        except BadInput as bad:
            wrong.append(bad)
    return found, wrong


def read_lesson(file: Path) -> Lesson:
    """Raises BadInput at the file's name and the key."""
    try:
        return lesson_of(file.stem, file.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        raise BadInput(file.name, say("practice.lesson.unreadable", why=str(error))) from None
    except BadInput as bad:
        raise BadInput(f"{file.name}/{bad.path}" if bad.path else file.name, bad.reason) from None


def lesson_of(name: str, text: str) -> Lesson:
    """A lesson by what is written of it. Raises BadInput at the key."""
    try:
        found = tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise BadInput("", say("practice.lesson.unreadable", why=str(error))) from None
    faults, complaint = found.get("faults", []), found.get("complaint")
    if not isinstance(faults, list) or not all(isinstance(f, str) for f in faults):
        raise BadInput("faults", say("practice.lesson.patterns"))
    if not isinstance(complaint, str) or complaint not in COMPLAINTS:
        raise BadInput("complaint", say("practice.lesson.no-complaint"))
    told = {key: table for key, table in found.items() if isinstance(table, dict)}
    if ENGLISH not in told:
        raise BadInput(ENGLISH, say("practice.lesson.no-words"))
    for language, table in told.items():
        for key in _TOLD:
            said = table.get(key)
            if not isinstance(said, str) or not 0 < len(said) <= MOST_CHARACTERS:
                raise BadInput(f"{language}.{key}", say("practice.lesson.no-words"))
    return Lesson(name, tuple(faults), complaint, told, text)
