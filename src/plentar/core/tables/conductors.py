"""Conductors: resistance at 75 °C, stranded (NEC chapter 9 table 8), Ω per 1000 ft."""

from __future__ import annotations

_OHMS_PER_KFT = {
    "copper": {
        "14": 3.14, "12": 1.98, "10": 1.24, "8": 0.778, "6": 0.491, "4": 0.308, "3": 0.245,
        "2": 0.194, "1": 0.154, "1/0": 0.122, "2/0": 0.0967,
    },
    "aluminium": {
        "12": 3.25, "10": 2.04, "8": 1.28, "6": 0.808, "4": 0.508, "3": 0.403, "2": 0.319,
        "1": 0.253, "1/0": 0.201, "2/0": 0.159,
    },
}  # fmt: skip


def ohms_per_kft(awg: str, material: str) -> float:
    """Ω per 1000 ft of one conductor; aluminium is not made in 14 AWG and counts as 12."""
    table = _OHMS_PER_KFT[material]
    return table.get(awg, table["12"])
