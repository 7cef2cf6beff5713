"""Texts that can be kept: no control characters but tabs and line ends, nothing that is no character."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Sequence
from typing import Any

from plentar.core.errors import BadInput
from plentar.words import phrase

#: Control characters, and halves of a pair that UTF-8 can't write.
_BAD = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")
#: More digits than any number of the format has; longer ones are no numbers to it.
MOST_DIGITS = 18


def check_text(text: str, path: str) -> None:
    """Raises BadInput where a text holds what neither a database nor a page can."""
    found = _BAD.search(text)
    if found is not None:
        raise BadInput(path, phrase("files.text.holds-character-cant-kept", ord=f"{ord(found[0]):04X}"))


def read_json(text: str | bytes) -> Any:
    """JSON in UTF-8, with or without a byte order mark; raises BadInput.

    Stricter than the grammar: every key once, texts as ``check_text`` wants them, no NaN.
    """
    try:
        whole = text.decode("utf-8-sig") if isinstance(text, bytes) else text.removeprefix("\ufeff")
        document = json.loads(
            whole, parse_constant=_no_constant, parse_int=_whole_number, object_pairs_hook=_Object.of
        )
        return _checked(document, "")
    except UnicodeDecodeError:
        raise BadInput("", phrase("files.text.not-utf-8-text")) from None
    except json.JSONDecodeError as error:
        raise BadInput("", phrase("files.text.not-json-line", msg=error.msg, lineno=error.lineno)) from None
    except RecursionError:
        raise BadInput("", phrase("files.text.nested-too-deep")) from None


class _Object(dict[str, Any]):
    """An object as it was written, with the key that stands in it twice, if there is one."""

    repeated: str | None = None

    @classmethod
    def of(cls, pairs: Sequence[tuple[str, Any]]) -> _Object:
        """From keys and values in their order."""
        made = cls(pairs)
        if len(made) < len(pairs):
            keys = [key for key, _ in pairs]
            made.repeated = next(key for key in keys if keys.count(key) > 1)
        return made


def _checked(node: Any, path: str) -> Any:
    """The same in plain containers; raises BadInput with the path of what is wrong."""
    if isinstance(node, str):
        check_text(node, path)
    if isinstance(node, list):
        return [_checked(value, f"{path}[{index}]") for index, value in enumerate(node)]
    if not isinstance(node, _Object):
        return node
    for key in node:
        check_text(key, path)
    if node.repeated is not None:
        raise BadInput(_below(path, node.repeated), phrase("files.text.this-key-stands-twice"))
    return {key: _checked(value, _below(path, key)) for key, value in node.items()}


def _below(path: str, key: str) -> str:
    return f"{path}.{key}" if path else key


def _whole_number(digits: str) -> float:
    """Python refuses to read thousands of digits; the model refuses what is not finite, by path."""
    return int(digits) if len(digits) <= MOST_DIGITS else math.inf


def _no_constant(name: str) -> float:
    raise BadInput("", phrase("files.text.not-json-number", name=name))
