"""The catalogues of the other languages, held against the tables: renewed here, edited by hand between."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from string import Formatter

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

from plentar.words.language import DOMAIN, LANGUAGES, TRANSLATIONS, translations
from plentar.words.tables import TEXTS, Text

#: Every catalogue counts as Spanish does: one, and any other number.
_PLURALS = "nplurals=2; plural=(n != 1);"
#: A catalogue is dated by its history in the repository, not by the hour of a run.
_DATED = datetime(2026, 12, 1)


def others() -> list[str]:
    """The languages that are written in catalogues: all but English."""
    return [language for language in LANGUAGES if language != "en"]


def renew(language: str) -> int:
    """Bring a catalogue to the codes and texts of the tables, and compile it.

    A text whose English has changed loses its translation. Returns how many are left to translate.
    """
    po = _po(language)
    known = _read(po)
    catalogue = Catalog(
        locale=language,
        domain=DOMAIN,
        project="Plentar",
        header_comment="# What Plentar says, by code; python -m plentar words renews it.",
        creation_date=_DATED,
        revision_date=_DATED,
        fuzzy=False,
    )
    catalogue.mime_headers = [("Plural-Forms", _PLURALS)]
    lacking = 0
    for code, text in sorted(TEXTS.items()):
        old = known.get(code)
        said = old[1] if old is not None and old[0] == text else None
        catalogue.add(text, said, context=code)
        lacking += said is None
    po.parent.mkdir(parents=True, exist_ok=True)
    with po.open("wb") as file:
        write_po(file, catalogue, width=100)
    with po.with_suffix(".mo").open("wb") as file:
        write_mo(file, catalogue)
    return lacking


def faults(language: str) -> Iterator[str]:
    """What is wrong with a catalogue: texts that lack, that are stale, whose places are others."""
    known = _read(_po(language))
    for code, text in TEXTS.items():
        if code not in known:
            yield f"{code}: lacks"
            continue
        english, said = known[code]
        if english != text:
            yield f"{code}: stale"
        elif said is None:
            yield f"{code}: not translated"
        elif _compiled(language, code, text) != said:
            yield f"{code}: not compiled"
        elif places(said) != places(text):
            yield f"{code}: {sorted(places(said))} for {sorted(places(text))}"
    yield from (f"{code}: of no table" for code in known.keys() - TEXTS.keys())


def places(text: Text) -> set[str]:
    """The places of a text, whichever of its two forms has them."""
    forms = (text,) if isinstance(text, str) else text
    return {name for form in forms for _, name, _, _ in Formatter().parse(form) if name}


def _read(po: Path) -> dict[str, tuple[Text, Text | None]]:
    if not po.exists():
        return {}
    with po.open("rb") as file:
        catalogue = read_po(file)
    return {
        str(message.context): (_text(message.id), _text(message.string) if _whole(message.string) else None)
        for message in catalogue
        if message.context
    }


def _compiled(language: str, code: str, text: Text) -> Text:
    catalogue = translations(language)
    if isinstance(text, str):
        return str(catalogue.pgettext(code, text))
    one, many = (str(catalogue.npgettext(code, *text, number)) for number in (1, 2))
    return one, many


def _text(written: object) -> Text:
    return (str(written[0]), str(written[1])) if isinstance(written, list | tuple) else str(written)


def _whole(written: object) -> bool:
    return all(written) if isinstance(written, list | tuple) else bool(written)


def _po(language: str) -> Path:
    return TRANSLATIONS / language / "LC_MESSAGES" / f"{DOMAIN}.po"
