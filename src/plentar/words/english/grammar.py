"""How values are put together: lists, ranges."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "list.and": "{first} and {last}",
    "list.or": "{first} or {last}",
    "list.and-vowel": "{first} and {last}",
    "list.or-vowel": "{first} or {last}",
    "span.any": "any {unit}",
    "span.up-to": "up to {high}",
    "span.or-more": "{low} or more",
    "about-zero": "about 0 {unit}",
    "not-measured": "not measured",
    "percent": "{n} %",
    "noted": ": {note}",
    "before-after": "{before} → {after}",
    "finding-and-acts": "{finding} {acts}",
    "fault": "{part} {is_so}",
    "nothing": "nothing",
    "under-one": "under 1",
    "all-circuits": "all circuits",
    "nothing-on-it": "nothing on it",
    "none": "none",
    "check-of-part": "{check}: {part}",
}
