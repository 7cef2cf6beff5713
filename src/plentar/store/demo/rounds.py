"""What each yearly round found at each home: the condition it was in, and what was said of it."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date

from plentar.store.demo.readings import Condition


@dataclass(frozen=True)
class Plan:
    """One home in one round. ``readings`` stops after so many, for a visit that is going on;
    ``welded`` are the contacts that were found welded, and replaced with their whole set."""

    day: int
    who: str
    condition: Condition = field(default_factory=Condition)
    complaint: str = "check-up"
    readings: int | None = None
    left_note: str = ""
    follow_up: str = ""
    outcome: str = "in-service"
    looked: tuple[tuple[str, str], ...] = ()
    made_safe: tuple[tuple[str, str, str], ...] = ()
    welded: tuple[str, ...] = ()
    replaced: tuple[str, ...] = ()


@dataclass(frozen=True)
class YearlyRound:
    title: str
    opened_on: date
    due_on: date
    plans: dict[int, Plan]


def _sound(day: int, who: str, volts: float = 240.0) -> Plan:
    return Plan(day, who, Condition(idle_volts=volts))


ROUNDS = (
    YearlyRound(
        "October 2024",
        date(2024, 10, 7),
        date(2024, 10, 25),
        {
            1: _sound(7, "tobias", 241),
            2: Plan(7, "tobias", Condition(acts={"S1.2": 0.62})),
            3: Plan(8, "wen", Condition(idle_volts=241, pole_volts=0.05)),
            4: _sound(8, "wen", 240),
            5: _sound(9, "tobias", 241),
            6: _sound(9, "wen", 242),
            7: _sound(10, "ines"),
            8: Plan(10, "ines", Condition(idle_volts=208, source_ohms=0.03)),
            9: _sound(11, "wen", 239),
            10: _sound(14, "tobias", 241),
            11: Plan(14, "tobias", Condition(idle_volts=240, coil_ohms={"K1": 8.9})),
            12: _sound(15, "wen", 241),
            13: _sound(15, "ines", 240),
            14: _sound(16, "tobias", 239),
        },
    ),
    YearlyRound(
        "October 2025",
        date(2025, 10, 6),
        date(2025, 10, 24),
        {
            1: _sound(6, "tobias", 242),
            2: Plan(
                6,
                "tobias",
                Condition(acts={"S1.2": 0.93}),
                left_note="Second stage near the end of its window; it was quicker last year.",
            ),
            3: Plan(
                7,
                "wen",
                Condition(idle_volts=241, pole_volts=0.1),
                left_note="4 W at the feed lug under full heat, 2 W last year. Look at it next time.",
            ),
            4: _sound(7, "wen", 239),
            5: _sound(8, "tobias", 240),
            6: Plan(
                8,
                "wen",
                Condition(idle_volts=243),
                left_note="Filter was packed, little air. Changed.",
                looked=(("filter", "poor"),),
            ),
            7: Plan(
                9,
                "ines",
                Condition(idle_volts=240),
                "heat-will-not-stop",
                left_note="K1 had welded. The set of three was replaced, like for like.",
                welded=("K1.1",),
                replaced=("K1", "K2", "K3"),
            ),
            8: Plan(9, "ines", Condition(idle_volts=207, source_ohms=0.03)),
            9: Plan(
                10,
                "wen",
                Condition(idle_volts=240),
                looked=(("insulation", "burnt"),),
                left_note="A wire with burnt insulation on the second rung, cut back. Look again.",
                made_safe=(("whole-unit", "insulation", "cut back to sound wire, new crimp and sleeve"),),
            ),
            10: Plan(
                13,
                "tobias",
                Condition(idle_volts=240),
                left_note="Conductor of the second circuit is small for its breaker: left off.",
                follow_up="An electrician for the second circuit.",
                outcome="heat-disabled",
            ),
            11: Plan(13, "tobias", Condition(idle_volts=241, coil_ohms={"K1": 8.1})),
            12: _sound(14, "wen", 240),
            13: _sound(14, "ines", 241),
            14: _sound(15, "tobias", 240),
        },
    ),
    YearlyRound(
        "October 2026",
        date(2026, 10, 5),
        date(2026, 10, 30),
        {
            1: _sound(5, "tobias", 242),
            2: Plan(
                5,
                "tobias",
                Condition(acts={"S1.2": 1.4}),
                left_note="Second stage comes late, later than last year. Runs until the part is here.",
                follow_up="Sequencer on order, same windows as printed.",
            ),
            3: Plan(
                6,
                "wen",
                Condition(idle_volts=241, pole_volts=0.2),
                left_note="8 W at the feed lug with both strips on, 4 W last year; a re-made lug is on order.",
            ),
            4: _sound(6, "wen", 239),
            5: Plan(
                12,
                "tobias",
                Condition(idle_volts=240, open_rungs={"E2": "S1.2"}),
                "not-enough-heat",
                readings=6,
            ),
            6: Plan(7, "wen", Condition(idle_volts=243), left_note="Filter clean this time."),
            7: _sound(7, "ines"),
            8: Plan(8, "ines", Condition(idle_volts=207, source_ohms=0.03)),
            11: Plan(
                8,
                "tobias",
                Condition(idle_volts=241, coil_ohms={"K1": 6.9}),
                left_note="Control fuse blew twice; contactor coil reads lower than its range.",
                follow_up="Contactor on order, 24 V coil, two poles.",
            ),
            12: _sound(9, "wen"),
        },
    ),
)
#: After which round a home's plate became what it is: at 13 the tie went missing when a part was
#: swapped; at 10 the conductor was looked at for the first time.
PLATE_CHANGED_AFTER = {13: "October 2025", 10: "October 2024"}
