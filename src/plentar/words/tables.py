"""Every text of the program by its code: English here, other languages in their catalogues.

A table is a mapping from codes to texts. A text has places in braces, ``{part}``; ``{part!t}`` is a
part with its article, ``{part!c}`` begins with a capital. Where a text depends on a number ``n`` it is
a pair: of one, and of any other number. A text that ends as a sentence begins with a capital.
"""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from pkgutil import iter_modules

from plentar.words import english

Text = str | tuple[str, str]


def _all() -> dict[str, Text]:
    found: dict[str, Text] = {}
    for module in iter_modules(english.__path__):
        table: Mapping[str, Text] = import_module(f"{english.__name__}.{module.name}").TEXTS
        twice = found.keys() & table.keys()
        if twice:
            raise ValueError(f"{sorted(twice)} stand in two tables")
        found |= table
    return found


TEXTS: Mapping[str, Text] = _all()
