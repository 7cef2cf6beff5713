"""A scene is begun: by a form, a lesson, a kind of fault, a file; for oneself, or by a lead for others."""

from __future__ import annotations

import secrets
import uuid
from collections.abc import Callable, Sequence
from functools import partial
from random import Random
from typing import Annotated, Any, Literal

from pydantic import Field

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.files.unit_json import unit_to_json
from plentar.practice.difficulty import Grade, chosen
from plentar.practice.scene import MOST_FAULTS, THEMES, Scene, drawn
from plentar.practice.scene_file import SceneFile
from plentar.stand_ins.wider.specimen import Plate
from plentar.store.accounts import SignedIn
from plentar.store.errors import NotFound
from plentar.store.models import Practice
from plentar.store.people import people_of
from plentar.store.practices import find_practice
from plentar.store.units import UnitRecord, find_unit, list_units
from plentar.web.database import database
from plentar.web.entry import Entry, empty_as_none
from plentar.web.judge_pool import Busy, judge_pool
from plentar.web.practice.learning import known_lessons

COACHING = ("off", "hints", "guide")
#: So many plates are tried for a lesson, and words for a difficulty.
MOST_TRIED, WORDS_TRIED = 60, 5


class HelpEntry(Entry):
    """A scene that comes as a file, and the help that is wanted."""

    coaching: Literal[COACHING] = "hints"  # type: ignore[valid-type]


class SceneEntry(HelpEntry):
    unit: Annotated[uuid.UUID | None, empty_as_none] = None
    theme: Literal[tuple(THEMES)] = "any"  # type: ignore[valid-type]
    faults: Annotated[int, Field(ge=0, le=MOST_FAULTS)] = 1
    seed: Annotated[str, Field(max_length=20)] = ""
    #: A lesson's name, or a kind of fault that is worth meeting once more.
    lesson: Annotated[str, Field(max_length=60)] = ""
    kind: Annotated[str, Field(max_length=40)] = ""
    #: How hard it is to be; nothing: as it falls.
    grade: Annotated[Grade | None, empty_as_none] = None
    #: By a lead: who is to work on it; nobody: oneself.
    people: Annotated[tuple[uuid.UUID, ...], Field(max_length=60)] = ()


def begun(account: SignedIn, entry: SceneEntry) -> Sequence[Practice]:
    """The practices of this id, begun now or before: one's own, or one for each of a lead's people."""
    known = database().get(Practice, entry.client_id)
    if known is not None:
        return [find_practice(database(), account, known.id)]
    word = entry.seed.strip() or secrets.token_hex(3)
    record, scene = _scene(account, entry, word)
    made = entry.model_dump(include={"theme", "faults", "lesson", "kind"}) | {"seed": scene.seed}
    again = made | {"unit": str(record.row.id)}
    return _stored(account, entry, scene, record.unit.label, again, _for_whom(account, entry.people))


def begun_from_file(account: SignedIn, entry: HelpEntry, file: SceneFile) -> Practice:
    """The practice of this id, on the plate of a file. Raises BadInput."""
    known = database().get(Practice, entry.client_id)
    if known is not None:
        return find_practice(database(), account, known.id)
    if file.lesson:
        scene = _lesson(file.lesson)(file.plate, file.seed)
    else:
        scene = drawn(file.plate, file.theme, file.faults, file.kind, file.seed)
    if scene is None:
        raise BadInput("kind", say("practice.not-on-this-plate"))
    made = file.model_dump(include={"theme", "faults", "lesson", "kind", "seed"})
    return _stored(account, entry, scene, file.unit.to_core().label, made, [account.id])[0]


def _for_whom(account: SignedIn, people: Sequence[uuid.UUID]) -> list[uuid.UUID]:
    """Raises BadInput where somebody is none of the shop's, or no lead asks."""
    if not people:
        return [account.id]
    known = {one.id for one in people_of(database(), account.shop_id)}
    if account.role != "lead" or not set(people) <= known:
        raise BadInput("people", say("practice.not-theirs"))
    return list(dict.fromkeys(people))


def _stored(
    account: SignedIn,
    entry: HelpEntry,
    scene: Scene,
    label: str,
    again: dict[str, Any],
    whom: Sequence[uuid.UUID],
) -> list[Practice]:
    kept = {
        "plate": scene.plate,
        "faults": scene.faults,
        "seed": scene.seed,
        "complaint": scene.complaint,
        "label": label,
        "again": again,
        "lesson": again["lesson"],
    }
    rows = [
        Practice(
            id=entry.client_id if not number else uuid.uuid5(entry.client_id, str(number)),
            shop_id=account.shop_id,
            account_id=one,
            coaching=entry.coaching,
            scene=kept if one == account.id else kept | {"set_by": str(account.id)},
        )
        for number, one in enumerate(whom)
    ]
    database().add_all(rows)
    database().commit()
    return rows


def _scene(account: SignedIn, entry: SceneEntry, word: str) -> tuple[UnitRecord, Scene]:
    """A unit of the shop with what is hidden in it. Raises BadInput."""
    if entry.lesson:
        lesson = _lesson(entry.lesson)
        return _fitting(account, entry.unit, lambda plate: lesson(plate, word))
    if entry.kind:
        by_kind = partial(drawn, theme=entry.theme, count=entry.faults, kind=entry.kind, seed=word)
        return _fitting(account, entry.unit, by_kind)
    record = _unit(account, entry.unit, word)
    plate = unit_to_json(record.unit)
    words = [word, *(f"{word[:18]}-{n}" for n in range(1, WORDS_TRIED))] if entry.grade else [word]
    scenes = [one for w in words if (one := drawn(plate, entry.theme, entry.faults, "", w)) is not None]
    if entry.grade is None:
        return record, scenes[0]
    try:
        return record, chosen(scenes, entry.grade, lambda e: judge_pool().diagnose(e, account.shop_id))
    except Busy:
        raise BadInput("grade", say("practice.coach-busy")) from None


def _lesson(name: str) -> Callable[[Plate, str], Scene | None]:
    """Raises BadInput where there is no such lesson."""
    lesson = known_lessons().named(name)
    if lesson is None:
        raise BadInput("lesson", say("practice.no-such-lesson"))
    return lesson.scene


def _fitting(
    account: SignedIn, unit_id: uuid.UUID | None, made: Callable[[Plate], Scene | None]
) -> tuple[UnitRecord, Scene]:
    """The unit of this id, or the first of the shop's, whose plate can have it. Raises BadInput."""
    only = None if unit_id is None else [unit_id]
    for record in list_units(database(), account.shop_id, only)[:MOST_TRIED]:
        if (scene := made(unit_to_json(record.unit))) is not None:
            return record, scene
    raise BadInput("lesson", say("practice.no-plate-for-it"))


def _unit(account: SignedIn, unit_id: uuid.UUID | None, word: str) -> UnitRecord:
    """The unit of this id, or one of the shop's by the scene's word. Raises BadInput."""
    if unit_id is not None:
        try:
            return find_unit(database(), account.shop_id, unit_id)
        except NotFound:
            raise BadInput("unit", say("practice.no-such-unit")) from None
    every = list_units(database(), account.shop_id)
    if not every:
        raise BadInput("unit", say("practice.no-unit-yet"))
    return Random(word).choice(every)
