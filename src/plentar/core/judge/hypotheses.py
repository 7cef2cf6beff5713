"""What may be wrong: every single fault in its stretches of size and its places, and none.

Sizes that a judge expects, of ``domain`` tables: uniform, or log-uniform where marked.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product

from plentar.core.faults import Fault, faults_of, joints
from plentar.core.unit import Unit
from plentar.core.wiring import Wiring

NONE, OTHER = "none", "other"
#: Relative frequency of a sound unit, when something is complained of and on a check-up.
HEALTHY, HEALTHY_ON_CHECK_UP = 1.0, 20.0


@dataclass(frozen=True, slots=True)
class Sizes:
    """The edges of the stretches that a fault's size is cut into; ``log``: log-uniform."""

    edges: tuple[float, ...]
    log: bool = False

    def stretches(self) -> Iterator[tuple[float, float, float]]:
        """Least, middle and largest size of each stretch."""
        for low, high in zip(self.edges, self.edges[1:], strict=False):
            yield low, math.sqrt(low * high) if self.log else (low + high) / 2, high

    def share(self, low: float, high: float) -> float:
        """How much of the range a stretch is."""
        scale = math.log if self.log else float
        return (scale(high) - scale(low)) / (scale(self.edges[-1]) - scale(self.edges[0]))


SIZES = {
    "high-resistance": Sizes((1.15, 1.35, 1.7, 2.5)),
    "low-resistance": Sizes((0.5, 0.7, 0.90)),
    "grounded": Sizes((0.3, 3.0, 30.0, 300.0, 1e4, 5e5), log=True),
    "burnt": Sizes((0.02, 0.08, 0.3), log=True),
    "loose": Sizes((0.03, 0.1, 0.3), log=True),
    "coil-shorted": Sizes((0.04, 0.15, 0.25, 0.33, 0.41, 0.5)),
    "low-volts": Sizes((195 / 240, 205 / 240, 215 / 240)),
    "weak-capacitor": Sizes((0.5, 0.90)),
    "locked": Sizes((3.0, 6.0)),
}
WEAK_TRANSFORMER = Sizes((0.62, 0.70, 0.78))
LOW_AIRFLOW = Sizes((0.3, 0.65))
#: Where along an element it may touch the frame, as shares of its length: about the middle of
#: either half, and the ends of that. What its two ends draw is least where it touches halfway.
GROUNDED = {"0.3": ("0.1", "0.5"), "0.7": ("0.5", "0.9")}


@dataclass(frozen=True, slots=True)
class Variant:
    """One stretch of a hypothesis: its readings lie between those of the ``corners``.

    ``clock`` is the middle, which decides what moves when; ``share`` is its part of the whole.
    """

    clock: tuple[Fault, ...]
    corners: tuple[tuple[Fault, ...], ...]
    share: float


@dataclass(frozen=True)
class Hypothesis:
    """Faults that may be there together; none at all is the sound unit."""

    faults: tuple[Fault, ...]
    weight: float
    variants: tuple[Variant, ...]

    @property
    def id(self) -> str:
        """As the file contract writes it."""
        return "+".join(sorted(fault.id for fault in self.faults)) or NONE


def single_hypotheses(wiring: Wiring) -> tuple[Hypothesis, ...]:
    """The sound unit first, then every single fault."""
    sound = Hypothesis((), HEALTHY, (Variant((), ((),), 1.0),))
    faults = (
        Hypothesis((fault,), fault.frequency, tuple(_variants(wiring, fault)))
        for fault in faults_of(wiring.unit)
        if fault.component not in wiring.unit.idle_switches
    )
    return (sound, *faults)


def pair_of(one: Hypothesis, two: Hypothesis, stretches: Sequence[tuple[int, int]]) -> Hypothesis:
    """Two single faults at once, in these stretches of each."""
    both = [(one.variants[a], two.variants[b]) for a, b in stretches]
    whole = sum(a.share * b.share for a, b in both)
    variants = tuple(
        Variant(
            a.clock + b.clock,
            tuple(left + right for left, right in product(a.corners, b.corners)),
            a.share * b.share / whole,
        )
        for a, b in both
    )
    return Hypothesis(one.faults + two.faults, one.weight * two.weight, variants)


def work_on(unit: Unit, fault: Fault) -> str:
    """The decision that a fault asks for: the part to work on. A switch's is its device."""
    control = unit.control_of_switch.get(fault.component)
    if control is not None:
        return control.id
    if fault.component in unit.circuit_by_id and fault.mode in ("no-supply", "low-volts"):
        return f"{fault.component}.supply"
    return fault.component


def decision_of(unit: Unit, hypothesis: Hypothesis) -> str:
    """The parts to work on, or none."""
    return "+".join(sorted({work_on(unit, fault) for fault in hypothesis.faults})) or NONE


def _variants(wiring: Wiring, fault: Fault) -> Iterator[Variant]:
    places = _places(wiring, fault)
    sizes = _sizes(fault)
    for place, place_share in places:
        at = replace(fault, place=place)
        if sizes is None:
            yield Variant((at,), ((at,),), place_share)
            continue
        for low, middle, high in sizes.stretches():
            yield Variant(
                (replace(at, size=middle),),
                tuple((corner,) for corner in _corners(at, (low, high))),
                place_share * sizes.share(low, high),
            )


def _sizes(fault: Fault) -> Sizes | None:
    if fault.component == "transformer":
        return WEAK_TRANSFORMER if fault.mode == "weak" else None
    if fault.component == "airflow":
        return LOW_AIRFLOW
    return SIZES.get(fault.mode)


def _places(wiring: Wiring, fault: Fault) -> Sequence[tuple[str, float]]:
    if fault.component in wiring.unit.circuit_by_id and fault.mode == "open":
        return (("l1", 0.4), ("l2", 0.4), ("both", 0.2))
    if fault.mode == "slow":
        return (("2…3.3", 0.22), ("3.3…5.2", 0.31), ("5.2…8", 0.47))
    if fault.mode == "loose":
        return (("l1", 0.5), ("l2", 0.5))
    if fault.mode == "grounded":
        return [(place, 1 / len(GROUNDED)) for place in GROUNDED]
    if fault.component.endswith(".wire"):
        found = joints(wiring, fault.component.removesuffix(".wire"))
        return [(joint, 1 / len(found)) for joint in found]
    return (("", 1.0),)


def _corners(fault: Fault, sizes: tuple[float, float]) -> Iterator[Fault]:
    places = GROUNDED.get(fault.place, ()) if fault.mode == "grounded" else (fault.place,)
    for place, size in product(places, sizes):
        yield replace(fault, place=place, size=size)
