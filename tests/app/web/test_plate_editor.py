"""A unit as it hangs there: every part that is drawn can be touched, every key of the file entered,
and what the screens make is what the file can hold."""

from __future__ import annotations

import json

import pytest
from bs4 import BeautifulSoup
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from plentar.core.unit.kits import KIT_CONTROLS, Kit, build_kit
from plentar.files.part_kind_json import ContactSetJson, PartKindJson, TerminalJson, WireJson
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.files.visit_file import parse_visit_file
from plentar.store.accounts import make_account, make_shop
from plentar.store.demo.plates import plates
from plentar.store.units import make_unit
from tests.app.conftest import PASSWORD
from tests.strategies import any_units

HX = {"HX-Request": "true"}
#: Keys that the drawing says by where parts stand, or that no file goes without.
BY_PLACE = {
    "id",
    "rung",
    "elements",
    "controls",
    "switches",
    "limits",
    "links",
    "circuits",
    "other_loads",
    "through",
}
OBJECTS = {"blower", "relay", "interlock", "control_power", "conductor", "plate", "coil", "wires"}


@pytest.fixture(scope="module")
def lead(app, sessions):
    """One person with a shop of their own, for many units."""

    with sessions() as session:
        shop = make_shop(session, "Editors")
        account = make_account(session, shop, "editor", "An Editor", PASSWORD, "lead")
        session.commit()
    client = app.test_client()
    client.post("/sign-in", data={"login": account.login, "password": PASSWORD})

    def made(unit):
        with sessions() as session:
            record = make_unit(session, shop.id, unit)
            session.commit()
            return f"/units/{record.row.id}"

    return client, made


def tree(answer) -> BeautifulSoup:
    assert answer.status_code == 200, answer.text
    return BeautifulSoup(answer.text, "html.parser")


def touched(page: BeautifulSoup) -> set[str]:
    """Where every part of the drawings on a page, and what belongs to the whole unit, leads."""
    found = {a["href"] for a in page.select("a.part, #plate-bar a")}
    assert found
    return found


def panels(client, url: str) -> dict[str, BeautifulSoup]:
    """Every panel of a unit that can be reached by touch, by its address."""
    seen, left = {}, touched(tree(client.get(url)))
    while left:
        href = left.pop()
        seen[href] = tree(client.get(href, headers=HX))
        more = {a["href"] for a in seen[href].select("#panel a, li a.line") if "part=" in a["href"]}
        left |= more - set(seen)
    return seen


def typed(form) -> dict[str, list[str]]:
    """What a form would send as it stands."""
    data: dict[str, list[str]] = {}
    for field in form.select("input[name]"):
        data[field["name"]] = [field.get("value", "")]
    for select in form.select("select[name]"):
        options = select.select("option")
        chosen = [o["value"] for o in options if o.has_attr("selected")]
        if not chosen and not select.has_attr("multiple"):
            chosen = [options[0]["value"]]
        data[select["name"]] = chosen
    return data


def exported(client, url: str) -> dict:
    return json.loads(client.get(f"{url}/unit.json").text)["unit"]


KITS = [
    build_kit(Kit((5000.0,) * 2, 240, control, tie=tie, relay=relay), f"{control}-{relay}", "A kit")
    for control, tie, relay in (
        *((control, "nc-contact", "dpdt") for control in KIT_CONTROLS if control != "nothing"),
        ("stacked-sequencer", "sequencer-switch", "time-delay"),
        ("contactors", "g-with-w", "board"),
        ("relays-dc", "none", "none"),
    )
]
UNITS = [*plates().values(), *KITS, build_kit(Kit((5000.0,), 240, "nothing", tie="none"), "bare", "")]
CALLED = UNITS[:3]


@pytest.mark.parametrize("unit", UNITS, ids=lambda unit: unit.id)
def test_no_touch_on_a_drawing_ends_in_an_error(lead, unit):
    client, made = lead
    url = made(unit)
    for panel in panels(client, url).values():
        assert panel.select_one("[data-point]")
    started = client.post(f"{url}/visits", data={"complaint": "check-up"})
    bench = started.location
    for page in (bench, f"{bench}/tape", f"{bench}/what-if"):
        for href in {a["href"] for a in tree(client.get(page)).select("a.part")}:
            assert client.get(href, headers=HX).status_code == 200, href
    for handle in tree(client.get(bench)).select("svg.wide a.handle"):
        moved = handle["data-hx-post"]
        if moved.endswith("/calls") and unit not in CALLED:
            continue  # the judge is asked before a call: some units stand for all
        form = json.loads(handle["data-hx-vals"])
        # Breakers before wires, as they are drawn: the wires are lifted with the power off.
        assert client.post(moved, data=form, headers=HX).status_code in (200, 422), moved
    assert client.get(f"{url}?part=nothing").status_code == 422


@settings(max_examples=8, suppress_health_check=list(HealthCheck))
@given(unit=any_units())
def test_every_unit_of_the_file_is_opened_and_saved_unchanged(lead, unit):
    client, made = lead
    url = made(unit)
    before = exported(client, url)
    assert before == unit_to_json(unit)
    for href, panel in panels(client, url).items():
        form = panel.select_one("form")
        if form is None or "part=feeder" in href or not form.select("button.main"):
            continue
        # The version that a panel shows is looked at again: nothing may have made a new one.
        saved = client.post(form["action"], data=typed(form), headers=HX)
        assert saved.status_code == 200, (href, BeautifulSoup(saved.text, "html.parser").text)
        assert exported(client, url) == before, href


