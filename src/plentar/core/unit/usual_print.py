"""What parts like a unit's usually print: windows, ohms, VA, temperatures (trade habit).

Nothing here is taken for read: a plate that was read, as those of the demo were, says it as its own.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TypeVar

from plentar.core.quantity import Band
from plentar.core.tables.devices import AT_ONCE_S
from plentar.core.unit.parts import BlowerRelay, Coil, Control, Limit, Switch
from plentar.core.unit.unit import Unit

#: Windows of a common stack, on and off: the last to close is the first to drop.
STACK_ON_S = (Band(1, 20), Band(30, 90), Band(40, 100), Band(50, 110))
STACK_OFF_S = (Band(40, 110), Band(30, 90), Band(20, 80), Band(1, 60))
BLOWER_ON_S, BLOWER_OFF_S = Band(1, 20), Band(60, 110)
COILS = {
    "sequencer": Coil(24, Band(20, 80), 6),
    "contactor": Coil(24, Band(8, 25), 7),
    "relay-ac": Coil(24, Band(10, 80), 5),
    "relay-dc": Coil(24, Band(200, 1000), 2),
}
RELAY_COIL = Coil(24, Band(15, 60), 5)
OPENS_F, CLOSES_F = 170, 140
Timed = TypeVar("Timed", Switch, BlowerRelay)


def as_usually_printed(unit: Unit) -> Unit:
    """The unit with everything typical read off its parts, which print what is usual, and its tie followed
    to the first of the switches in question."""
    blower = unit.blower
    if blower is not None:
        relay, tie = blower.relay, blower.interlock
        if relay is not None:
            relay = _timed(replace(relay, coil=_coil(relay.coil, RELAY_COIL)), relay.on_s, relay.off_s)
        if unit.possible_taps:
            tie = replace(tie, tap=unit.possible_taps[0])
        blower = replace(blower, relay=relay, interlock=tie)
    return replace(
        unit,
        controls=tuple(_control(control) for control in unit.controls),
        limits=tuple(_limit(limit) for limit in unit.limits),
        blower=blower,
    )


def _control(control: Control) -> Control:
    stage, switches = 0, []
    for switch in control.switches:
        if not control.kind.thermal:
            on_s = off_s = AT_ONCE_S
        elif switch.role == "blower":
            on_s, off_s = BLOWER_ON_S, BLOWER_OFF_S
        elif switch.role == "auxiliary":
            on_s, off_s = STACK_ON_S[1], STACK_OFF_S[1]
        else:
            place = min(stage, len(STACK_ON_S) - 1)
            on_s, off_s = STACK_ON_S[place], STACK_OFF_S[place]
            stage += 1
        switches.append(_timed(switch, on_s, off_s))
    return replace(control, switches=tuple(switches), coil=_coil(control.coil, COILS[control.type]))


def _timed(part: Timed, on_s: Band, off_s: Band) -> Timed:
    """A part with its typical windows read as these."""
    return replace(
        part,
        on_s=on_s if "on_s" in part.typical else part.on_s,
        off_s=off_s if "off_s" in part.typical else part.off_s,
        typical=frozenset(),
    )


def _coil(coil: Coil, usual: Coil) -> Coil:
    return replace(coil, ohms=coil.ohms or usual.ohms, va=coil.va or usual.va)


def _limit(limit: Limit) -> Limit:
    if limit.opens_f is not None or limit.closes_f is not None:
        return limit
    return replace(limit, opens_f=OPENS_F, closes_f=CLOSES_F)
