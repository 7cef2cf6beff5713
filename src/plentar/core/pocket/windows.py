"""When each part acts after a call begins or ends, as data: what a tape counts by that has no program at hand.

It says what starts each clock and how long its window is, as ``timing/moves`` has them; who reads it puts in the
calls and what was seen. A sequencer whose coil volts were read has a longer window, which the program tells.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from plentar.core.quantity import Band
from plentar.core.timing.moves import BLOWER, OFF, ON, Moves
from plentar.core.timing.tape import drawn_at
from plentar.core.unit.parts import HEAT_CALLS, Control
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Visit


@dataclass(frozen=True, slots=True)
class Way:
    """One way in which a part is made to act: ``calls`` begin or end (the first of them, the last of them), and
    then, where it is not empty, ``after`` does what the part does. Its window counts from there, s."""

    calls: tuple[str, ...]
    after: str
    window_s: Band


@dataclass(frozen=True, slots=True)
class Watched:
    """One move of a part, in every way; ``typical``: nobody read its window off the part; ``drawn_at``: where a
    clamp shows it, from so many amps on."""

    part: str
    action: str
    ways: tuple[Way, ...]
    typical: bool
    thermal: bool = False
    drawn_at: Mapping[str, float] = field(default_factory=dict)


def watched(unit: Unit) -> Iterator[Watched]:
    """Every move of every switch that carries something, and of the blower."""
    for switch in Moves(unit, Visit()).watched:
        control = unit.control_of_switch[switch.id]
        calls = (_call_of(unit, control),)
        shown = drawn_at(unit, switch.id)
        on, off = Way(calls, control.through or "", switch.on_s), Way(calls, "", switch.off_s)
        yield Watched(switch.id, ON, (on,), "on_s" in switch.typical, control.kind.thermal, shown)
        yield Watched(switch.id, OFF, (off,), "off_s" in switch.typical, control.kind.thermal, shown)
    if unit.blower is not None:
        for action in (ON, OFF):
            typical = unit.relay is not None and f"{action}_s" in unit.relay.typical
            ways = tuple(_ways_of_blower(unit, action))
            if ways:
                yield Watched(BLOWER, action, ways, typical, drawn_at=drawn_at(unit, BLOWER))


def _ways_of_blower(unit: Unit, action: str) -> Iterator[Way]:
    blower, relay = unit.blower, unit.relay
    if blower is None:
        return
    tie = blower.interlock
    if relay is not None:
        heat = tuple(sorted(HEAT_CALLS)) if tie.kind == "g-with-w" else ()
        yield Way((relay.call, *heat), "", relay.on_s if action == ON else relay.off_s)
    if tap := tie.tap or tie.switch:
        yield Way((_call_of(unit, unit.control_of_switch[tap]),), tap, Band(0.0, 0.0))


def _call_of(unit: Unit, control: Control) -> str:
    """The thermostat's terminal behind a device, through all that it waits for."""
    while control.through is not None:
        control = unit.control_of_switch[control.through]
    return control.call or ""
