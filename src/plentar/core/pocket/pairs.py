"""Stops that readings raise together, as data: heat at a joint by its volts and its amps, a feed's loss by its two
ends and its amps, current home another way by two legs.

The checks' own functions are asked for every figure. Where a check judges by more than a phone has (amps by the
plate, the same legs a second time, a breaker's pole), a phone says nothing and the program does.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property

from plentar.core.checks.ground_current import HEAT_FROM_AMPS
from plentar.core.checks.joints import (
    COARSE_BELOW,
    COARSE_VOLTS,
    SOUND_SPREAD,
    feed_loss,
    level_of,
    level_of_disc,
)
from plentar.core.judgement import FindingCode, Level
from plentar.core.pocket.stops import StopKind, flips, kinds_raised
from plentar.core.pocket.verdicts import HIGH_VOLTS, LOW_VOLTS, Pocket, Setting
from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th
from plentar.core.tables.model import CONTACT_OHMS
from plentar.core.unit.parts import Circuit
from plentar.core.unit.points import Point
from plentar.core.unit.unit import Unit
from plentar.core.visit.against_record import tied_across
from plentar.core.visit.draws import floor_of, motor_amps
from plentar.core.visit.state import all_off_s, all_on_s

A, V = Quantity.AMPS, Quantity.VOLTS
#: More than any joint makes, W, and at what amps it is asked.
_MOST_WATTS, _MANY_AMPS = 1e6, 1000.0
#: A reading that raises each kind, by volts across a joint, and as a share of a feed's volts at its lugs.
_BURNT_VOLTS, _SAGGED = 5.0, 0.6

#: What all joints and all legs have in common, by name, for whoever reads them.
FIGURES = {
    "coarse_below": COARSE_BELOW,
    "coarse_volts": COARSE_VOLTS,
    "low_range": float(th.LOW_RANGE_ERROR),
    "sound_ohms": SOUND_SPREAD * CONTACT_OHMS,
    "pair_s": float(th.PAIR_S),
    "leg_pair_s": float(th.LEG_PAIR_S),
    "idle_amps": float(th.LEGS_IDLE_AMPS),
    "heat_amps": float(th.LEGS_HEAT_AMPS),
    "heat_share": float(th.LEGS_HEAT_SHARE),
    "heat_from": HEAT_FROM_AMPS,
}


@dataclass(frozen=True, slots=True)
class Joint:
    """A part that is closed where heat flows: a stop where the heat in it, W, is at least ``watts`` and at least
    ``ohms`` times the amps squared. ``through`` are where its amps are read when not at itself, and from how many
    on it draws. Across it at most ``most_volts``: more is open."""

    point: str
    through: dict[str, float]
    most_volts: float
    watts: float
    ohms: float
    stop: StopKind


@dataclass(frozen=True, slots=True)
class FeedJoint:
    """Joints of a feed: a stop when (``per_line`` · V ahead + ``per_lug`` · V behind + ``per_amp`` · A + ``fixed``)
    times the amps is ``watts`` or more."""

    line: str
    lugs: str
    clamps: tuple[str, ...]
    elements: tuple[str, ...]
    per_line: float
    per_lug: float
    per_amp: float
    fixed: float
    least_lug_volts: float
    watts: float
    stop: StopKind


@dataclass(frozen=True, slots=True)
class Legs:
    """Two legs of one feed that differ by more than clamps do, ``spanned`` left out, and by no rung's own amps
    (each of ``rungs``, by the volts that a table knows): there a clamp may have missed a wire."""

    ones: tuple[str, ...]
    two: str
    spanned: float
    rungs: tuple[tuple[float, float], ...]
    stop: StopKind


@dataclass(frozen=True)
class PocketPairs:
    """The stops of one unit that take several readings."""

    pocket: Pocket

    @property
    def unit(self) -> Unit:
        return self.pocket.unit

    @property
    def still_s(self) -> float:
        """So long after a switch no stage comes or goes between two legs."""
        return max(all_on_s(self.unit), all_off_s(self.unit)) + th.TYPED_WITHIN_S

    @cached_property
    def _heat(self) -> Setting | None:
        return next((s for s in self.pocket.usual if s.calls and s.calls >= self.unit.heat_calls), None)

    def joints(self) -> Iterator[Joint]:
        """Every switch, limit and link of a rung."""
        for point in self.pocket.points:
            if point.kind in ("switch", "limit", "link") and (made := self._joint(point)) is not None:
                yield made

    def _joint(self, point: Point) -> Joint | None:
        through = list(self.unit.elements_through(point.component))
        if not through or self._heat is None:
            return None
        readings = [(A, e.id, e.rating.amps(e.rated_volts)) for e in through]
        stop = self._stop(self._heat, FindingCode.JOINT_HEAT, [*readings, (V, point.name, _BURNT_VOLTS)])
        if stop is None:
            return None
        level: Callable[[float, float], Level | None] = (
            (lambda watts, _: level_of(watts)) if point.kind == "switch" else level_of_disc
        )
        many = _stop_watts(level, _MANY_AMPS)
        few = _stop_watts(level, 1.0)
        return Joint(
            point.name,
            {e.id: floor_of(e) for e in through},
            th.JOINT_MOST_SHARE * max(e.rated_volts for e in through),
            few,
            many / _MANY_AMPS**2 if many > few else 0.0,
            stop,
        )

    def feeds(self) -> Iterator[FeedJoint]:
        """Every circuit that is read ahead of its breaker."""
        names = {point.name for point in self.pocket.points}
        for circuit in self.unit.circuits:
            if f"{circuit.id}.line" in names and (made := self._feed(circuit)) is not None:
                yield made

    def _feed(self, circuit: Circuit) -> FeedJoint | None:
        if self._heat is None:
            return None
        line, volts = f"{circuit.id}.line", circuit.rated_volts
        elements = tuple(e.id for e in self.unit.elements_on(circuit.id))
        drawn = [(A, e.id, e.rating.amps(volts)) for e in self.unit.elements_on(circuit.id)]
        sagged = [(V, line, volts), (V, circuit.id, _SAGGED * volts)]
        stop = self._stop(self._heat, FindingCode.JOINT_HEAT, [*drawn, *sagged])
        if stop is None:
            return None

        def left_volts(ahead: float, behind: float, amps: float) -> float:
            return feed_loss(circuit, ahead, behind, amps).least_watts / amps

        per_amp = left_volts(0, 0, 2) - left_volts(0, 0, 1)
        fixed = left_volts(0, 0, 1) - per_amp
        return FeedJoint(
            line,
            circuit.id,
            self._clamps(circuit),
            elements,
            left_volts(1, 0, 1) - per_amp - fixed,
            left_volts(0, 1, 1) - per_amp - fixed,
            per_amp,
            fixed,
            0.5 * volts,
            _stop_watts(lambda watts, _: level_of(watts), 1.0),
            stop,
        )

    def legs(self) -> Iterator[Legs]:
        """Every feed whose two legs are clamped; of a package unit none, whose compressor is not on the plate."""
        if self.unit.kind == "package-unit":
            return
        names = {point.name for point in self.pocket.points}
        rest = Setting("on", frozenset())
        for circuit in self.unit.circuits:
            two = f"{circuit.id}.l2"
            apart = [(A, circuit.id, 0.0), (A, two, HEAT_FROM_AMPS * 50)]
            stop = self._stop(rest, FindingCode.GROUND_CURRENT, apart) if two in names else None
            if stop is None:
                continue
            own = [e.rating for e in self.unit.elements_on(circuit.id)]
            low, high = (share * circuit.rated_volts for share in (LOW_VOLTS, HIGH_VOLTS))
            least, most = 1 - th.LEGS_RUNG_SHARE, 1 + th.LEGS_RUNG_SHARE
            spanned = motor_amps(self.unit, self.unit.blower.circuit) if self.unit.blower else 0.0
            yield Legs(
                (circuit.id, f"{circuit.id}.l1"),
                two,
                spanned if circuit.id in tied_across(self.unit) else 0.0,
                tuple((least * rating.amps(low), most * rating.amps(high)) for rating in own),
                stop,
            )

    def _clamps(self, circuit: Circuit) -> tuple[str, ...]:
        return (circuit.id, f"{circuit.id}.l1", f"{circuit.id}.l2")

    def _stop(
        self, setting: Setting, code: FindingCode, readings: list[tuple[Quantity, str, float]]
    ) -> StopKind | None:
        return next((k for k in kinds_raised(self.pocket, setting, readings) if k.code == code), None)


def _stop_watts(level: Callable[[float, float], Level | None], amps: float) -> float:
    """From how much heat on a joint is a stop, W."""
    return flips(lambda watts: level(watts, amps) is Level.STOP_NOW, _MOST_WATTS, 0.0)
