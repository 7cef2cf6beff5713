"""What a screen reader says of figures: *18.0 to 22.5 amps* where *18.0–22.5 A* is seen."""

from __future__ import annotations

import re
from collections.abc import Iterator

from plentar.core.said import say
from plentar.words.numbers import NARROW
from plentar.words.spoken import phrase, text

#: The units that are said as words, each by the code of its text.
UNITS = {
    "V DC": "heard.volts-dc",
    "kΩ": "heard.kilohms",
    "MΩ": "heard.megohms",
    "kW": "heard.kilowatts",
    "µF": "heard.microfarads",
    "°F": "heard.fahrenheit",
    "°C": "heard.celsius",
    "CFM": "heard.cfm",
    "L/s": "heard.litres-per-second",
    "VA": "heard.volt-amperes",
    "ft": "heard.feet",
    "A": "heard.amps",
    "V": "heard.volts",
    "Ω": "heard.ohms",
    "W": "heard.watts",
    "s": "heard.seconds",
    "m": "heard.metres",
}
_FIGURE = re.compile(rf"([−\d][\d.,]*)(?:–([−\d][\d.,]*))?{NARROW}({'|'.join(UNITS)})(?!\w)")


def hear(seen: str) -> str:
    """The same text with its units and ranges in words; as it is where it has neither."""
    return "".join(said for _, said in pieces(seen))


def pieces(seen: str) -> Iterator[tuple[str, str]]:
    """A text in pieces: each figure, and what stands between; as it is seen, and as it is heard."""
    at = 0
    for figure in _FIGURE.finditer(seen):
        between = seen[at : figure.start()]
        yield from [(between, between)] * bool(between)
        yield figure[0], _in_words(figure)
        at = figure.end()
    yield from [(seen[at:], seen[at:])] * bool(seen[at:])


def _in_words(figure: re.Match[str]) -> str:
    low, high, unit = figure.groups()
    number = phrase("heard.range", low=low, high=high) if high else low
    return text(say(UNITS[unit], number=number, n=1 if number == "1" else 2))
