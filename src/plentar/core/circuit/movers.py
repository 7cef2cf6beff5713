"""The coils of a unit, their contacts, and the moves that these have before them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from plentar.core.circuit.network import Solution
from plentar.core.quantity import Band
from plentar.core.tables.devices import DeviceKind
from plentar.core.unit.unit import Unit


@dataclass(frozen=True, slots=True)
class DueMove:
    """A contact that will move: when, as drawn and by its window. ``from_s``: it is of any order from then
    on, its window being no more than typical of its kind."""

    due_s: float
    early_s: float
    late_s: float
    contact: str
    closes: bool
    from_s: float | None = None


@dataclass
class Mover:
    """A coil and its contacts: (contact, on window, off window, closed when energised)."""

    id: str
    kind: DeviceKind
    rated_volts: float
    contacts: list[tuple[str, Band, Band, bool]]
    #: Which contacts have a typical window, coming on (True) or going off.
    typical: frozenset[tuple[str, bool]] = frozenset()
    energised: bool = False
    recent: list[float] = field(default_factory=list)
    pending: list[DueMove] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Moment:
    """How the unit stands at a time: contacts, what is energised, and the network's answer.

    It begins at ``t_s`` where every device acts as drawn; by the windows it may begin anywhere
    from ``early_s`` to ``late_s``.
    """

    t_s: float
    closed: frozenset[str]
    solution: Solution
    energised: frozenset[str]
    blower_runs: bool
    cycling: frozenset[str]
    chatter: frozenset[str]
    fuse_blown: bool
    early_s: float
    late_s: float
    #: Between these any order of time since then is as likely as another; None: any time is.
    from_s: float | None = None


def movers(unit: Unit) -> Iterator[Mover]:
    for control in unit.controls:
        contacts = [(switch.id, switch.on_s, switch.off_s, True) for switch in control.switches]
        typical = frozenset(
            (switch.id, name == "on_s") for switch in control.switches for name in switch.typical
        )
        of_any_order = typical if control.kind.thermal else frozenset[tuple[str, bool]]()
        yield Mover(control.id, control.kind, control.coil.volts, contacts, of_any_order)
    relay = unit.relay
    if relay is not None:
        contacts = [(f"{relay.id}.no", relay.on_s, relay.off_s, True)]
        tied = unit.blower is not None and unit.blower.interlock.kind == "nc-contact"
        if tied or relay.kind.normally_closed:
            contacts.append((f"{relay.id}.nc", relay.on_s, relay.off_s, False))
        yield Mover(relay.id, relay.kind, relay.coil.volts, contacts)
