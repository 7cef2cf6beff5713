"""Help: ten short pages, searched by their words, and which of them belongs to which screen."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from markupsafe import Markup

from plentar.core.expected import Word
from plentar.core.said import say
from plentar.core.unit.parts import Element, Limit, Link
from plentar.drawing.symbols import COIL, contact, symbol
from plentar.web.showing import verdict
from plentar.words import phrase
from plentar.words.tables import TEXTS

SAFETY = "safety"
#: The pages, in their order.
PAGES = (
    SAFETY, "drawing", "readings", "causes", "stops", "tape", "relay-bench", "plate", "close-out", "shop",
)  # fmt: skip
#: The page that explains a screen, by the blueprint of its route.
OF_SCREEN: Mapping[str, str] = {
    "visits": "drawing",
    "guided": "drawing",
    "work": "drawing",
    "tape": "tape",
    "logs": "tape",
    "devices": "relay-bench",
    "kinds": "relay-bench",
    "units": "plate",
    "places": "plate",
    "quick": "readings",
    "handover": "close-out",
    "reports": "close-out",
    "photos": "close-out",
    "lane": "shop",
    "pocket": "drawing",
    "practice": "drawing",
    "rounds": "shop",
    "search": "shop",
    "parts": "shop",
    "shop": "shop",
    "people": "shop",
    "auth": "shop",
}
#: Each mark with what it means: the verdict, whether it is good, and the words.
_VERDICTS = (
    (Word.IN_BAND, True, say("pages.routes.between-what-due-least")),
    (Word.LOW, False, say("pages.routes.less-than-due")),
    (Word.HIGH, False, say("pages.routes.more-than-due")),
    (Word.DEAD, False, say("pages.routes.no-current-where-due")),
    (Word.OPEN, None, say("pages.routes.line-volts-or-no")),
    (Word.CLOSED, None, say("pages.routes.near-zero-across-part")),
    (Word.UNCLEAR, None, say("pages.routes.between-ghost-or-half")),
    (Word.NOT_JUDGED, None, say("pages.routes.nothing-due-here-yet")),
    (Word.NOT_MEASURED, None, say("pages.routes.nobody-has-read-never")),
)


@dataclass(frozen=True, slots=True)
class HelpPage:
    """A page: its title, and its lines, each with the mark that it speaks of, if any."""

    name: str
    title: str
    lines: tuple[tuple[Markup | None, str], ...]

    def has(self, words: str) -> bool:
        """Whether each word stands somewhere on it, whatever its accents and capitals."""
        text = _bare(" ".join([self.title, *(line for _, line in self.lines)]))
        return all(word in text for word in _bare(words).split())


def help_page(name: str) -> HelpPage:
    """A page in the language that is spoken. Raises KeyError where there is none of the name."""
    if name not in PAGES:
        raise KeyError(name)
    start, title = f"help.{name}.", f"help.{name}.title"
    codes = [code for code in TEXTS if code.startswith(start) and code != title]
    lines = [(_MARKS[code]() if code in _MARKS else None, phrase(code)) for code in codes]
    return HelpPage(name, phrase(title), (*lines, *(_verdicts() if name == "readings" else ())))


def search(words: str) -> list[HelpPage]:
    """The pages on which each of the words stands, with those lines alone that have one of them."""
    found = [page for page in map(help_page, PAGES) if page.has(words)]
    return [
        replace(page, lines=tuple(line for line in page.lines if _meets(line[1], words))) for page in found
    ]


def _meets(line: str, words: str) -> bool:
    return any(word in _bare(line) for word in _bare(words).split())


def _bare(text: str) -> str:
    parts = unicodedata.normalize("NFKD", text.casefold())
    return "".join(letter for letter in parts if not unicodedata.combining(letter))


def _verdicts() -> list[tuple[Markup | None, str]]:
    shown = [(verdict(word, good), str(said)) for word, good, said in _VERDICTS]
    provisional = verdict(Word.IN_BAND, True, provisional=True)
    return [*shown, (provisional, phrase("pages.routes.provisional-volts-lugs-not"))]


def _drawn(picture: str) -> Markup:
    """A part as the drawing has it."""
    return Markup(
        '<svg class="unit mark" viewBox="-34 -20 68 40" width="68" height="40" aria-hidden="true">{}</svg>'
    ).format(Markup(picture))


_MARKS: Mapping[str, Callable[[], Markup]] = {
    "help.drawing.element": lambda: _drawn(symbol(Element("E1", 5000.0, 240.0, "C1", ("E1",)))),
    "help.drawing.switch": lambda: _drawn(contact(closed=False)),
    "help.drawing.limit": lambda: _drawn(symbol(Limit("TL1"))),
    "help.drawing.link": lambda: _drawn(symbol(Link("FL1"))),
    "help.drawing.coil": lambda: _drawn(COIL),
}
