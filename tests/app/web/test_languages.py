"""The program in each of its languages: what it is asked for is what it speaks, on every page, to its end."""

from __future__ import annotations

import re
from calendar import month_abbr, month_name
from collections.abc import Iterator

import pytest
from bs4 import BeautifulSoup, Comment, NavigableString

from plentar.core.judgement import FindingCode
from plentar.core.visit.events import COMPLAINTS, LOOK_ITEMS, OUTCOMES
from plentar.files.sheet_settings import SCALES
from plentar.store.demo.plates import plates
from plentar.web import showing
from plentar.web.handover import owner, plain
from plentar.words import LANGUAGES, PSEUDO, speaking
from tests.app import calls

#: Attributes that are read aloud or shown.
READ = ("aria-label", "title", "placeholder", "alt", "aria-description")
MOST_PAGES = 200
#: What stands on pages and is no text of ours: what was typed, names, marks of points, dates, addresses.
DATA = re.compile(
    "|".join(
        (
            *map(
                re.escape,
                (
                    "7 Saltmarsh Lane, roof",
                    calls.LOCKED,
                    "new lug, wire cut back",
                    "Lug is new.",
                    "read by hand before",
                    "A Lead",
                    *LANGUAGES.values(),
                    *SCALES.values(),
                    *filter(None, (*month_name, *month_abbr)),
                ),
            ),
            r"New shop \d+",
            r"https?://\S+",
            r"Werkzeug/\S+",
            r"\b[A-Z]+\d*\.[a-z]\w*",
            r"\bnew\d+",
        )
    )
)
#: Words of a button, letters of a caution, words of a head: at most.
BUTTON, CAUTION, HEAD = {"en": 3, "es": 5}, {"en": 140, "es": 180}, {"en": 8, "es": 11}


def pages(client, *starts: str, most: int = MOST_PAGES) -> Iterator[tuple[str, BeautifulSoup]]:
    """Every page that a link leads to, each kind a few times."""
    seen, waiting = set(), [*starts, "/", "/help"]
    while waiting and len(seen) < most:
        path = waiting.pop(0)
        kind = re.sub(r"[0-9a-f-]{36}|\d+", "*", path)
        kind = re.sub(r"at=[^&]+(?=&quantity)|on=[^&]+", "*", kind)  # each part once, each quantity once
        if kind in seen:
            continue
        seen.add(kind)
        answer = client.get(path, follow_redirects=True)
        if answer.mimetype != "text/html":
            answer.close()
            continue
        assert answer.status_code < 500, path
        page = BeautifulSoup(answer.text, "html.parser")
        if not path.endswith("/owner"):  # which is in the owner's language
            yield path, page
        for link in page.select("a[href]"):
            href = str(link["href"]).split("#")[0]
            if href.startswith("/") and "sign-out" not in href:
                waiting.append(href)


def said(page: BeautifulSoup) -> Iterator[str]:
    """Every run of text that is shown or read aloud, a block at a time."""
    for tag in page.select("script, style, code, pre, input[type=hidden]"):
        tag.decompose()
    for block in page.find_all(["p", "li", "td", "th", "dt", "dd", "h1", "h2", "h3", "button", "label", "a", "text", "summary", "legend", "option", "caption", "title", "desc", "div", "span", "small"]):  # fmt: skip
        own = "".join(
            str(c) for c in block.children if isinstance(c, NavigableString) and not isinstance(c, Comment)
        )
        if own.strip():
            yield (
                " ".join(block.get_text(" ").split())
                if block.name in ("button", "h1", "h2")
                else " ".join(own.split())
            )
    for tag in page.find_all(True):
        for attribute in READ:
            if tag.get(attribute):
                yield str(tag[attribute])


def bare(text: str) -> str:
    """What of a text stands outside of all brackets."""
    out, depth = [], 0
    for letter in text:
        depth += (letter == "[") - (letter == "]")
        if depth <= 0 and letter != "]":
            out.append(letter)
    return "".join(out)


