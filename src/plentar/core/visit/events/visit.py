"""A visit: the complaint, the shop's settings, the events, and what was noted beside them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import TypeVar, cast

from plentar.core.errors import BadInput
from plentar.core.said import plain, say
from plentar.core.unit.ratings import Tolerance
from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event

_E = TypeVar("_E", bound=Event)
#: What a visit is called for.
COMPLAINTS = (
    "not-enough-heat",
    "no-heat",
    "heat-will-not-stop",
    "heat-in-cooling",
    "blower-will-not-run",
    "blower-will-not-stop",
    "control-fuse-blows",
    "breaker-trips-or-burnt",
    "clicking",
    "slow-to-start",
    "no-power",
    "check-up",
)
#: How a unit may be left.
OUTCOMES = ("in-service", "left-off", "heat-disabled")
#: What the look at the whole unit goes over, and whether it may be burnt.
LOOK_ITEMS = {
    "filter": False,
    "indoor-coil": False,
    "wheel": False,
    "speed-tap": False,
    "capacitor": False,
    "strands": False,
    "insulation": True,
    "spades": True,
    "lugs": True,
    "panel": True,
}
LOOK_STATES = ("fine", "poor", "burnt")


@dataclass(frozen=True, slots=True)
class Looked:
    """One item of the look at the whole unit: a key of LOOK_ITEMS, one of LOOK_STATES."""

    t_s: float
    item: str
    state: str


@dataclass(frozen=True, slots=True)
class Answered:
    """A stop-now finding that was made safe: how, and by whom.

    ``events``: how many events stood when it was given, and it covers those only; None: those up to
    its time.
    """

    t_s: float
    code: str
    component: str
    how: str
    by: str = ""
    events: int | None = None


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A line of the retest that is answered instead of read through: why, and by whom."""

    t_s: float
    line: str
    reason: str
    by: str = ""


@dataclass(frozen=True, slots=True)
class Settings:
    band: Tolerance = Tolerance.PLATE
    altitude_ft: float = 0.0
    #: By kind of part the factor on the trade's frequency of its faults, from the shop's own repairs.
    frequencies: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class Visit:
    """A complaint, the shop's settings, and the events in order of time."""

    complaint: str | None = None
    settings: Settings = Settings()
    events: tuple[Event, ...] = field(default=())
    looked: tuple[Looked, ...] = ()
    answered: tuple[Answered, ...] = ()
    left_out: tuple[LeftOut, ...] = ()

    def of_kind(self, kind: type[_E]) -> Iterator[_E]:
        """The events of one kind, in order."""
        if kind not in self._by_kind:
            self._by_kind[kind] = tuple(e for e in self.events if isinstance(e, kind))
        return iter(cast(tuple[_E, ...], self._by_kind[kind]))

    @cached_property
    def _by_kind(self) -> dict[type[Event], tuple[Event, ...]]:
        return {}


def unit_after(unit: Unit, events: Iterable[Event]) -> Unit:
    """The unit as the events have left it: devices of another kind in the place of old ones."""
    for event in events:
        unit = event.refit(unit)
    return unit


def check_visit(unit: Unit, visit: Visit) -> None:
    """Raises BadInput (path below ``visit``) where an event does not fit the unit."""
    last_s = 0.0
    for index, event in enumerate(visit.events):
        path = f"events[{index}]"
        if event.t_s < last_s:
            raise BadInput(f"{path}.t", say("visit.events.visit.s-before-event-above", t_s=plain(event.t_s)))
        last_s = event.t_s
        try:
            event.check(unit)
        except BadInput as bad:
            raise bad.under(path) from None
        unit = event.refit(unit)
