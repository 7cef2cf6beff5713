"""Lessons that can be had on some plate, and progress counted by hand."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.files.unit_json import unit_to_json
from plentar.practice.bench import Bench
from plentar.practice.lesson import SHIPPED, lessons, read_lesson
from plentar.practice.progress import SOUND, Ended, met, skills
from plentar.practice.scene import Scene
from plentar.store.demo.plates import plates
from tests.practice.test_practice import hidden, two_strips

MONDAY = datetime(2026, 11, 30, 8, tzinfo=UTC)
A, V, OHM, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TEMP_F


def test_ten_lessons_each_in_both_languages_and_on_a_plate_of_the_demo() -> None:
    every, wrong = lessons()
    assert (len(every), wrong) == (10, [])
    kinds = [unit_to_json(unit) for unit in plates().values()]
    for lesson in every:
        assert lesson.said("es")["question"] != lesson.said("en")["question"]
        assert lesson.said("fr") == lesson.said("en")
        scenes = [scene for plate in kinds if (scene := lesson.scene(plate, "oak")) is not None]
        assert scenes, lesson.name
        assert all(len(scene.faults) == bool(lesson.faults) for scene in scenes)


def test_a_shops_own_lesson_stands_after_those_that_ship(tmp_path: Path) -> None:
    text = (SHIPPED / "05-the-tie.toml").read_text()
    (tmp_path / "00-ours.toml").write_text(text)
    assert [lesson.name for lesson in lessons(tmp_path)[0]][-1] == "00-ours"
    for broken, path in (
        (text.replace("complaint", "complain"), "bent.toml/complaint"),
        (text.replace("[en]", "[english]"), "bent.toml/en"),
        (text.replace('title = "The tie"', "title = 5"), "bent.toml/en.title"),
        (text.replace("faults = [", "faults = [1, "), "bent.toml/faults"),
        ("faults = [", "bent.toml"),
    ):
        (tmp_path / "bent.toml").write_text(broken)
        with pytest.raises(BadInput) as complaint:
            read_lesson(tmp_path / "bent.toml")
        assert complaint.value.path == path
        # It is left out and said, and no other with it.
        found, wrong = lessons(tmp_path)
        assert ([lesson.name for lesson in found][-1], [bad.path for bad in wrong]) == ("00-ours", [path])


def ended(fault: str, named: str, days: float, hints: int = 0) -> Ended:
    bench = hidden(fault) if fault else hidden()
    return Ended(bench, [named] if named else [], hints, guided=False, at=MONDAY + timedelta(days=days))


def test_what_was_missed_comes_again_sooner_than_what_was_found() -> None:
    found = met([ended("E1:open", "E1", 0), ended("S1.2:stuck-open", "E1", 0), ended("", "", 0)])
    counted = {one.kind: (one.found, one.met) for one in found}
    assert counted == {"open": (1, 1), "stuck-open": (0, 1), SOUND: (1, 1)}
    assert found[0].kind == "stuck-open"
    once = next(one for one in found if one.kind == "open")
    twice = met([ended("E1:open", "E1", 0), ended("E2:open", "E2", 3)])[0]
    assert twice.again_at - (MONDAY + timedelta(days=3)) > once.again_at - MONDAY > timedelta(0)
    # Found with hints it comes back no later than found alone.
    helped = met([ended("E1:open", "E1", 0, hints=2)])[0]
    assert helped.again_at <= once.again_at


def test_volts_between_two_opens_are_read_again_or_not() -> None:
    """A strip and its switch are open: what floats between them shows tens of volts, neither zero nor the line's."""
    scene = Scene(two_strips(), ("E1:open", "S1.1:stuck-open"), "0", "no-heat")
    once = Bench(scene).call("G").call("W1").wait(150).measure("S1.1", V)
    assert 20 < once.acts[-1]["value"] < 60
    plain = Bench(scene).call("G").call("W1").wait(150).measure("FL1", V)

    def counted(*benches: Bench) -> list[tuple[int, int]]:
        found = skills([Ended(bench, [], 0, guided=False, at=MONDAY) for bench in benches])
        return [(one.done, one.occasions) for one in found if one.code == "reads-it-again"]

    assert counted(plain) == []
    assert counted(once, once.measure("FL1", V), once.measure("S1.1", V)) == [(1, 3)]


def test_habits_are_counted_where_there_was_occasion() -> None:
    good = hidden("E2:open").call("G").call("W1").wait(200).measure("E2", A).call("W1").wait(120).call("G")
    good = good.power("off").power("proved-dead").measure("E2", OHM)
    hasty = hidden("E2:open").call("W1").measure("E2", A).power("off").measure("E2", OHM).replace("TL1")
    over = [Ended(bench, ["E2"], 0, guided=False, at=MONDAY) for bench in (good, hasty)]
    counted = {one.code: (one.done, one.occasions) for one in skills(over)}
    assert counted["proves-dead"] == (1, 2)
    assert counted["across-before-ohms"] == (2, 2)
    assert counted["waits-out-windows"] == (1, 2)
    assert counted["ends-the-call-first"] == (1, 2)
    assert counted["never-heat-alone"] == (2, 2)
    assert "air-before-limits" not in counted
    aired = hidden("TL1:weak").call("G").call("W1").wait(600).measure("supply-air", TEMP).watch("TL1")
    doubted = hidden("TL1:weak").call("G").call("W1").wait(600).watch("TL1")
    found = skills([Ended(b, [], 0, guided=False, at=MONDAY) for b in (aired, doubted)])
    assert {one.code: (one.done, one.occasions) for one in found}["air-before-limits"] == (1, 2)
