"""Pydantic's complaints in our words and in the language that is spoken."""

from __future__ import annotations

from collections.abc import Mapping

from pydantic_core import ErrorDetails

from plentar.words import phrase

#: By the kind of complaint: the code of its text, and the place that pydantic's own value goes to.
_TEXTS: Mapping[str, tuple[str, tuple[str, str] | None]] = {
    "missing": ("refusal.missing", None),
    "extra_forbidden": ("files.visit-file.no-such-key-this", None),
    "literal_error": ("refusal.literal", ("expected", "expected")),
    "string_too_long": ("refusal.too-long", ("max", "max_length")),
    "string_too_short": ("refusal.too-short", ("min", "min_length")),
    "string_pattern_mismatch": ("refusal.pattern", None),
    "greater_than": ("refusal.greater", ("limit", "gt")),
    "greater_than_equal": ("refusal.at-least", ("limit", "ge")),
    "less_than": ("refusal.less", ("limit", "lt")),
    "less_than_equal": ("refusal.at-most", ("limit", "le")),
    "too_long": ("refusal.many", ("max", "max_length")),
    "too_short": ("refusal.few", ("min", "min_length")),
    **dict.fromkeys(
        ("float_parsing", "float_type", "int_parsing", "int_type", "int_from_float", "finite_number"),
        ("refusal.number", None),
    ),
    **dict.fromkeys(("string_type",), ("refusal.text", None)),
    **dict.fromkeys(("bool_type", "bool_parsing"), ("refusal.yes-no", None)),
    **dict.fromkeys(("list_type", "tuple_type", "set_type", "frozen_set_type"), ("refusal.list", None)),
    **dict.fromkeys(("dict_type", "model_type", "model_attributes_type"), ("refusal.object", None)),
    **dict.fromkeys(("uuid_parsing", "uuid_type"), ("refusal.id", None)),
    **dict.fromkeys(
        ("date_parsing", "date_type", "date_from_datetime_parsing", "datetime_parsing", "time_parsing"),
        ("refusal.date", None),
    ),
}


def reason_of(error: ErrorDetails) -> str:
    """The reason of one complaint; ours is already in our words."""
    known = _TEXTS.get(error["type"])
    if known is None:
        message = error["msg"].removeprefix("Value error, ")
        return message[0].lower() + message[1:] if error["type"] != "value_error" else message
    code, place = known
    if place is None:
        return phrase(code)
    name, key = place
    return phrase(code, **{name: _plain(error["ctx"][key])})


def _plain(value: object) -> str:
    return f"{value:g}" if isinstance(value, int | float) else str(value)
