"""The owner's languages: every text translated, its places kept, and what ships is what stands there."""

from __future__ import annotations

import re
import string

import pytest
from babel.messages.mofile import read_mo
from babel.messages.pofile import read_po
from flask_babel import force_locale

from plentar.core.judgement import FindingCode
from plentar.core.visit.events import COMPLAINTS, LOOK_ITEMS, OUTCOMES
from plentar.files.sheet_settings import LANGUAGES
from plentar.store.demo.plates import plates
from plentar.web.handover import plain
from tests.app.conftest import HOME

TRANSLATIONS = HOME / "src/plentar/web/translations"
TEMPLATES = HOME / "src/plentar/web/templates/sheets"


def said_by(language: str):
    with (TRANSLATIONS / language / "LC_MESSAGES/messages.po").open("rb") as file:
        return {message.id: message.string for message in read_po(file) if message.id}


def marked() -> set[str]:
    """Every text that the sheets mark as theirs, read from their sources by another way."""
    sources = [HOME / "src/plentar/web/handover/plain.py", HOME / "src/plentar/web/handover/sheet.py"]
    sources += TEMPLATES.glob("*.html")
    found = set()
    for source in sources:
        text = source.read_text(encoding="utf-8")
        found |= set(re.findall(r"""(?:\b_|gettext)\(\s*(?P<q>["'])(.+?)(?P=q)\s*\)""", text))
    return {words for _, words in found}


@pytest.mark.parametrize("language", sorted(LANGUAGES.keys() - {"en"}))
def test_every_text_is_translated_with_its_places(language):
    said = said_by(language)
    assert marked() == set(said), "the catalogue is stale"
    places = string.Formatter().parse
    for source, text in said.items():
        assert text, source
        assert {p for _, p, _, _ in places(source)} == {p for _, p, _, _ in places(text)}, source
    with (TRANSLATIONS / language / "LC_MESSAGES/messages.mo").open("rb") as file:
        shipped = {message.id: message.string for message in read_mo(file) if message.id}
    assert shipped == said, "compile it: pybabel compile -d src/plentar/web/translations"


def test_every_finding_part_and_end_has_words_for_an_owner(app):
    assert set(plain.CAME) == set(COMPLAINTS) and set(plain.LEFT) == set(OUTCOMES)
    assert set(plain.LOOKED) == set(LOOK_ITEMS)
    inner = {FindingCode.CONTRADICTION}
    assert set(plain.FOUND) == set(FindingCode) - inner
    for unit in plates().values():
        for language in LANGUAGES:
            with app.test_request_context(), force_locale(language):
                for component in sorted(unit.components | unit.workable):
                    for code in plain.FOUND:
                        words = plain.found_words(unit, code, component)
                        assert "{" not in words and words[0].isupper() | (words[0] in "€¿"), words
