"""What may be wrong: every single fault in its stretches of size and its places, and none."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product

from plentar.core.circuit.faults import Fault, fault_of, faults_of, joints, taps_of
from plentar.core.circuit.wiring import Wiring
from plentar.core.judgement import NONE
from plentar.core.tables.faults import GROUNDED_PLACES, HEALTHY, LOOSE_LEGS, OPEN_LEGS, TAPPED, slow_stretches
from plentar.core.unit.unit import Unit

#: Kinds of what may be faulty between the supply and the place where the tie of the blower begins.
AHEAD_OF_TAPS = frozenset({"switch", "device", "circuit", "terminal"})


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
        return "+".join(sorted(fault.id for fault in self.faults)) or NONE


def single_hypotheses(wiring: Wiring) -> tuple[Hypothesis, ...]:
    """The sound unit first, then every single fault."""
    taps = taps_of(wiring.unit)
    sound = Hypothesis((), HEALTHY, tuple(_wherever_tapped((Variant((), ((),), 1.0),), taps, apart=True)))
    faults = (
        Hypothesis(
            (fault,),
            fault.kind.frequency,
            tuple(_wherever_tapped(_variants(wiring, fault), taps, apart=fault.kind.of in AHEAD_OF_TAPS)),
        )
        for fault in faults_of(wiring.unit)
        # A bridge shows nothing until the air is far too hot: it is recorded, or seen, and never sought.
        if fault.component not in wiring.unit.idle_switches and fault.mode != "bridged"
    )
    return (sound, *faults)


def pair_of(one: Hypothesis, two: Hypothesis, stretches: Sequence[tuple[int, int]]) -> Hypothesis:
    """Two single faults at once, in these stretches of each."""
    both = [(one.variants[a], two.variants[b]) for a, b in stretches]
    whole = sum(a.share * b.share for a, b in both)
    variants = tuple(
        Variant(_with(a.clock, b.clock), tuple(_corners_of(a, b)), a.share * b.share / whole) for a, b in both
    )
    return Hypothesis(one.faults + two.faults, one.weight * two.weight, variants)


def _corners_of(one: Variant, two: Variant) -> Iterator[tuple[Fault, ...]]:
    """Those of both, where the tie begins alike; else as the first has it."""
    every = list(product(one.corners, two.corners))
    alike = [(left, right) for left, right in every if _tap_of(left) == _tap_of(right)]
    return (_with(left, right) for left, right in alike or every)


def _with(left: tuple[Fault, ...], right: tuple[Fault, ...]) -> tuple[Fault, ...]:
    """Faults of both; the tie begins at one place."""
    tapped = _tap_of(left) is not None
    return left + tuple(fault for fault in right if not (tapped and fault.kind is TAPPED))


def _wherever_tapped(variants: Iterable[Variant], taps: Sequence[Fault], *, apart: bool) -> Iterator[Variant]:
    """Variants of every place where the tie may begin: each weighed for itself where the fault may be ahead
    of it, ``apart``; else their readings lie between those of the places."""
    for one in variants:
        if not taps:
            yield one
        elif apart:
            for tap in taps:
                corners = tuple((*corner, tap) for corner in one.corners)
                yield Variant((*one.clock, tap), corners, one.share / len(taps))
        else:
            yield replace(one, corners=tuple((*corner, tap) for corner in one.corners for tap in taps))


def _tap_of(corner: Sequence[Fault]) -> Fault | None:
    return next((fault for fault in corner if fault.kind is TAPPED), None)


def work_on(unit: Unit, fault: Fault) -> str:
    """The decision that a fault asks for: the part to work on. A switch's is its device."""
    control = unit.control_of_switch.get(fault.component)
    if control is not None:
        return control.id
    if fault.component in unit.circuit_by_id and fault.mode in ("no-supply", "low-volts"):
        return f"{fault.component}.supply"
    return fault.component


def decision_of(unit: Unit, hypothesis: Hypothesis) -> str:
    return "+".join(sorted({work_on(unit, fault) for fault in hypothesis.faults})) or NONE


def _variants(wiring: Wiring, fault: Fault) -> Iterator[Variant]:
    places = _places(wiring, fault)
    sizes = fault.kind.sizes
    for place, place_share in places:
        at = replace(fault, place=place)
        if sizes is None:
            yield Variant((at,), _alone(at), place_share)
            continue
        for low, middle, high in sizes.stretches():
            yield Variant(
                (replace(at, size=middle),),
                tuple((corner,) for corner in _corners(at, (low, high))),
                place_share * sizes.share(low, high),
            )


def _alone(fault: Fault) -> tuple[tuple[Fault, ...], ...]:
    """A fault without a size; behind a dead rectifier a coil may draw as ever, or nothing."""
    if fault.mode != "no-rectifier-output":
        return ((fault,),)
    return ((fault,), (fault, fault_of(fault.component, "device", "coil-open")))


def _places(wiring: Wiring, fault: Fault) -> Sequence[tuple[str, float]]:
    match fault.kind.of, fault.mode:
        case "circuit", "open":
            return OPEN_LEGS
        case "circuit", "loose":
            return LOOSE_LEGS
        case _, "slow":
            first_s = first_window_s(wiring.unit, fault.component)
            return [(f"{low:.6g}…{high:.6g}", share) for low, high, share in slow_stretches(first_s)]
        case _, "grounded":
            return [(place, 1 / len(GROUNDED_PLACES)) for place in GROUNDED_PLACES]
        case "wire", _:
            found = joints(wiring, fault.component.removesuffix(".wire"))
            return [(joint, 1 / len(found)) for joint in found]
    return (("", 1.0),)


def first_window_s(unit: Unit, device: str) -> float:
    """By when the first of a device's switches has acted, s; no less than one."""
    control = unit.control_by_id.get(device)
    bands = [s.on_s for s in control.switches] if control else [unit.relay.on_s] if unit.relay else []
    return max(1.0, min((band.high for band in bands), default=1.0))


def _corners(fault: Fault, sizes: tuple[float, float]) -> Iterator[Fault]:
    places = GROUNDED_PLACES.get(fault.place, ()) if fault.mode == "grounded" else (fault.place,)
    for place, size in product(places, sizes):
        yield replace(fault, place=place, size=size)
