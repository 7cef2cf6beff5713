"""A round planned over any units, taken, half done, carried over."""

from __future__ import annotations

import segno

from tests.app.hands import KIT, Posting


def test_a_round_is_planned_half_done_and_carried_over(newcomer, earlier, soup):
    me = newcomer()
    hands = Posting(earlier, client=me.client)
    units = {
        label: hands.post("/units", **KIT | {"label": label}).location
        for label in ("1 Marram Row", "2 Marram Row", "3 Dune Road")
    }
    for bad in (
        {"title": " "},
        {"title": "x", "words": "nowhere"},
        {"title": "x", "due_on": "soon"},
        {"title": "x", "left_by": "y"},
    ):
        assert me.client.post("/rounds", data=bad).status_code == 422, bad
    planned = hands.post("/rounds", title="Autumn", words="marram", due_on="2026-12-24").location
    assert me.client.post("/rounds", data={"title": "Autumn"}).status_code == 422, "the name is taken"
    page = hands.page(planned)
    rows = [row.th.text.strip() for row in page.select("tbody tr")]
    assert rows == ["1 Marram Row", "2 Marram Row"] and "0 of 2 done" in page.text
    boxes = [box["value"] for box in page.select("input[name=unit]")]
    person = next(o["value"] for o in page.select("#who option") if o.text == "A Lead")
    hands.post(f"{planned}/assign", unit=boxes[0], who=person)
    assert me.client.post(f"{planned}/assign", data={"who": person}).status_code == 422
    assert me.client.post(f"{planned}/assign", data={"unit": boxes[0], "who": boxes[0]}).status_code == 422
    hands.unit = units["1 Marram Row"]
    hands.begin("check-up")
    assert "→ under way" in hands.page(planned).select("tbody tr")[0].text
    hands.close(note="All well.")
    first = hands.page(planned).select("tbody tr")[0].text
    assert "● done" in first and "A Lead" in first
    assert "1 of 2" in hands.page("/rounds").text
    for names in ("1 Marram Row\nNo such", "nothing"):
        answer = me.client.post("/rounds", data={"title": "List", "names": names})
        assert answer.status_code == 422 and soup(answer).select_one("#names-error"), names
    listed = hands.post("/rounds", title="List", names="3 Dune Road\n 1 Marram Row\n").location
    assert [row.th.text.strip() for row in hands.page(listed).select("tbody tr")] == [
        "1 Marram Row",
        "3 Dune Road",
    ]
    over = hands.post("/rounds", title="Winter", left_by=planned.rsplit("/", 1)[1]).location
    assert [row.th.text.strip() for row in hands.page(over).select("tbody tr")] == ["2 Marram Row"]
    hands.unit = units["3 Dune Road"]
    hands.begin("check-up")
    assert "0 of 1 done" in hands.page(over).text, "a unit of no round counts in none"
    assert newcomer().client.get(planned).status_code == 404


def test_a_unit_is_somewhere_and_its_label_opens_it(hands, newcomer, soup):
    unit = hands.post("/units", **KIT | {"label": "Plant room"}).location
    typed = {
        "place": "Marram Row",
        "door": "12",
        "on_site": "roof",
        "tags": "spare key, dog,dog",
        "note": "Ring.",
    }
    for bad, field in (
        ({"door": "x"}, "door"),
        ({"tags": "x" * 41}, "tags"),
        ({"place": "x" * 201}, "place"),
    ):
        answer = hands.client.post(f"{unit}/where", data=typed | bad)
        page = soup(answer)
        assert answer.status_code == 422 and page.select_one(f"#{field}-error"), bad
        assert page.select_one("#on_site")["value"] == "roof", "what was typed stays"
    hands.post(f"{unit}/where", **typed)
    for words in ("marram 12", "spare", "roof", "ring"):
        assert "Plant room" in hands.page(f"/search?words={words.replace(' ', '+')}").text, words
    label = hands.page(f"{unit}/label").select_one(".unit-label")
    address = f"http://localhost{unit}"
    assert label.select_one(".tags").text == "spare key · dog" and address in label.text
    drawn = label.select_one("svg.code")
    due = segno.make(address, error="m", micro=False)
    assert drawn["viewbox"] == "0 0 {0} {0}".format(due.symbol_size(border=4)[0])
    assert newcomer().client.get(f"{unit}/label").status_code == 404


def test_the_first_page_of_a_shop_of_any_shape(hands):
    """Nothing; loose units; a round whose doors make a street, and one whose don't; a call beside it."""
    assert "No units yet" in hands.page("/").text
    units = [hands.post("/units", **KIT | {"label": f"Number {n}"}).location for n in range(1, 7)]
    assert [b.text for b in hands.page("/").select("a.line b")] == [f"Number {n}" for n in range(1, 7)]
    for n, unit in enumerate(units[:4], start=1):
        hands.post(f"{unit}/where", place="Marram Row", door=str(n), tags="street")
    for unit in units[4:5]:
        hands.post(f"{unit}/where", place="Mill", tags="street")
    hands.post("/rounds", title="Autumn", words="street")
    page = hands.page("/")
    assert [d.text for d in page.select(".lane .door")] == ["1", "3", "2", "4"]
    listed = {h.h2.text: [b.text for b in h.select("a.line b")] for h in page.select("main section") if h.h2}
    assert listed == {"Mill": ["Number 5"], "Elsewhere": ["Number 6"]}
    hands.unit = units[5]
    hands.begin("no-heat")
    calls = hands.page("/").select_one("section.sheet")
    assert calls.h2.text == "Calls today" and "→ under way: No heat at all, A Lead" in " ".join(
        calls.text.split()
    )
    hands.unit = units[0]
    hands.begin("check-up")
    page = hands.page("/")
    assert page.select_one(".house.is-in-progress")["href"] == hands.bench
    assert len(page.select("section.sheet a.line")) == 1, "a stop of the round is drawn, not listed"
