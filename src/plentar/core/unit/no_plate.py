"""A unit without a plate: its strips worked out from cold ohms, limits counted, or stated totals."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from plentar.core.errors import BadInput
from plentar.core.said import Said, figure, listed, plain, say
from plentar.core.unit.ratings import Rating

#: What strips are commonly stamped with, kW.
STAMPED_KW = (2.5, 3.0, 3.5, 3.6, 3.8, 4.0, 4.8, 5.0, 5.2, 6.0, 7.5, 8.0, 10.0)
#: Those that are met every day, and come first where several fit.
USUAL_KW = frozenset({3.5, 4.8, 5.0, 7.5, 10.0})
#: Cold ohms over hot as rated, in the middle of both tolerances.
LIKELIEST = 0.95 / 0.975


@dataclass(frozen=True, slots=True)
class Strip:
    """One strip as worked out: the likeliest stamping, kW, and the others that fit as well."""

    kw: float
    also: tuple[float, ...]
    because: Said


@dataclass(frozen=True, slots=True)
class WorkedOut:
    strips: tuple[Strip, ...]
    sure: Said

    @property
    def total_kw(self) -> float:
        return sum(strip.kw for strip in self.strips)


def strip_of_ohms(cold_ohms: float, rated_volts: float) -> Strip:
    """The stampings that a strip of so many cold ohms may bear, the nearest first.

    Raises BadInput at ``ohms`` where none does.
    """
    fits = [kw for kw in STAMPED_KW if cold_ohms in Rating(1000 * kw, rated_volts).expected_cold_ohms]
    if not fits:
        raise BadInput(
            "ohms",
            say(
                "unit.no-plate.fits-no-common-strip",
                cold_ohms=figure(cold_ohms, "Ω"),
                rated_volts=plain(rated_volts),
            ),
        )

    def off(kw: float) -> tuple[bool, float]:
        return kw not in USUAL_KW, abs(cold_ohms / Rating(1000 * kw, rated_volts).hot_ohms - LIKELIEST)

    nearest, *others = sorted(fits, key=off)
    return Strip(nearest, tuple(sorted(others)), say("unit.no-plate.cold", cold_ohms=figure(cold_ohms, "Ω")))


def work_out(
    rated_volts: float,
    ohms: Sequence[float] = (),
    limits: int | None = None,
    amps: float | None = None,
    kw: float | None = None,
) -> WorkedOut:
    """The strips by what is known of them, the surest first: ohms, else the stated total (kW, or
    amps of the elements at rated volts) over the limits counted, one a strip.

    Raises BadInput where that is not enough, or fits nothing.
    """
    if ohms:
        strips = tuple(strip_of_ohms(one, rated_volts) for one in ohms)
        doubt = [
            say("unit.no-plate.kw-may", kw=plain(s.kw), also=listed((plain(o) for o in s.also), "or"))
            for s in strips
            if s.also
        ]
        sure = (
            say("unit.no-plate.ohms-alone", doubt=listed(dict.fromkeys(doubt), ";"))
            if doubt
            else say("unit.no-plate.one-stamping-fits-each")
        )
        if limits is not None and limits != len(strips):
            sure += say("unit.no-plate.limits-were-counted-strips", limits=limits, len=len(strips))
        return WorkedOut(strips, sure)
    total = kw if kw is not None else amps * rated_volts / 1000 if amps is not None else None
    if total is None:
        raise BadInput("ohms", say("unit.no-plate.cold-ohms-each-strip"))
    if not limits:
        raise BadInput("limits", say("unit.no-plate.how-many-limits-there"))
    share = total / limits
    nearest = min(STAMPED_KW, key=lambda one: abs(one - share))
    off = abs(nearest - share) / share
    strips = (
        Strip(nearest, (), say("unit.no-plate.over", total=figure(total, "kW"), limits=limits)),
    ) * limits
    if off > 0.1:
        raise BadInput("limits", say("unit.no-plate.strip-no-common-one", share=figure(share, "kW")))
    return WorkedOut(strips, say("unit.no-plate.total-limits-counted-read"))