@settings(max_examples=5, suppress_health_check=list(HealthCheck))
@given(unit=any_units(), data=st.data())
def test_whatever_the_screens_make_is_valid_in_the_file(lead, unit, data):
    client, made = lead
    url = made(unit)
    for _ in range(4):
        version, found = exported(client, url), panels(client, url)
        acts = [
            (form, button)
            for panel in found.values()
            for form in panel.select('form[action$="/act"]')
            for button in form.select("button[name=act]")
        ]
        # In an order of their own, which every run of the same example has.
        acts.sort(
            key=lambda act: (
                act[0]["action"].split("/plate/")[1],
                act[1]["value"],
                typed(act[0]).get("element", []),
            )
        )
        form, button = data.draw(st.sampled_from(acts))
        sent = typed(form) | {"act": button["value"]}
        select = form.select_one("select")
        if select is not None:
            options = [o["value"] for o in select.select("option")]
            sent["chosen"] = data.draw(st.sampled_from(options))
        answer = client.post(form["action"], data=sent, headers=HX)
        assert answer.status_code in (200, 422), answer.text
        after = client.get(f"{url}/unit.json").text
        parse_visit_file(after)
        changed = json.loads(after)["unit"] != version
        assert (answer.status_code == 422) <= (not changed)
        if changed and data.draw(st.booleans()):
            number = tree(client.get(url)).select_one("#plate-bar input[name=seen]")["value"]
            undone = client.post(f"{url}/undo", data={"seen": number}, headers=HX)
            assert undone.status_code == 200
            assert exported(client, url) == version


def test_every_key_of_a_unit_is_entered_on_a_screen(lead):
    """The schema is walked; each key that it has is the name of a field of some panel."""
    client, made = lead
    plate = unit_to_json(build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "all", "All"))
    plate["other_loads"] = [{"id": "OD", "label": "outdoor", "call": "Y", "va": 8}]
    url = made(UnitJson.model_validate(plate).to_core())
    names = set()
    for panel in panels(client, url).values():
        for field in panel.select("input[name], select[name]"):
            names |= set(field["name"].replace("[0]", "").replace("[1]", "").split("."))
    schema = UnitJson.model_json_schema()
    keys = set(schema["properties"])
    for kind in schema["$defs"].values():
        keys |= set(kind.get("properties", {}))
    missing = keys - names - BY_PLACE - OBJECTS
    drawer = {"part", "part_kinds", "wired", "printed"}  # laid out in the drawer and on the relay bench
    for model in (PartKindJson, TerminalJson, ContactSetJson, WireJson):
        drawer |= set(model.model_fields)
    assert missing - drawer == {"feeder"}, "which is a panel of its own"
    assert len(keys) > 50


def test_the_tie_is_made_by_touching_its_two_ends(lead):
    client, made = lead
    url = made(build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "tie", "Tie"))
    panel = tree(client.get(f"{url}?part=BR.nc", headers=HX))
    pick = panel.find("a", string=lambda said: said and "other end" in said)
    drawing = tree(client.get(pick["href"], headers=HX))
    second = next(a for a in drawing.select("a.part") if a["id"].endswith("-S1.2"))
    chosen = tree(client.get(second["href"], headers=HX))
    form = chosen.select_one("form")
    assert client.post(form["action"], data=typed(form), headers=HX).status_code == 200
    assert exported(client, url)["blower"]["interlock"] == {"kind": "nc-contact", "tap": "S1.2"}


def test_a_unit_like_the_one_next_door(lead):
    client, made = lead
    url = made(plates()[5])
    before = exported(client, url)
    like = url.rsplit("/", 1)[1]
    refused = client.post("/units/copy", data={"like": like, "label": " "})
    assert refused.status_code == 422
    copied = client.post("/units/copy", data={"like": like, "label": "Next door"})
    assert copied.status_code == 302
    after = exported(client, copied.location)
    assert after | {"id": "", "label": ""} == before | {"id": "", "label": ""}
    assert after["label"] == "Next door"


def test_one_touch_says_that_the_print_says_so_and_one_tick_that_all_alike_do(lead):
    """The touch fills what is typical and leaves what was typed; a tick passes on what was changed, no more."""
    client, made = lead
    unit = made(build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "print", "Read in part"))

    def switches() -> list[dict]:
        plate = json.loads(client.get(f"{unit}/unit.json").text)["unit"]
        return [switch for control in plate["controls"] for switch in control["switches"]]

    panel = tree(client.get(f"{unit}?part=S1.1", headers=HX))
    assert [b["value"] for b in panel.select("button[name=printed]")] == ["on_s[1]", "off_s[1]"]
    seen = panel.select_one("[name=seen]")["value"]
    blank = {f"{window}[{end}]": "" for window in ("on_s", "off_s") for end in (0, 1)}
    typed = {**blank, "role": "element", "contact_amps": "", "seen": seen}
    client.post(f"{unit}/plate/S1.1", data=typed | {"on_s[0]": "5", "on_s[1]": "25", "printed": "off_s[1]"})
    first, second = switches()
    assert (first["on_s"], first["off_s"]) == ([5, 25], [1, 110])
    assert "on_s" not in second
    panel = tree(client.get(f"{unit}?part=S1.1", headers=HX))
    assert not panel.select("button[name=printed]"), "nothing is typical of it any more"
    seen = panel.select_one("[name=seen]")["value"]
    client.post(f"{unit}/plate/S1.1", data={"contact_amps": "25", "all": "yes", "seen": seen})
    first, second = switches()
    assert first["contact_amps"] == second["contact_amps"] == 25
    assert "on_s" not in second, "its windows are its own to read"
