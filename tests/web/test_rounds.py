"""A round planned over any units, taken, half done, carried over."""

from __future__ import annotations

from tests.hands import KIT, Posting


def test_a_round_is_planned_half_done_and_carried_over(newcomer, earlier, soup):
    me = newcomer()
    hands = Posting(earlier, client=me.client)
    units = {
        label: hands.post("/units", **KIT | {"label": label}).location
        for label in ("1 Marram Row", "2 Marram Row", "3 Dune Road")
    }
    for bad in ({"title": " "}, {"title": "x", "words": "nowhere"}, {"title": "x", "due_on": "soon"},
                {"title": "x", "left_by": "y"}):  # fmt: skip
        assert me.client.post("/rounds", data=bad).status_code == 422, bad
    planned = hands.post("/rounds", title="Autumn", words="marram", due_on="2026-12-24").location
    assert me.client.post("/rounds", data={"title": "Autumn"}).status_code == 422, (
        "the name is taken"
    )
    page = hands.page(planned)
    rows = [row.th.text.strip() for row in page.select("tbody tr")]
    assert rows == ["1 Marram Row", "2 Marram Row"] and "0 of 2 done" in page.text
    boxes = [box["value"] for box in page.select("input[name=unit]")]
    person = next(o["value"] for o in page.select("#who option") if o.text == "A Lead")
    hands.post(f"{planned}/assign", unit=boxes[0], who=person)
    assert me.client.post(f"{planned}/assign", data={"who": person}).status_code == 422
    assert (
        me.client.post(f"{planned}/assign", data={"unit": boxes[0], "who": boxes[0]}).status_code
        == 422
    )
    hands.unit = units["1 Marram Row"]
    hands.begin("check-up")
    assert "→ under way" in hands.page(planned).select("tbody tr")[0].text
    hands.close(note="All well.")
    first = hands.page(planned).select("tbody tr")[0].text
    assert "● done" in first and "A Lead" in first
    assert "1 of 2" in hands.page("/rounds").text
    over = hands.post("/rounds", title="Winter", left_by=planned.rsplit("/", 1)[1]).location
    assert [row.th.text.strip() for row in hands.page(over).select("tbody tr")] == ["2 Marram Row"]
    hands.unit = units["3 Dune Road"]
    hands.begin("check-up")
    assert "0 of 1 done" in hands.page(over).text, "a unit of no round counts in none"
    assert newcomer().client.get(planned).status_code == 404
