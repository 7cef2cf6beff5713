"""Conductor ampacity and standard breaker sizes, with the rules that bind them (NEC)."""

from __future__ import annotations

from plentar.core.unit import Conductor

#: Not more than three current-carrying conductors, 30 °C, for 60/75/90 °C (Table 310.16), A.
_AMPACITY = {
    "copper": {
        "14": (15, 20, 25), "12": (20, 25, 30), "10": (30, 35, 40), "8": (40, 50, 55),
        "6": (55, 65, 75), "4": (70, 85, 95), "3": (85, 100, 115), "2": (95, 115, 130),
        "1": (110, 130, 145), "1/0": (125, 150, 170), "2/0": (145, 175, 195),
    },
    "aluminium": {
        "12": (15, 20, 25), "10": (25, 30, 35), "8": (35, 40, 45), "6": (40, 50, 55),
        "4": (55, 65, 75), "3": (65, 75, 85), "2": (75, 90, 100), "1": (85, 100, 115),
        "1/0": (100, 120, 135), "2/0": (115, 135, 150),
    },
}  # fmt: skip
_COLUMN = {60: 0, 75: 1, 90: 2}
#: From this ambient on, the share of ampacity that is left for 60/75/90 °C (310.15(B)(1)).
_AMBIENT = (
    (30, (1.0, 1.0, 1.0)), (35, (0.91, 0.94, 0.96)), (40, (0.82, 0.88, 0.91)),
    (45, (0.71, 0.82, 0.87)), (50, (0.58, 0.75, 0.82)), (55, (0.41, 0.67, 0.76)),
    (60, (0.0, 0.58, 0.71)), (65, (0.0, 0.47, 0.65)), (70, (0.0, 0.33, 0.58)),
)  # fmt: skip
#: The most that may protect a small conductor (240.4(D)), A.
_SMALL = {
    "copper": {"14": 15, "12": 20, "10": 30},
    "aluminium": {"12": 15, "10": 25},
}
#: 240.6(A), A.
STANDARD_SIZES = (
    15, 20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 100, 110, 125, 150, 175, 200, 225,
)  # fmt: skip
MOST_AMBIENT_C = 70.0


def allowed_amps(conductor: Conductor) -> float | None:
    """What a conductor may carry as it is laid; None where the tables do not reach.

    The termination column uncorrected, or the insulation column corrected for the ambient,
    whichever is less; nonmetallic-sheathed cable not above its 60 °C column.
    """
    columns = _AMPACITY[conductor.material].get(conductor.awg)
    if columns is None or conductor.ambient_c > MOST_AMBIENT_C:
        return None
    column = _COLUMN[conductor.insulation_c]
    shares = next(shares for upto, shares in _AMBIENT if conductor.ambient_c <= upto)
    allowed = min(columns[_COLUMN[conductor.termination_c]], columns[column] * shares[column])
    return min(allowed, columns[0]) if conductor.cable == "nm" else allowed


def largest_breaker_amps(conductor: Conductor) -> float | None:
    """The largest breaker that may protect a conductor: the next size up where its ampacity is
    no standard size (240.4(B)), and never more than a small conductor may have."""
    allowed = allowed_amps(conductor)
    if allowed is None:
        return None
    largest = float(next((size for size in STANDARD_SIZES if size >= allowed), allowed))
    return min(largest, _SMALL[conductor.material].get(conductor.awg, largest))


def next_size_amps(amps: float) -> float | None:
    """The smallest standard breaker at or above a current."""
    return next((float(size) for size in STANDARD_SIZES if size >= amps), None)
