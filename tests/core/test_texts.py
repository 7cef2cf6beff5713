"""What is said: that every use has its text, every text its translation, and no text a word we don't say."""

from __future__ import annotations

import ast
import re
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

import plentar
from plentar.core.said import figure, listed, plain, say, span
from plentar.words import speaking, text
from plentar.words.catalogue import faults, others, places
from plentar.words.heard import hear
from plentar.words.language import translations
from plentar.words.spoken import SHAPES
from plentar.words.tables import TEXTS

SOURCE = Path(plentar.__file__).parent
CALL = re.compile(r"""say\(\s*["']([^"']+)["']((?:[^()]|\((?:[^()]|\([^()]*\))*\))*)\)""")
#: Codes that are put together from a word of the contract: their beginnings.
FROM_WORDS = tuple(
    f"{head}."
    for head in ["threshold", "source", "unit", "part", "tolerance", "word", "meter", "quantity", "material", "power", "action", "seen", "felt", "look", "level", "sureness", "complaint", "outcome", "parts", "when", "stands", "visit.evidence.dead-only", "list", "owner", "choice", "finding", "reading-card", "script", "strip-power", "archived", "help", "operate.refused", "practice.theme", "practice.coaching", "practice.faults", "practice.seen", "practice.harm", "practice.kind", "practice.skill", "practice.wires", "practice.coil", "practice.misset", "practice.way", "practice.grade"]
)  # fmt: skip


def uses() -> Iterator[tuple[str, str, set[str]]]:
    """Where, which code, with which values: of every use whose code stands in the source."""
    for file in sorted(SOURCE.rglob("*.py")):
        for call in ast.walk(ast.parse(file.read_text())):
            if isinstance(call, ast.Call) and getattr(call.func, "id", "") in ("say", "phrase") and call.args:
                codes = call.args[0]
                for code in (codes.body, codes.orelse) if isinstance(codes, ast.IfExp) else (codes,):
                    if isinstance(code, ast.Constant):
                        values = {str(k.arg) for k in call.keywords}
                        yield f"{file.name}:{call.lineno}", str(code.value), values
    for file in sorted(SOURCE.rglob("*.html")):
        for code, values in CALL.findall(file.read_text()):
            yield file.name, code, set(re.findall(r"[,(]\s*(\w+)=(?!=)", values))


def test_every_use_has_its_text_and_fills_its_places() -> None:
    wrong = []
    for where, code, values in uses():
        if code in SHAPES or not code or code.endswith("."):
            continue
        if code not in TEXTS:
            wrong.append(f"{where}: {code} has no text")
        elif "None" not in values and not places(TEXTS[code]) <= values:
            wrong.append(f"{where}: {code} lacks {sorted(places(TEXTS[code]) - values)}")
    assert not wrong


def test_every_text_is_used() -> None:
    """By its code as a whole somewhere in the source, or by the word of the contract that it stands for."""
    written = {
        node.value
        for file in SOURCE.rglob("*.py")
        if "english" not in file.parts
        for node in ast.walk(ast.parse(file.read_text()))
        if isinstance(node, ast.Constant) and isinstance(node.value, str)
    }
    for file in SOURCE.rglob("*.html"):
        written.update(re.findall(r"""["']([\w.-]+)["']""", file.read_text()))
    unused = [c for c in TEXTS if c.removesuffix(".the") not in written and not c.startswith(FROM_WORDS)]
    assert not unused


@pytest.mark.parametrize("language", others())
def test_a_catalogue_is_whole(language: str) -> None:
    """Every text, none that is stale or not compiled, the same places in both."""
    assert not list(faults(language))


def forms(language: str) -> Iterator[tuple[str, str, str]]:
    """Each text, both forms of those that have two: its code, in English, in the language."""
    catalogue = translations(language)
    for code, said in TEXTS.items():
        if isinstance(said, str):
            yield code, said, str(catalogue.pgettext(code, said))
        else:
            for number, form in enumerate(said, 1):
                yield code, form, str(catalogue.npgettext(code, *said, number))


#: Words and abbreviations of both languages: a text of nothing else may be the same in both.
ALIKE = {
    "es": "archive auto awg btu bytes cable capacitor color com conductor contactor dpdt ecm fla hz kw label metal min"
    " motor nc nec nm no nominal ol panel pdf plentar provisional psc bits spdt terminal vr vr²"
}


@pytest.mark.parametrize("language", others())
def test_what_is_alike_in_both_languages_was_looked_at(language: str) -> None:
    """A translation that is its English again is a word of both, or was forgotten."""
    alike = [(code, said) for code, english, said in forms(language) if english == said]
    assert not [
        (code, said) for code, said in alike if set(words_of(said.lower())) - set(ALIKE[language].split())
    ]


