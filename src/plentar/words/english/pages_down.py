"""The page of a server that is down."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "page.down.no-database-plentar": "No database · Plentar",
    "page.down.database-does-not-answer": "The database does not answer",
    "page.down.what-was-acknowledged-before": "What was stored before is safe. Quick numbers work without it:",
    "page.down.quick-numbers": "quick numbers",
}
