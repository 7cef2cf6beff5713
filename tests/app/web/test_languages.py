"""The program in each of its languages: what it is asked for is what it speaks, on every page, to its end."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import urlsplit

import pytest
from bs4 import BeautifulSoup, Comment, NavigableString

from plentar.core.judgement import FindingCode
from plentar.core.visit.events import COMPLAINTS, LOOK_ITEMS, OUTCOMES
from plentar.store.demo.plates import plates
from plentar.web import showing
from plentar.web.handover import plain
from plentar.words import LANGUAGES, PSEUDO, speaking

#: Attributes that are read aloud or shown.
READ = ("aria-label", "title", "placeholder", "alt", "aria-description")
#: What stands on pages and is no text of ours: marks, units, what people typed.
MOST_PAGES = 140


def worked_visit(me) -> None:
    """A visit with something on most of its panels."""
    bench = me.start_visit("no-heat")
    for at, quantity, value in (("C1", "volts", "238"), ("C1", "amps", "20.1"), ("E1", "amps", "0.1")):
        me.read(bench, at, quantity, value)
    proof = ["off-C1", "known-live", "all-dead", "known-live-again"]
    me.power(bench, "proved-dead", proof) if hasattr(me, "power") else None


def pages(client, start: str = "/") -> Iterator[tuple[str, BeautifulSoup]]:
    """Every page that a link leads to, each kind a few times."""
    seen, waiting = set(), [start, "/help", "/numbers"]
    while waiting and len(seen) < MOST_PAGES:
        path = waiting.pop(0)
        kind = re.sub(r"[0-9a-f-]{36}|\d+", "*", path.split("?")[0]) + "?" + "&".join(
            sorted(part.split("=")[0] for part in urlsplit(path).query.split("&"))
        )
        if kind in seen:
            continue
        seen.add(kind)
        answer = client.get(path, follow_redirects=True)
        if answer.mimetype != "text/html":
            continue
        assert answer.status_code < 500, path
        page = BeautifulSoup(answer.text, "html.parser")
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
        own = "".join(str(c) for c in block.children if isinstance(c, NavigableString) and not isinstance(c, Comment))
        if own.strip():
            yield " ".join(block.get_text(" ").split()) if block.name in ("button", "h1", "h2") else " ".join(own.split())
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


def test_every_text_of_every_page_is_of_the_catalogue(somebody, monkeypatch):
    """In the language whose every text is in brackets nothing of ours stands outside of them."""
    me = somebody()
    worked_visit(me)
    monkeypatch.setattr(showing, "_asked_for", lambda: PSEUDO)
    found: dict[str, str] = {}
    count = 0
    for path, page in pages(me.client):
        count += 1
        if '/visits/' in path and path.count('/')==2: open('/tmp/w/bench.html','w').write(str(page))
        if path.endswith('/judge'): open('/tmp/w/judge.html','w').write(str(page))
        for text in said(page):
            for word in re.findall(r"[A-Za-z]{4,}", bare(text)):
                found.setdefault(word.lower(), f"{path}: {text[:150]}")
    print(count)
    for k, v in sorted(found.items()): print(k, "|", v)
    assert not found