@pytest.fixture
def worked(hands, somebody):
    """The hands of a shop in which a call was taken from plate to sheet, by whatever they typed."""
    calls.melted_lug(hands)
    hands.post("/rounds", title="7 Saltmarsh Lane, roof", words="Saltmarsh")
    hands.begin("no-heat")
    hands.on()
    hands.read("C1", "volts", 241)
    return hands


def test_every_text_of_every_page_is_of_the_catalogue(worked, monkeypatch):
    """In the language whose every text is in brackets nothing of ours stands outside of them."""
    monkeypatch.setattr(showing, "_asked_for", lambda: PSEUDO)
    found: dict[str, str] = {}
    seen = 0
    for path, page in pages(worked.client, worked.bench, worked.unit):
        seen += 1
        for text in said(page):
            for word in re.findall(r"[^\W\d_]{4,}", bare(DATA.sub("", text))):
                found.setdefault(word.lower(), f"{path}: {text[:150]}")
    assert seen > 30
    assert not found, "\n".join(f"{k} | {v}" for k, v in sorted(found.items()))


def test_every_text_of_a_sheet_is_of_the_catalogue(worked, monkeypatch):
    """The owner's, which the PDF is laid out from too, and the technician's."""
    monkeypatch.setattr(showing, "_asked_for", lambda: PSEUDO)
    monkeypatch.setattr(owner, "speaking", lambda _language: speaking(PSEUDO))
    worked.client.post(f"{worked.bench}/close", data={"outcome": "left-off", "left_note": "Lug is new."})
    sheets = [
        BeautifulSoup(worked.client.get(f"{worked.bench}/{of}").text, "html.parser")
        for of in ("owner", "report")
    ]
    words = {
        word
        for page in sheets
        for text in said(page)
        for word in re.findall(r"[^\W\d_]{4,}", bare(DATA.sub("", text)))
    }
    assert all(len(list(said(page))) > 10 for page in sheets) and not words


@pytest.mark.parametrize("language", LANGUAGES)
def test_pages_speak_one_language_and_briefly(worked, monkeypatch, language):
    monkeypatch.setattr(showing, "_asked_for", lambda: language)
    wrong = []
    most = MOST_PAGES if language != "en" else MOST_PAGES // 3
    for path, page in pages(worked.client, worked.bench, worked.unit, most=most):
        assert page.html["lang"] == language, path
        for button in page.select("button"):
            words = [word for word in button.get_text(" ").split() if re.search(r"[^\W\d_]", word)]
            if len(words) > BUTTON[language] and "everywhere" not in words:
                wrong.append(f"{path}: button: {' '.join(words)}")
        for caution in page.select(".caution"):
            for line in caution.select("li") or [caution]:
                text = " ".join(line.get_text(" ").split())
                if len(text) > CAUTION[language]:
                    wrong.append(f"{path}: {len(text)}: {text}")
        for head in page.select("h1, h2, h3"):
            ours = " ".join(head.get_text(" ").split()).split(" · ")[0]
            if len(ours.split()) > HEAD[language]:
                wrong.append(f"{path}: head: {ours}")
        for text in said(page):
            if re.search(r"(?<!\.)\.\.(?!\.)|\{\w+\}|\bNone\b(?!\.| yet)", text):
                wrong.append(f"{path}: {text}")
    assert not wrong, "\n".join(wrong)


def test_every_finding_part_and_end_has_words_for_an_owner():
    assert set(plain.CAME) == set(COMPLAINTS) and set(plain.LEFT) == set(OUTCOMES)
    assert set(plain.LOOKED) == set(LOOK_ITEMS)
    assert set(plain.FOUND) == set(FindingCode) - {FindingCode.CONTRADICTION}
    for unit in plates().values():
        for language in LANGUAGES:
            with speaking(language):
                for component in sorted(unit.components | unit.workable):
                    for code in plain.FOUND:
                        words = str(plain.found_words(unit, code, component))
                        assert "{" not in words and words[0].isupper() | (words[0] in "€¿"), words
