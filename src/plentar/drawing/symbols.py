"""The parts' symbols, each drawn around (0, 0) on a wire that runs from −28 to 28."""

from __future__ import annotations

from plentar.core.unit import Element, Limit, Link, Part, Switch

HALF = 28


def symbol(part: Part) -> str:
    """The SVG of a part's symbol."""
    match part:
        case Switch():
            return _SWITCH
        case Element():
            return _ELEMENT
        case Limit():
            return _LIMIT
        case Link():
            return _LINK
    raise TypeError(f"no symbol for {part!r}")


def title(part: Part) -> str:
    """What kind of part it is, in a word or two."""
    match part:
        case Switch(role="element"):
            return "switch"
        case Switch():
            return f"{part.role} switch"
        case Element():
            return "element"
        case Limit():
            return "limit"
        case _:
            return "fusible link"


_SWITCH = (
    '<path class="wire" d="M-28 0H-15M15 0H28"/><circle class="post" cx="-15" cy="0" r="4"/>'
    '<circle class="post" cx="15" cy="0" r="4"/><path class="lever" d="M-15 -2L12 -13"/>'
)
_ELEMENT = (
    '<path class="heater" d="M-28 0h5c2-15 8-15 9 0s7 15 9 0 8-15 10 0 7 15 9 0 7-15 9 0h5"/>'
)
_LIMIT = (
    '<path class="wire" d="M-28 0H-16M16 0H28"/><path class="disc" d="M-17 0Q0 -17 17 0"/>'
    '<path class="disc thin" d="M-17 5h34"/>'
)
_LINK = (
    '<path class="wire" d="M-28 0H-18M18 0H28"/>'
    '<path class="link" d="M-18 -7h12l4 5h4l4-5h12v14h-12l-4-5h-4l-4 5h-12z"/>'
)
COIL = f'<path class="coil" d="M-22 6v-6{"a5.5 7 0 0 1 11 0" * 4}v6"/>'
BLOWER = (
    '<circle class="wheel" r="15"/><path class="wheel" d="M0 0q10-3 10-10M0 0q3 10 10 10'
    'M0 0q-10 3-10 10M0 0q-3-10-10-10"/>'
)
CAPACITOR = '<path class="plates" d="M-22 0H-4M4 0H22M-4 -11v22M4 -11v22"/>'
TERMINAL = (
    '<rect class="screw" x="-10" y="-10" width="20" height="20" rx="4"/>'
    '<path class="screw" d="M-6 -6L6 6"/>'
)
