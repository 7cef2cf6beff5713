"""How property tests run, and how texts are asked."""

from __future__ import annotations

from typing import Any

from hypothesis import HealthCheck, settings

import plentar.words  # noqa: F401  # a text is its English from here on
from plentar.core.said import Said

# No test is timed: what a busy machine takes longer for is not wrong.
settings.register_profile("untimed", deadline=None, suppress_health_check=[HealthCheck.too_slow])
#: ./plentar test --quick
settings.register_profile("quick", settings.get_profile("untimed"), max_examples=25)
settings.load_profile("untimed")

_EQUAL = Said.__eq__


def words(said: Said | str) -> str:
    """Its English, with plain spaces between numbers and units."""
    return str(said).replace("\u202f", " ")


def _is(self: Said, other: Any) -> bool:
    return words(self) == other if isinstance(other, str) else _EQUAL(self, other) is True


def _as_string(self: Said, name: str) -> Any:
    if name.startswith("_"):
        raise AttributeError(name)
    return getattr(words(self), name)


# A test may ask a text what it may ask a string.
Said.__eq__ = _is  # type: ignore[assignment]
Said.__hash__ = lambda self: hash(words(self))  # type: ignore[assignment]
Said.__contains__ = lambda self, part: part in words(self)  # type: ignore[attr-defined]
Said.__getattr__ = _as_string  # type: ignore[attr-defined]
