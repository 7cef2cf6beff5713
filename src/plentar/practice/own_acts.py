"""Acts of a practice that are none of a visit's: the meter set otherwise than it is read, a clamp left on, a capacitor
discharged, wires put on terminals and looked at there, a wire that was lost at a repair, a part that line volts have
burnt. They lie among the others, in the order in which they were done."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from random import Random
from typing import Any

from plentar.core.quantity import Quantity
from plentar.core.unit.unit import Unit
from plentar.stand_ins.wider.specimen import own_joints

#: An act: in the visit file's terms, or one of these; its time in it.
Act = Mapping[str, Any]
MISSET, CLAMP, LOST, DISCHARGED = "misset", "clamp", "lost", "discharged"
#: A device by its id, with ``on``, the terminal of each wire; or its wiring gone over. A fault that line volts made.
LANDED, PROVED, BURNT = "landed", "proved", "burnt"
OWN = frozenset({MISSET, CLAMP, LOST, DISCHARGED, LANDED, PROVED, BURNT})
#: Of these nobody is told.
UNTOLD = frozenset({LOST, BURNT})
TIE_WIRE = "tie.wire"
#: Of repairs with the wires moved all at once, so many lose one.
LOSES = 0.5


@dataclass(frozen=True, slots=True)
class Misset:
    """A way to set a meter that is not the one asked for: what it takes the place of, and its unit."""

    instead_of: Quantity
    unit: str
    places: int
    share: float


#: DC on what alternates shows nothing; two wires of one rung cancel; in kΩ a strip reads about a hundredth.
MISSETS: Mapping[str, Misset] = {
    "dc-on-ac": Misset(Quantity.VOLTS, "V DC", 1, 0.0),
    "two-wires": Misset(Quantity.AMPS, "A", 1, 0.0),
    "kilohms": Misset(Quantity.OHMS, "kΩ", 2, 0.001),
}


def is_event(act: Act) -> bool:
    """It is an act that a visit has, too."""
    return not OWN & set(act)


def may_lose(unit: Unit, plate: Mapping[str, Any], part: str) -> list[str]:
    """The faults that moving this part's wires all at once can leave behind: a rung's wire off, or the tie's."""
    if unit.relay is not None and part == unit.relay.id:
        return [f"{TIE_WIRE}:open"] if TIE_WIRE in unit.components else []
    control = unit.device_by_id.get(part)
    switches = {switch.id for switch in getattr(control, "switches", ())}
    touched = [e for e in unit.elements if switches & set(e.rung)]
    return [f"{e.id}.wire:open" for e in touched if own_joints(plate, e.id)]


def lost_at(unit: Unit, plate: Mapping[str, Any], part: str, seed: str) -> str:
    """The wire that is lost where all are moved at once, as a fault; empty where none is."""
    dice = Random(f"{plate['id']}/{seed}/{part}/lost")
    choice = may_lose(unit, plate, part)
    return dice.choice(choice) if choice and dice.random() < LOSES else ""
