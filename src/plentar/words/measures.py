"""In which measures temperatures, air and lengths are shown and typed: as the shop wants.

Everything is kept and reckoned in °F, CFM and ft; what is shown is converted last, what is typed first.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass

from plentar.core.quantity import DEGREES, parse_reading

TEMPERATURES, AIR, LENGTHS = ("F", "C"), ("CFM", "L/s"), ("ft", "m")


@dataclass(frozen=True, slots=True)
class Measures:
    """A choice for each: of ``TEMPERATURES``, of ``AIR``, of ``LENGTHS``."""

    temperature: str = "F"
    air: str = "CFM"
    length: str = "ft"


@dataclass(frozen=True, slots=True)
class _Other:
    """The other measure of a unit: which choice asks for it, its sign, there and back."""

    choice: str
    sign: str
    there: Callable[[float], float]
    back: Callable[[float], float]


_OTHERS: Mapping[str, _Other] = {
    "°F": _Other("C", "°C", lambda f: (f - 32) / 1.8, lambda c: 32 + 1.8 * c),
    # A difference: 30 °F of rise are 16.7 °C.
    DEGREES: _Other("C", "°C", lambda f: f / 1.8, lambda c: 1.8 * c),
    # 1 ft = 0.3048 m exactly; a cubic foot a minute is 0.3048³ m³ ÷ 60 s.
    "CFM": _Other("L/s", "L/s", lambda cfm: cfm * 0.4719474432, lambda ls: ls / 0.4719474432),
    "ft": _Other("m", "m", lambda ft: ft * 0.3048, lambda m: m / 0.3048),
}
#: A scale that somebody typed behind a temperature counts, whatever the shop uses.
_SCALE = re.compile(r"(.*?)\s*°?\s*([CF])", re.DOTALL | re.IGNORECASE)
US = Measures()
_used: ContextVar[Measures] = ContextVar("measures", default=US)


@contextmanager
def measuring(measures: Measures) -> Iterator[None]:
    """Show and take these measures within the block."""
    token = _used.set(measures)
    try:
        yield
    finally:
        _used.reset(token)


def measure(measures: Measures) -> None:
    """Show and take these measures from now on, in this context."""
    _used.set(measures)


def used() -> Measures:
    return _used.get()


def shown(value: float, unit: str) -> tuple[float, str]:
    """A value and its unit as they are shown."""
    other = _other(unit)
    return (other.there(value), other.sign) if other else (value, sign(unit))


def sign(unit: str) -> str:
    """A unit as it is shown."""
    other = _other(unit)
    return other.sign if other else "°F" if unit == DEGREES else unit


def kept(value: float, unit: str) -> float:
    """What was typed in the measure that is shown, in that which is kept."""
    other = _other(unit)
    return other.back(value) if other else value


def read_typed(typed: str, unit: str) -> float:
    """What somebody typed, in the measure that is kept. Raises BadInput as ``parse_reading`` does."""
    number, by = _scale_of(typed, unit)
    with measuring(by):
        return kept(parse_reading(number), unit)


def _scale_of(typed: str, unit: str) -> tuple[str, Measures]:
    """What was typed without the scale behind it, and the measures to take it by."""
    said = _SCALE.fullmatch(typed.strip()) if unit == "°F" else None
    if said is None:
        return typed, used()
    return said[1], Measures(said[2].upper(), used().air, used().length)


def _other(unit: str) -> _Other | None:
    other = _OTHERS.get(unit)
    now = used()
    return other if other and other.choice in (now.temperature, now.air, now.length) else None
