"""The drawing: whole, well formed, nothing over anything else, and true to the model."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations
from xml.etree import ElementTree

import pytest

from plentar.core.circuit.model import model_at
from plentar.core.expected import Asked, Word
from plentar.core.expected.rules import expected_at
from plentar.core.quantity import Quantity
from plentar.core.unit.parts import OtherSpeed
from plentar.core.unit.points import points, resolve
from plentar.core.visit.events import Calls, Power, Visit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import state_at
from plentar.drawing.gauge import gauge
from plentar.drawing.glyphs import in_words, shape, tone
from plentar.drawing.ladder import draw_control_side, draw_line_side, draw_surroundings, redraw
from plentar.drawing.parts import FORMS, Badge, Scene
from plentar.drawing.standalone import standalone
from plentar.drawing.surroundings import drawn_points
from plentar.store.demo.plates import plates
from plentar.words import speaking

HOMES = plates()
HEAT = (Calls(t_s=5, calls=frozenset({"W1", "W2"})),)


def scene(unit, events=HEAT, **more) -> Scene:
    return Scene(link=lambda part: f"?at={part}", model=model_at(unit, events, 900), **more)


def sides(unit, form, shown):
    return [
        ElementTree.fromstring(draw(unit, form, shown))
        for draw in (draw_line_side, draw_control_side, draw_surroundings)
    ]


@pytest.mark.parametrize("form", FORMS, ids=lambda form: form.name)
def test_every_part_of_every_home_is_drawn_once_and_can_be_touched(form):
    for unit in HOMES.values():
        links = [a for side in sides(unit, form, scene(unit)) for a in side.iter("a")]
        ids = [a.get("id") for a in links]
        assert len(ids) == len(set(ids)), unit.id
        reached = {a.get("href").removeprefix("?at=") for a in links}
        assert reached == drawn_points(unit)
        assert all(resolve(unit, name) for name in reached)
        assert set(unit.part_by_id) - reached <= {"S1.4"}, "only home 14's spare is not drawn"
        for a in links:
            box = a.find("rect")
            assert float(box.get("width")) >= 44
            assert float(box.get("height")) >= 44


@pytest.mark.parametrize("form", FORMS, ids=lambda form: form.name)
def test_no_part_lies_over_another(form):
    for unit in HOMES.values():
        for side in sides(unit, form, scene(unit)):
            width = float(side.get("viewBox").split()[2])
            boxes = []
            for a in side.iter("a"):
                box = a.find("rect")
                x, y, w, h = (float(box.get(k)) for k in ("x", "y", "width", "height"))
                assert x >= 0
                assert x + w <= width
                boxes.append((x, y, x + w, y + h))
            for one, two in combinations(boxes, 2):
                apart = one[2] <= two[0] or two[2] <= one[0] or one[3] <= two[1] or two[3] <= one[1]
                assert apart, (unit.id, one, two)


def levers(unit, events) -> dict[str, bool]:
    """Which contacts are drawn closed."""
    found = {}
    for side in sides(unit, FORMS[0], scene(unit, events)):
        for a in side.iter("a"):
            lever = a.find(".//path[@class='lever']")
            if lever is not None:
                found[a.get("href").removeprefix("?at=")] = lever.get("d") == "M-15 0L15 0"
    return found


def test_levers_stand_as_the_model_says():
    rest, heat = levers(HOMES[2], ()), levers(HOMES[2], HEAT)
    poles = {"C1.line.l1:C1.l1": True, "C1.line.l2:C1.l2": True}
    assert rest == {
        "S1.1": False,
        "S1.2": False,
        "BR.no": False,
        "BR.nc": True,
        "W1": False,
        "G": False,
        "Y": False,
        **poles,
    }
    assert heat == rest | {"S1.1": True, "S1.2": True, "W1": True}
    fan = levers(HOMES[2], (Calls(t_s=5, calls=frozenset({"G"})),))
    assert fan == rest | {"BR.no": True, "BR.nc": False, "G": True}


def test_nothing_is_drawn_live_behind_open_breakers_though_ghosts_float_there():
    off = (Power(t_s=5, state="off"),)
    for unit in HOMES.values():
        prediction = model_at(unit, off, 900)
        assert prediction.live_nodes == {f"{c.id}.line.{leg}" for c in unit.circuits for leg in ("l1", "l2")}
    split = (Power(t_s=5, state="off", circuit="C2"),)
    nodes = model_at(HOMES[5], split, 900).nodes
    floats = max(abs(nodes["C2.l1"]), abs(nodes["C2.l2"]))
    assert floats > 10, "a meter of no load would see a ghost"
    heat = model_at(HOMES[6], HEAT, 900).live_nodes
    assert {"C1.l1", "K1.1.out", "E1.in", "E1.out", "blower.in", "R", "W1"} <= heat


@pytest.mark.parametrize("form", FORMS, ids=lambda form: form.name)
def test_a_jumper_and_the_other_speed_are_drawn_where_they_are(form):
    unit = HOMES[2]
    blower = replace(unit.blower, other_speed=OtherSpeed("low 3"))
    badge = {"blower": Badge("2.2 A", Word.IN_BAND, True)}
    shown = scene(replace(unit, blower=blower), bridged=frozenset({"W1"}), badges=badge)
    line, control, _ = sides(replace(unit, blower=blower), form, shown)
    words = [text.text for side in (line, control) for text in side.iter() if text.tag.endswith("text")]
    assert words.count("low 3") == words.count("capped") == words.count("2.2 A") == 1
    jumpers = [[p for p in side.iter() if p.get("class") == "jumper"] for side in (line, control)]
    assert (len(jumpers[0]), len(jumpers[1])) == (0, 1)
    [lead] = [
        a for a in line.iter() if a.tag.endswith("}a") or a.tag == "a" if a.get("id").endswith("-low 3")
    ]
    assert lead.get("href") == "?at=blower"


def test_only_changed_parts_are_drawn_again_in_both_forms():
    shown = scene(HOMES[6], badges={"K1.1": Badge("0.1 V", Word.CLOSED, True)})
    parts = ElementTree.fromstring(f"<svg>{redraw(HOMES[6], shown, {'K1.1'})}</svg>").findall("a")
    assert [a.get("id") for a in parts] == [
        f"{form}-{owner}-K1.1" for form in ("wide", "narrow") for owner in ("E1", "E2")
    ]
    assert all(a.get("data-hx-swap-oob") == "true" for a in parts)
    assert all("0.1 V" in a.get("aria-label") for a in parts)


def test_what_is_drawn_again_speaks_as_its_page_does():
    """The places of parts are kept: in one language's drawing nothing of the other's stands."""
    shown = scene(HOMES[6])
    said = {}
    for language in ("es", "en"):
        with speaking(language):
            said[language] = redraw(HOMES[6], shown, ["BR.no"])
    assert "normalmente abierto" in said["es"]
    assert "normally open" in said["en"]


def test_labels_are_escaped_and_files_stand_alone():
    from dataclasses import replace  # noqa: PLC0415

    unit = replace(HOMES[2], label='<b onload="x">&')
    root = ElementTree.fromstring(standalone(unit, scene(unit)))
    assert not list(root.iter("{http://www.w3.org/2000/svg}a"))
    assert "S1.2" in " ".join(root.itertext())


def test_every_word_has_a_shape_of_its_own():
    shapes = [shape(word) for word in Word]
    assert len(set(shapes)) == len(shapes)
    assert in_words(Word.IN_BAND, provisional=True) == "in range, provisional"
    assert {tone(Word.LOW, False), tone(Word.HIGH, False), tone(Word.DEAD, False)} == {"low", "high", "bad"}


def test_gauges_are_well_formed_with_the_mark_inside():
    unit = HOMES[2]
    evidence = Evidence(unit, Visit(events=HEAT))
    state = state_at(unit, HEAT, 900)
    for point in points(unit):
        for quantity in point.quantities:
            due = expected_at(evidence, Asked(point, quantity, state))
            for value in (None, 0.0, 20.0, 1e4, float("inf") if quantity is Quantity.OHMS else 1e9):
                drawn = gauge(due, value)
                if not drawn:
                    assert not due.ranges
                    continue
                stem = ElementTree.fromstring(drawn).find("path[@class='stem']")
                assert (stem is None) == (value is None)
                if stem is not None:
                    assert 12 <= float(stem.get("d")[1:].split()[0]) <= 348
