"""Pages: quick."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "page.quick.quick.quick-numbers": "Quick numbers",
    "page.quick.quick.which-numbers": "Which numbers",
    "page.quick.quick.compute": "Compute",
}
