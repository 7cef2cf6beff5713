"""The parts' symbols, each drawn around (0, 0) on a wire that runs from −28 to 28."""

from __future__ import annotations

from plentar.core.unit.parts import Element, Limit, Link, Part, Switch
from plentar.words import chosen, phrase

HALF = 28


def symbol(part: Part, closed: bool = True) -> str:
    match part:
        case Switch():
            return contact(closed)
        case Element():
            return _ELEMENT
        case Limit():
            return _LIMIT if closed else _LIMIT_OPEN
        case Link():
            return _LINK if closed else _LINK_OPEN
    raise TypeError(f"no symbol for {part!r}")


def contact(closed: bool) -> str:
    """Two posts and a lever: down when closed, up when open."""
    lever = "M-15 0L15 0" if closed else "M-15 -2L12 -13"
    return f'{_POSTS}<path class="lever" d="{lever}"/>'


def title(part: Part) -> str:
    match part:
        case Switch(role="element"):
            return phrase("choice.switch")
        case Switch():
            return phrase("drawing.symbols.switch", role=chosen(part.role))
        case Element():
            return phrase("choice.element")
        case Limit():
            return phrase("choice.limit")
        case _:
            return phrase("drawing.symbols.fusible-link")


_POSTS = (
    '<path class="wire" d="M-28 0H-15M15 0H28"/><circle class="post" cx="-15" cy="0" r="4"/>'
    '<circle class="post" cx="15" cy="0" r="4"/>'
)
_ELEMENT = '<path class="heater" d="M-28 0h5c2-15 8-15 9 0s7 15 9 0 8-15 10 0 7 15 9 0 7-15 9 0h5"/>'
_LIMIT = (
    '<path class="wire" d="M-28 0H-16M16 0H28"/><path class="disc" d="M-17 0Q0 -17 17 0"/>'
    '<path class="disc thin" d="M-17 5h34"/>'
)
_LIMIT_OPEN = (
    '<path class="wire" d="M-28 0H-16M16 0H28"/><path class="disc" d="M-17 -14Q0 2 17 -14"/>'
    '<path class="disc thin" d="M-17 5h34"/>'
)
_LINK_OPEN = (
    '<path class="wire" d="M-28 0H-18M18 0H28"/>'
    '<path class="link" d="M-18 -7h10l-3 7 3 7h-10zM18 -7h-10l3 7-3 7h10z"/>'
)
_LINK = (
    '<path class="wire" d="M-28 0H-18M18 0H28"/>'
    '<path class="link" d="M-18 -7h12l4 5h4l4-5h12v14h-12l-4-5h-4l-4 5h-12z"/>'
)
COIL = f'<path class="coil" d="M-22 6v-6{"a5.5 7 0 0 1 11 0" * 4}v6"/>'
TRANSFORMER = (
    '<path class="wire" d="M-28 -10h9M-28 -10V0M28 0v-10h-9"/>'
    '<path class="coil" d="M-19 -10a6.3 6 0 0 0 12.7 0a6.3 6 0 0 0 12.6 0a6.3 6 0 0 0 12.7 0"/>'
    '<path class="disc thin" d="M-20 3h40M-20 8h40"/>'
)
BLOWER = (
    '<circle class="wheel" r="15"/><path class="wheel" d="M0 0q10-3 10-10M0 0q3 10 10 10'
    'M0 0q-10 3-10 10M0 0q-3-10-10-10"/>'
)
CLAMP = '<path class="wire" d="M-28 0H28"/><path class="disc" d="M-5 -11a11.5 11.5 0 1 0 10 0"/>'
#: A lead that ends: capped, or on a terminal that is drawn elsewhere.
CAPPED = '<path class="wire" d="M-28 0H8"/><path class="disc" d="M8 -7h8a7 7 0 0 1 0 14h-8z"/>'
THERMOMETER = '<path class="wire" d="M-28 0H-9M9 0H28"/><path class="disc thin" d="M-4 -14a4 4 0 0 1 8 0v17a8 8 0 1 1 -8 0z"/>'
CAPACITOR = '<path class="plates" d="M-22 0H-4M4 0H22M-4 -11v22M4 -11v22"/>'
