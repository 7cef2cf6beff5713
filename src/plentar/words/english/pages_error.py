"""The page of an error."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "page.error.show-what-blocks": "Show what blocks it",
    "page.error.code": "Code {code}. {unchanged}",
    "page.error.start-page": "Start page",
    "page.error.request": "Request {id}",
}
