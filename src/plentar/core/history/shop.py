"""A shop's own frequencies: how much oftener than the trade has it each kind of part was replaced there.

The rule shrinks toward the trade: of each kind so many replacements are expected as its frequencies in
``tables/faults`` share the shop's whole among the years that its parts were watched, and to what was
replaced and to what was expected the same ``SHRINK`` are added before they are divided. A kind that was
watched little keeps the trade's frequency; one that was watched long has its own. (Gamma and Poisson:
the factor's mean after, where it is 1 before with the weight of ``SHRINK`` replacements.)

A replacement is not always a failure: what is replaced with its fellow counts with it.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from plentar.core.circuit.faults import STUCK, Fault
from plentar.core.history.survival import LEAST_FAILURES, Watched
from plentar.core.tables.devices import BLOWER_RELAYS, CONTROLS, NORMALLY_OPEN_FAULTS
from plentar.core.tables.faults import FAULT_KINDS
from plentar.core.unit.unit import Unit

#: For so many replacements of each kind the trade's frequencies count.
SHRINK = 8.0
#: No shop's own frequency is further from the trade's.
LEAST_FACTOR, MOST_FACTOR = 0.25, 4.0


def relay_kind(of_type: str) -> str:
    """How a blower relay of a type is called among the kinds of parts."""
    return f"{of_type} blower relay"


#: The kinds of parts that a shop's own frequencies are of.
COUNTED_KINDS = ("element", "limit", "link", *CONTROLS, *map(relay_kind, BLOWER_RELAYS))


def trade_frequency(kind: str, switches: int = 0) -> float:
    """How often a part of a kind fails in the trade, beside others: all its ways together."""
    if kind in CONTROLS:
        control = CONTROLS[kind]
        both = STUCK if switches > 1 else ()
        of_switches = switches * _sum("switch", control.switch_faults)
        return of_switches + _sum("device", (*control.faults, *both))
    for name, relay in BLOWER_RELAYS.items():
        if kind == relay_kind(name):
            return _sum("relay", (*relay.faults, *NORMALLY_OPEN_FAULTS))
    return _sum(kind, [mode for of, mode in FAULT_KINDS if of == kind])


def _sum(of: str, modes: Collection[str]) -> float:
    return sum(FAULT_KINDS[of, mode].frequency for mode in modes)


def own_frequencies(watched: Mapping[str, Sequence[Watched]], trade: Mapping[str, float]) -> dict[str, float]:
    """By kind of part the factor on the trade's frequency, from parts that were watched and the trade's
    frequency of a part of each kind. Empty with too few replacements in all."""
    replaced = {kind: sum(part.replaced for part in parts) for kind, parts in watched.items()}
    expected = {kind: trade[kind] * sum(part.years for part in parts) for kind, parts in watched.items()}
    every, whole = sum(replaced.values()), sum(expected.values())
    if every < LEAST_FAILURES or not whole:
        return {}
    found = {
        kind: (replaced[kind] + SHRINK) / (every * share / whole + SHRINK) for kind, share in expected.items()
    }
    return {kind: round(min(MOST_FACTOR, max(LEAST_FACTOR, factor)), 3) for kind, factor in found.items()}


def kind_of(unit: Unit, fault: Fault) -> str:
    """The kind of the part that a fault is of; empty where it is none that a shop counts."""
    match fault.kind.of:
        case "element" | "limit" | "link":
            return fault.kind.of
        case "switch":
            return unit.control_of_switch[fault.component].type
        case "device":
            return unit.control_by_id[fault.component].type
        case "relay":
            return relay_kind(unit.blower.relay.type) if unit.blower and unit.blower.relay else ""
    return ""
