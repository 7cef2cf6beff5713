"""What a meter shows of circuits that the record has off: the record is not the unit.

Volts or amps behind a breaker that is recorded off, or proved dead, say that a breaker was missed or a
second feed is there. The breaker's line side stays live and is no such case, nor are the bench supply's
own volts at the coil that it drives, nor what a capacitor holds.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from enum import IntEnum

from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th
from plentar.core.unit.parts import CALLS
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import OFF, ON, PROVED_DEAD, Event, Power, Reading, Switches

_VOLTS = frozenset({Quantity.VOLTS, Quantity.VOLTS_DC})
_CONTROL_NODES = frozenset({"R", "C", *CALLS, "transformer", "control-fuse"})


class ShownLive(IntEnum):
    """How much a reading says against *off*: nothing; worth a watch; the proof is void, and a meter of
    low impedance tells a ghost from a feed; it is live."""

    NO = 0
    WATCH = 1
    VOID = 2
    LIVE = 3


def behind(unit: Unit, at: str) -> frozenset[str]:
    """The circuits that may feed a point, by their ids; empty ahead of a breaker and where none does.

    A tie that spans two breakers joins both: what hangs on one may be fed by the other.
    """
    nodes = at.split(":")
    if any(".line" in node for node in nodes):
        return frozenset()
    found = frozenset(cid for node in nodes for cid in _of_node(unit, node))
    tied = tied_across(unit)
    return found | tied if found & tied else found


def tied_across(unit: Unit) -> frozenset[str]:
    """The circuits of the blower and of the strips that it is, or may be, tied to, where these are several."""
    if unit.blower is None or not unit.possible_taps:
        return frozenset()
    both = {
        unit.blower.circuit,
        *(e.circuit for tap in unit.possible_taps for e in unit.elements_through(tap)),
    }
    return frozenset(both) if len(both) > 1 else frozenset()


def _of_node(unit: Unit, node: str) -> Iterator[str]:
    whole = node if node in unit.part_by_id else node.rsplit(".", 1)[0]
    if whole in unit.circuit_by_id:
        yield whole
    elif whole == "blower" or (
        unit.relay is not None and node in (f"{unit.relay.id}.no", f"{unit.relay.id}.nc")
    ):
        if unit.blower is not None:
            yield unit.blower.circuit
    elif whole in unit.part_by_id:
        switch = unit.switch_by_id.get(whole)
        if switch is not None and switch.role == "blower" and unit.blower is not None:
            yield unit.blower.circuit
        elif switch is not None and switch.role == "auxiliary":
            yield unit.control_power.circuit
        yield from (element.circuit for element in unit.elements_through(whole))
    elif whole in unit.device_by_id or node in _CONTROL_NODES or whole in _CONTROL_NODES:
        yield unit.control_power.circuit


def shown_live(unit: Unit, power: Mapping[str, str], reading: Reading) -> ShownLive:
    """What a reading says of circuits that are off by the record; ``power`` by circuit."""
    quantity, value = reading.quantity, reading.value
    if quantity not in _VOLTS and quantity is not Quantity.AMPS:
        return ShownLive.NO
    if value < min(th.OFF_WATCH_VOLTS, th.DEAD_AMPS) or reading.at == "capacitor":
        return ShownLive.NO
    fed = behind(unit, reading.at)
    if not fed or any(power[cid] == ON for cid in fed):
        return ShownLive.NO
    if quantity is Quantity.AMPS:
        floors = [
            e.rating.dead_below_amps(e.rated_volts)
            for node in (reading.at.rsplit(".", 1)[0], reading.at)
            for e in (*unit.elements_through(node), *unit.elements_on(node))
        ]
        if value >= min(floors, default=float(th.DEAD_AMPS)):
            return ShownLive.LIVE
        return ShownLive.WATCH if value >= th.DEAD_AMPS else ShownLive.NO
    if reading.at.endswith(".coil") and value <= th.BENCH_VOLTS and PROVED_DEAD in power.values():
        return ShownLive.NO
    if value > th.OFF_LIVE_VOLTS or (value > th.OFF_GHOST_VOLTS and reading.low_z):
        return ShownLive.LIVE
    if value >= th.OFF_GHOST_VOLTS:
        return ShownLive.VOID
    return ShownLive.WATCH if value >= th.OFF_WATCH_VOLTS else ShownLive.NO


def without_proof(unit: Unit, before: Switches, event: Event) -> Switches:
    """The switches after an event: *proved dead* of every circuit is no more than *off* once a reading
    has shown one of them live."""
    if not isinstance(event, Reading) or PROVED_DEAD not in before.power.values():
        return before
    if shown_live(unit, before.power, event) < ShownLive.VOID:
        return before
    power = {cid: OFF if said == PROVED_DEAD else said for cid, said in before.power.items()}
    return replace(before, power=power)


def with_struck(unit: Unit, events: Iterable[Event], struck: Iterable[Event]) -> tuple[Event, ...]:
    """The events of a visit, and for each struck reading that had voided the proof the end of that proof:
    striking an entry does not restore what it took away. Both in order of time."""
    doubtful = [e for e in struck if isinstance(e, Reading)]
    kept = tuple(events)
    if not doubtful:
        return kept
    merged = sorted(
        [
            *((e.t_s, n, False, e) for n, e in enumerate(kept)),
            *((e.t_s, len(kept), True, e) for e in doubtful),
        ],
        key=lambda one: one[:2],
    )
    switches = Switches({circuit.id: ON for circuit in unit.circuits})
    found: list[Event] = []
    for _, _, is_struck, event in merged:
        if not is_struck:
            found.append(event)
            switches = event.moves(without_proof(unit, switches, event))
            continue
        voided = without_proof(unit, switches, event)
        for cid in (c for c in voided.power if voided.power[c] != switches.power[c]):
            found.append(Power(t_s=event.t_s, state=OFF, circuit=cid))
        switches = voided
    return tuple(found)
