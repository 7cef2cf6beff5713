"""A text as it is kept: its code and values beside its words, so that it can be read in another language."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Field, ValidationError

from plentar.core.said import Said
from plentar.files.shapes import Strict
from plentar.words.spoken import sayable

Plain = Annotated[str, Field(max_length=2000)] | float | int


class SaidJson(Strict):
    """A text's code and what stands in its places: other texts, lists of them, numbers, and marks."""

    code: Annotated[str, Field(max_length=100)]
    values: Annotated[
        dict[str, SaidJson | Plain | Annotated[list[SaidJson | Plain], Field(max_length=60)]],
        Field(max_length=20),
    ] = {}

    def to_core(self) -> Said | None:
        """The text; None where this program has no text of the code, or one with other places."""
        said = self._said()
        return said if sayable(said) else None

    def _said(self) -> Said:
        return Said(self.code, tuple((name, _value(value)) for name, value in self.values.items()))

    @classmethod
    def of(cls, said: Said) -> SaidJson | None:
        """None where JSON can't hold a value, such as a range without an end."""
        try:
            return cls(code=said.code, values={name: _written(value) for name, value in said.values})
        except ValidationError:
            return None


def _value(value: Any) -> Any:
    if isinstance(value, SaidJson):
        return value._said()
    return tuple(_value(one) for one in value) if isinstance(value, list) else value


def _written(value: Any) -> Any:
    if isinstance(value, Said):
        return SaidJson.of(value)
    return [_written(one) for one in value] if isinstance(value, tuple) else value
