"""What a conductor may carry as it is laid, what may protect it, and what it drops.

``circuit_amps`` is the breaker that it is behind, where there is one: of terminals that nobody has
given it says which column counts (110.14(C)).
"""

from __future__ import annotations

from plentar.core.tables.conductors import (
    AMBIENT,
    AMPACITY,
    COLUMN,
    MOST_AMBIENT_C,
    MOST_COOL_AMPS,
    OHMS_PER_KFT,
    SIZES_AT_75_C,
    SMALL_MOST_AMPS,
    STANDARD_SIZES,
)
from plentar.core.unit.parts import Conductor


def ohms_per_kft(conductor: Conductor) -> float:
    """Ω per 1000 ft of one conductor; aluminium is not made in 14 AWG and counts as 12."""
    table = OHMS_PER_KFT[conductor.material]
    return table.get(conductor.awg, table["12"])


def thinnest_ohms_per_kft(breaker_amps: float) -> float:
    """Ω per 1000 ft of the thinnest conductor, of either metal, that may lie behind such a breaker on 75 °C
    terminals."""
    found = []
    for metal, sizes in AMPACITY.items():
        carries = [awg for awg, columns in sizes.items() if columns[COLUMN[75]] >= breaker_amps]
        table = OHMS_PER_KFT[metal]
        found += [max(table[awg] for awg in carries if awg in table)] if carries else []
    return max(found, default=0.1)


def dropped_volts(conductor: Conductor, amps: float) -> float:
    """Both ways of a wire under a current, V."""
    return 2 * conductor.length_ft / 1000 * ohms_per_kft(conductor) * amps


def termination_c(conductor: Conductor, circuit_amps: float | None = None) -> int:
    """What its terminals stand, °C: as given, else 60 up to 100 A and 1 AWG, 75 above."""
    if conductor.termination_c is not None:
        return conductor.termination_c
    large = conductor.awg in SIZES_AT_75_C or (circuit_amps or 0.0) > MOST_COOL_AMPS
    return 75 if large else 60


def allowed_amps(conductor: Conductor, circuit_amps: float | None = None) -> float | None:
    """What a conductor may carry as it is laid; None where the tables do not reach.

    The termination column uncorrected, or the insulation column corrected for the ambient,
    whichever is less; nonmetallic-sheathed cable not above its 60 °C column.
    """
    columns = AMPACITY[conductor.material].get(conductor.awg)
    if columns is None or conductor.ambient_c > MOST_AMBIENT_C:
        return None
    column = COLUMN[conductor.insulation_c]
    shares = next(shares for upto, shares in AMBIENT if conductor.ambient_c <= upto)
    ends = columns[COLUMN[termination_c(conductor, circuit_amps)]]
    allowed = min(ends, columns[column] * shares[column])
    return min(allowed, columns[0]) if conductor.cable == "nm" else allowed


def terminal_amps(conductor: Conductor, circuit_amps: float | None = None) -> float:
    """What its terminals may carry of it, before any correction: 125 % of the load is held against
    this (210.19(A)(1)). Nonmetallic-sheathed cable not above its 60 °C column; 0 where the tables do
    not reach."""
    columns = AMPACITY[conductor.material].get(conductor.awg, (0, 0, 0))
    column = 60 if conductor.cable == "nm" else termination_c(conductor, circuit_amps)
    return float(columns[COLUMN[column]])


def largest_breaker_amps(conductor: Conductor, circuit_amps: float | None = None) -> float | None:
    """The largest breaker that may protect a conductor: the next size up where its ampacity is
    no standard size (240.4(B)), and never more than a small conductor may have."""
    allowed = allowed_amps(conductor, circuit_amps)
    if allowed is None:
        return None
    largest = float(next((size for size in STANDARD_SIZES if size >= allowed), allowed))
    return min(largest, SMALL_MOST_AMPS[conductor.material].get(conductor.awg, largest))


def next_size_amps(amps: float) -> float | None:
    return next((float(size) for size in STANDARD_SIZES if size >= amps), None)
