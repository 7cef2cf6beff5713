"""What a tab of quick numbers asks for and answers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import AfterValidator, BeforeValidator

from plentar.core.said import Said
from plentar.web.entry import Number
from plentar.words import phrase


@dataclass(frozen=True, slots=True)
class Asker:
    """One number to ask for: its field, its unit, and values that a touch fills in."""

    name: str
    label: Said | str
    unit: str
    picks: tuple[str, ...] = ()
    placeholder: Said | str = ""


@dataclass(frozen=True, slots=True)
class Numbers:
    """An answer: one number in large with its unit and a word, rows beside it, the arithmetic.

    ``onward`` is where it leads to, and in what words.
    """

    number: str
    unit: str
    beside: str
    rows: tuple[tuple[str, str], ...]
    step: str
    onward: tuple[str, str] | None = None


def within(least: float, most: float) -> AfterValidator:
    """A number, where there is one, from … to."""

    def check(value: float | None) -> float | None:
        if value is not None and not least <= value <= most:
            raise ValueError(phrase("quick.numbers.from", least=f"{least:g}", most=f"{most:g}"))
        return value

    return AfterValidator(check)


MayLack = Annotated[Number | None, BeforeValidator(lambda typed: str(typed).strip() or None)]
