"""A verdict as a shape, so that no state is told by colour alone.

Each shape says what it means: a mark between two posts is in its band; a mark under or over a
post is low or high; a broken line is dead or open.
"""

from __future__ import annotations

from plentar.core.expected import Word
from plentar.core.said import say
from plentar.core.visit.events import OFF, ON, PROVED_DEAD
from plentar.words import phrase

_POSTS = '<path d="M3 3v14M17 3v14"/>'
_SHAPES = {
    Word.IN_BAND: _POSTS + '<circle class="solid" cx="10" cy="10" r="3.6"/>',
    Word.LOW: '<path d="M3 4h14M10 8v8M6 12.5l4 4 4-4"/>',
    Word.HIGH: '<path d="M3 16h14M10 12V4M6 7.5l4-4 4 4"/>',
    Word.DEAD: '<path d="M2 10h4.5M13.5 10H18M7 5l6 10M13 5L7 15"/>',
    Word.OPEN: '<path d="M2 10h5M13 10h5M7 5v10M13 5v10"/>',
    Word.CLOSED: '<path d="M2 10h16M7 5v10M13 5v10"/>',
    Word.UNCLEAR: '<path d="M3 12c2.5-6 4.5-6 7-2s4.5 4 7-2"/>',
    Word.NOT_JUDGED: '<path d="M4 10h2M9 10h2M14 10h2"/>',
    Word.NOT_MEASURED: '<circle cx="10" cy="10" r="6.5" stroke-dasharray="3 3"/>',
}
WORDS = {
    Word.IN_BAND: say("drawing.glyphs.band"),
    Word.NOT_JUDGED: say("drawing.glyphs.no-verdict"),
    Word.NOT_MEASURED: say("drawing.glyphs.not-measured"),
}


def shape(word: Word) -> str:
    """The inside of a 20 × 20 picture of a verdict."""
    return _SHAPES[word]


def glyph(word: Word) -> str:
    """A verdict's shape as a picture of its own; the word stands beside it in the page."""
    return f'<svg class="glyph" viewBox="0 0 20 20" aria-hidden="true">{_SHAPES[word]}</svg>'


def in_words(word: Word, provisional: bool = False) -> str:
    said = WORDS.get(word) or phrase(f"word.{word}")
    return phrase("drawing.glyphs.provisional", said=said) if provisional else str(said)


def tone(word: Word, good: bool | None) -> str:
    """Which of the few tones paints a verdict: good, low, high, bad, open or plain."""
    if good:
        return "good"
    if word in (Word.LOW, Word.HIGH):
        return str(word)
    if word is Word.DEAD or good is False:
        return "bad"
    return "plain"


_POWER = {
    ON: '<path class="solid" d="M11 1L4 11h4l-1 8 8-11h-5z"/>',
    OFF: '<path d="M4 14L15 6M4 14h-3M16 14h3"/>',
    PROVED_DEAD: '<path d="M5 9h10v8H5zM7 9V6a3 3 0 0 1 6 0v3"/>',
}


def power_glyph(state: str) -> str:
    return f'<svg viewBox="0 0 20 20" aria-hidden="true">{_POWER[state]}</svg>'
