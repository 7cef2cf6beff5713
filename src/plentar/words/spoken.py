"""A code and its values → a text in the language that is spoken."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable, Mapping
from functools import lru_cache
from string import Formatter

from plentar.core.said import Said, say
from plentar.words import numbers
from plentar.words.language import PSEUDO, language, translations
from plentar.words.tables import TEXTS

Value = Said | str | int | float | tuple[Said | str, ...]
#: A piece of a text: what stands there, or the place of a value and how it is put in.
Piece = tuple[str, str | None, str | None]
_ENDS = (".", "!", "?", "…")
#: What Spanish draws together.
_DRAWN = ((re.compile(r"\bde el\b"), "del"), (re.compile(r"\ba el\b"), "al"))
_SEPARATORS = {",": ", ", ";": "; ", "+": " + ", "–": "–", " ": " ", "/": " / ", "·": " · "}


def text(said: Said | str) -> str:
    """What is said, in the language that is spoken; a plain text is data and stays as it is."""
    if isinstance(said, str):
        return said
    if not said.code:
        return ""
    values = dict(said.values)
    own = SHAPES.get(said.code)
    return own(values) if own is not None else _filled(said.code, values)


def phrase(code: str, /, **values: Said | str | float | Iterable[Said | str] | None) -> str:
    """The text of a code in the language that is spoken, with these values in its places."""
    return text(say(code, **values))


def unfilled(code: str) -> str:
    """A text with its places as they are written, for whoever fills them elsewhere."""
    return str(translations(language()).pgettext(code, str(TEXTS[code])))


def has(code: str) -> bool:
    """Whether there is a text of this code."""
    return code in TEXTS


def sayable(said: Said) -> bool:
    """Whether there are texts of it and of what stands in its places, and none of their places is empty."""
    try:
        return bool(text(said))
    except (KeyError, TypeError, ValueError, OverflowError):
        return False


def chosen(value: object) -> str:
    """A word of the contract as people read it; one that has no text is data and stays as it is."""
    return phrase(f"choice.{value}") if has(f"choice.{value}") else str(value)


def _filled(code: str, values: Mapping[str, Value]) -> str:
    pieces, sentence = _pieces(language(), code, _number(values))
    said = "".join(before + (_put(values, name, how) if name else "") for before, name, how in pieces)
    if language() == "es":
        for pattern, drawn in _DRAWN:
            said = pattern.sub(drawn, said)
    said = capital(said) if sentence else said
    return f"[{said}]" if language() == PSEUDO else said


def _number(values: Mapping[str, Value]) -> float | None:
    """The number that decides between one and many."""
    n = values.get("n")
    if isinstance(n, Said):
        n = dict(n.values).get("value")
    return float(n) if isinstance(n, int | float) else None


@lru_cache(maxsize=8_000)
def _pieces(spoken: str, code: str, number: float | None) -> tuple[tuple[Piece, ...], bool]:
    known = TEXTS[code]
    catalogue = translations(spoken)
    if isinstance(known, tuple):
        one, many = known
        said = str(catalogue.npgettext(code, one, many, 1 if number == 1 else 2))
    else:
        said = str(catalogue.pgettext(code, known))
    pieces = tuple((before, name, how) for before, name, _, how in Formatter().parse(said))
    return pieces, said.rstrip().endswith(_ENDS)


def _put(values: Mapping[str, Value], name: str, how: str | None) -> str:
    value = values[name]
    if how == "t" and isinstance(value, Said) and f"{value.code}.the" in TEXTS:
        value = Said(f"{value.code}.the", value.values)
    put = _plain(value)
    return capital(put) if how == "c" else put


def _plain(value: Value) -> str:
    if isinstance(value, Said | str):
        return text(value)
    if isinstance(value, tuple):
        return ", ".join(text(one) for one in value)
    return numbers.plain(value)


def capital(said: str) -> str:
    return said[:1].upper() + said[1:]


def _listed(values: Mapping[str, Value]) -> str:
    items = values["items"]
    said = [text(one) for one in items] if isinstance(items, tuple) else [_plain(items)]
    by = str(values["by"])
    if by not in ("and", "or"):
        return _SEPARATORS[by].join(said)
    if len(said) < 2:
        return "".join(said)
    return _filled(f"list.{_before(by, said[-1])}", {"first": ", ".join(said[:-1]), "last": said[-1]})


def _before(by: str, last: str) -> str:
    """Spanish says *e* and *u* before the same vowel."""
    sound = last.lower().lstrip("h")
    if language() == "es" and ((by == "and" and sound[:1] == "i") or (by == "or" and sound[:1] == "o")):
        return f"{by}-vowel"
    return by


def _span(values: Mapping[str, Value]) -> str:
    low, high = _float(values["low"]), _float(values["high"])
    unit, digits = str(values["unit"]), int(_float(values["digits"]))
    if low <= 0 and math.isinf(high):
        return _filled("span.any", {"unit": unit})
    if low <= 0 < high:
        return _filled("span.up-to", {"high": numbers.show(high, unit, digits)})
    if math.isinf(high):
        return _filled("span.or-more", {"low": numbers.show(low, unit, digits)})
    return numbers.show_span(low, high, unit, digits)


def _float(value: Value) -> float:
    if isinstance(value, int | float):
        return value
    raise TypeError(f"{value!r} is no number")


def _figure(values: Mapping[str, Value]) -> str:
    return numbers.show(_float(values["value"]), str(values["unit"]), int(_float(values["digits"])))


def _rounded(values: Mapping[str, Value]) -> str:
    return f"{_float(values['value']):.{int(_float(values['places']))}f}".replace("-", "−")


def _overload(values: Mapping[str, Value]) -> str:
    return numbers.with_unit(f"{values['sign']}OL", str(values["unit"]))


def _joined(values: Mapping[str, Value]) -> str:
    items = values["items"]
    return "".join(text(one) for one in items) if isinstance(items, tuple) else _plain(items)


#: Codes that are a shape of a value, not a text of a table.
SHAPES: Mapping[str, Callable[[Mapping[str, Value]], str]] = {
    "figure": _figure,
    "plain": lambda values: numbers.plain(_float(values["value"]), str(values["unit"])),
    "rounded": _rounded,
    "overload": _overload,
    "clock": lambda values: numbers.clock(_float(values["s"])),
    "list": _listed,
    "span": _span,
    "joined": _joined,
}