@pytest.mark.parametrize(("language", "dictionary"), [("en", "en_US"), ("es", "es_ES")])
def test_every_word_is_of_a_dictionary_or_of_our_own_list(language: str, dictionary: str) -> None:
    """Own words, one a line, are in ``.ci/spelling``; none there that no text has."""
    words = sorted({word for _, _, said in forms(language) for word in words_of(said, least=1)})
    command = ["hunspell", "-l", "-i", "UTF-8", "-d", dictionary]
    strange = subprocess.run(command, input="\n".join(words), capture_output=True, text=True, check=True)
    own = (Path(__file__).parents[2] / ".ci/spelling" / f"{language}.txt").read_text().split()
    assert set(strange.stdout.split()) == set(own)


def words_of(said: str, least: int = 2) -> list[str]:
    """The words of a text, without its places."""
    found = re.findall(r"[^\W\d_]+(?:'[^\W\d_]+)*", re.sub(r"{.*?}", " ", said).replace("’", "'"))
    return [word for word in found if len(word) >= least]


def test_the_core_composes_no_sentence() -> None:
    """Three words in a row stand in the core only as docstrings and as errors of its programmers."""
    found = []
    for file in sorted((SOURCE / "core").rglob("*.py")):
        tree = ast.parse(file.read_text())
        apart = {id(node) for node in ast.walk(tree) if isinstance(node, ast.Expr) for node in ast.walk(node)}
        for node in ast.walk(tree):
            if isinstance(node, ast.Raise | ast.Assert):
                apart |= {id(inner) for inner in ast.walk(node) if not _says(node)}
        found += [
            f"{file.name}:{node.lineno}: {node.value}"
            for node in ast.walk(tree)
            if isinstance(node, ast.Constant)
            and isinstance(node.value, str)
            and id(node) not in apart
            and re.search(r"[A-Za-z]{2,} [A-Za-z]+ [A-Za-z]{2,}", node.value)
        ]
    assert not found


def _says(node: ast.AST) -> bool:
    """Whether what is raised is told to people."""
    return any(isinstance(n, ast.Name) and n.id in ("BadInput", "PlentarError") for n in ast.walk(node))


#: What a technician would not say aloud, and what the glossary says otherwise.
NEVER = (
    r"somebody", r"it is said", r"so many", r"anew", r"points to", r"speaks? (for|against)", r"\bin band\b",
    r"suspects?\b", r"hand over", r"once more before", r"look around", r"what it would mean", r"the best so far",
    r"could not be judged", r"narrower", r"the drawer", r"in the hand\b", r"tone tells", r"\bdue\b(?! (to|by))",
    r"tell nothing", r"breakers off\b", r"the one until now", r"is broken", r"has melted", r"\bwhat is\b",
    r"\.line\.l[12]", r"C\d\.l[12]", r"\.\.",
)  # fmt: skip


@pytest.mark.parametrize("word", NEVER)
def test_no_text_has_a_word_that_we_do_not_say(word: str) -> None:
    forms = ((code, form) for code, t in TEXTS.items() for form in ((t,) if isinstance(t, str) else t))
    said = ((code, re.sub(r"\{\w+(![ct])?\}", "", form)) for code, form in forms)
    assert not [(code, form) for code, form in said if re.search(word, form, re.IGNORECASE)]


def test_values_are_put_into_their_places_as_the_language_does_it() -> None:
    """By hand: an article, a capital, one and many, *y* before *i*, *del*, a narrow space, no space in a range."""
    e1, limit = say("part.element", mark="E1"), say("part.limit", mark="TL1")
    assert text(figure(20.44, "A")) == "20.4\u202fA"
    assert text(figure(None, "A")) == "not measured"
    assert text(figure(0.0601, "V")) == "0.060\u202fV"
    assert text(plain(5.0, "kW")) == "5\u202fkW"
    assert text(span(18.0, 22.5, "A")) == "18.0–22.5\u202fA"
    assert text(span(0.0, 2.0, "W")) == "up to 2.00\u202fW"
    assert text(listed([e1, limit])) == "element E1 and limit TL1"
    with speaking("es"):
        assert text(listed([limit, e1], "or")) == "limitador TL1 o resistencia E1"
        assert text(figure(None, "A")) == "sin medir"
    assert hear("18.0–22.5\u202fA, 1\u202fV, 12\u202fCFM and C1") == (
        "18.0 to 22.5 amps, 1 volt, 12 cubic feet per minute and C1"
    )
    with speaking("es"):
        assert hear("18.0–22.5\u202fkΩ") == "18.0 a 22.5 kilohmios"
    open_one = say("safety.bars.breaker-stays-open", n=1, hit="C1")
    assert text(open_one) == "Leave the breaker of C1 open"
    with speaking("es"):
        assert text(open_one) == "Deje abierto el disyuntor de C1"
