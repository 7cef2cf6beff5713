"""What every event is: a time, how it is said, what it must fit, and what it does to the switches."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import ClassVar, Self

from plentar.core.said import Said
from plentar.core.unit.unit import Unit


@dataclass(frozen=True, slots=True)
class Switches:
    """What people have set: power by circuit, what is called for, whether by jumper.

    ``lifted`` says that the thermostat wires are off at the board and calls are by jumper,
    ``stages_off`` which elements hang on nothing, left off on purpose, ``coils_off`` the coils whose own
    two wires are off.
    """

    power: Mapping[str, str]
    calls: frozenset[str] = frozenset()
    lifted: bool = False
    stages_off: frozenset[str] = frozenset()
    coils_off: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True, kw_only=True)
class Event(ABC):
    """Something that happened on a visit. One class a kind; the file contract's word is ``name``.

    ``t_s`` counts from the start of the visit; ``lead_s`` is what the watch missed; ``clock_s`` is
    the clock's own time where it had stepped back behind ``t_s``; ``key`` is the id of the entry
    that it came from.
    """

    #: The key by which the visit file knows the kind.
    name: ClassVar[str]
    #: It changes what is powered or called for: ``moves`` answers.
    is_switch: ClassVar[bool] = False
    #: It may be struck out afterwards, with a reason.
    may_be_struck: ClassVar[bool] = False

    t_s: float
    lead_s: float = 0.0
    key: str = ""
    clock_s: float | None = None

    @abstractmethod
    def check(self, unit: Unit) -> None:
        """Raises BadInput, path below the event, where it names what the unit does not have."""

    @abstractmethod
    def words(self, unit: Unit) -> Said:
        """What the log says of it."""

    def moves(self, before: Switches) -> Switches:
        return before

    def refit(self, unit: Unit) -> Unit:
        return unit

    @property
    def mended(self) -> str:
        """The component that is as new after it; empty where it is none."""
        return ""

    @property
    def began_s(self) -> float:
        """When it really began, as far as the circuit is concerned."""
        return self.t_s

    def moved_to(self, t_s: float) -> Self:
        """The same to the circuit, at another time: without lead, key, or what only people see."""
        return replace(self, t_s=t_s, lead_s=0.0, key="", clock_s=None)
