"""Conductors: ampacity, resistance and the breakers that may protect them (NEC)."""

from __future__ import annotations

#: Not more than three current-carrying conductors, 30 °C, for 60/75/90 °C (Table 310.16), A.
AMPACITY = {
    "copper": {
        "14": (15, 20, 25),
        "12": (20, 25, 30),
        "10": (30, 35, 40),
        "8": (40, 50, 55),
        "6": (55, 65, 75),
        "4": (70, 85, 95),
        "3": (85, 100, 115),
        "2": (95, 115, 130),
        "1": (110, 130, 145),
        "1/0": (125, 150, 170),
        "2/0": (145, 175, 195),
    },
    "aluminium": {
        "12": (15, 20, 25),
        "10": (25, 30, 35),
        "8": (35, 40, 45),
        "6": (40, 50, 55),
        "4": (55, 65, 75),
        "3": (65, 75, 85),
        "2": (75, 90, 100),
        "1": (85, 100, 115),
        "1/0": (100, 120, 135),
        "2/0": (115, 135, 150),
    },
}
COLUMN = {60: 0, 75: 1, 90: 2}
#: From this ambient on, the share of ampacity that is left for 60/75/90 °C (310.15(B)(1)).
AMBIENT = (
    (30, (1.0, 1.0, 1.0)),
    (35, (0.91, 0.94, 0.96)),
    (40, (0.82, 0.88, 0.91)),
    (45, (0.71, 0.82, 0.87)),
    (50, (0.58, 0.75, 0.82)),
    (55, (0.41, 0.67, 0.76)),
    (60, (0.0, 0.58, 0.71)),
    (65, (0.0, 0.47, 0.65)),
    (70, (0.0, 0.33, 0.58)),
)
#: The most that may protect a small conductor (240.4(D)), A.
SMALL_MOST_AMPS = {"copper": {"14": 15, "12": 20, "10": 30}, "aluminium": {"12": 15, "10": 25}}
#: 240.6(A), A.
STANDARD_SIZES = (15, 20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 100, 110, 125, 150, 175, 200, 225)
MOST_AMBIENT_C = 70.0
#: Terminals that nobody has given stand 60 °C up to this circuit and these sizes (110.14(C)).
MOST_COOL_AMPS = 100.0
SIZES_AT_75_C = frozenset({"1/0", "2/0"})

#: Ω per 1000 ft of one conductor at 75 °C, stranded (chapter 9 table 8).
OHMS_PER_KFT = {
    "copper": {
        "14": 3.14,
        "12": 1.98,
        "10": 1.24,
        "8": 0.778,
        "6": 0.491,
        "4": 0.308,
        "3": 0.245,
        "2": 0.194,
        "1": 0.154,
        "1/0": 0.122,
        "2/0": 0.0967,
    },
    "aluminium": {
        "12": 3.25,
        "10": 2.04,
        "8": 1.28,
        "6": 0.808,
        "4": 0.508,
        "3": 0.403,
        "2": 0.319,
        "1": 0.253,
        "1/0": 0.201,
        "2/0": 0.159,
    },
}
