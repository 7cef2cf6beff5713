"""What may take a failed part's place: pairs worked by hand. A contact is to carry its load and no more:
5.4 kW at 240 V are 22.5 A, 5.5 kW 22.92; with the blower on the tapped switch (0.65 of its
3.4 A) 24.71 and 25.13 A of 25."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.relay_bench.substitute import substitute
from plentar.core.unit.kits import sequencer
from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.parts import Coil, OtherLoad
from plentar.core.unit.terminals import PartKind
from plentar.core.unit.unit import Unit
from plentar.core.unit.usual_print import as_usually_printed
from tests.kits import Kit, build_kit


def unit(control: str, kw: float = 4.0, strips: int = 1, fla: float | None = 3.4, **kit) -> Unit:
    made = build_kit(Kit((kw * 1000,) * strips, 240, control, **kit), "one", "")
    return replace(made, blower=replace(made.blower, fla=fla))


def chained() -> Unit:
    """S1 has a strip's switch and one that passes the call on to S2."""
    made = unit("single-sequencers", strips=2)
    first, second = sequencer(1, ["element", "auxiliary"], "W1"), made.controls[1]
    return as_usually_printed(replace(made, controls=(first, replace(second, call=None, through="S1.A"))))


def power(made: Unit, **given) -> Unit:
    loads = (OtherLoad("OD", "Y", 8.0),)
    return replace(made, control_power=replace(made.control_power, **given), other_loads=loads)


def own(name: str, **given) -> PartKind:
    return replace(PART_KINDS[name], name="own", **given)


def as_printed(made: Unit) -> PartKind:
    """A stack with the very windows of S1."""
    kind, first = PART_KINDS[f"sequencer-{len(made.controls[0].switches)}"], made.controls[0]
    sets = (replace(o, on_s=s.on_s, off_s=s.off_s) for o, s in zip(kind.sets, first.switches, strict=True))
    return replace(kind, name="own", sets=tuple(sets), coil_va=6.0)


SAME, CHANGES, NO = "same", "changes", "no"
STACK = unit("stacked-sequencer", strips=3)
PAIRS = [
    # a heat relay behind its rectifier
    (unit("relays-dc"), "K1", "heat-relay-dc", SAME, ""),
    (unit("relays-dc"), "K1", "contactor-1", CHANGES, "kind, coil kind, blades"),
    (unit("relays-dc"), "K1", "heat-relay-ac", CHANGES, "kind, coil kind, blades"),
    (unit("relays-dc", 5.0), "K1", "heat-relay-ac", CHANGES, "kind, coil kind, blades"),
    (unit("relays-dc", 5.4), "K1", "heat-relay-ac", CHANGES, "kind, coil kind, blades"),
    (unit("relays-dc", 5.5), "K1", "heat-relay-ac", NO, "contact amps"),
    (unit("relays-dc", tie="g-with-w", relay="board"), "K1", "sequencer-1", NO, "run-on"),
    (unit("relays-dc"), "K1", "sequencer-1", CHANGES, "kind, coil kind, staging, blades"),
    (unit("relays-dc"), "K1", "heat-relay-dc-board", NO, "mounting"),
    (power(unit("relays-dc"), va=19.0), "K1", "contactor-1", NO, "coil VA"),
    (power(unit("relays-dc"), va=75.0, fuse_amps=0.8), "K1", "contactor-1", NO, "coil VA"),
    (power(unit("relays-dc"), va=20.0), "K1", "contactor-1", CHANGES, "kind, coil kind, blades"),
    # an AC heat relay
    (unit("relays-ac"), "K1", "heat-relay-ac", SAME, ""),
    (unit("relays-ac", 5.0), "K1", "relay-spdt", NO, "contact amps"),
    (unit("relays-ac"), "K1", "heat-relay-dc", CHANGES, "kind, coil kind, blades"),
    (unit("relays-ac"), "K1", own("heat-relay-ac", resistive_amps=None), NO, "contact amps"),
    (unit("relays-ac"), "K1", own("heat-relay-ac", coil_volts=120.0), NO, "coil volts"),
    # contactors
    (unit("contactors", 5.0), "K1", "contactor-2", SAME, ""),
    (unit("contactors"), "K1", "contactor-1", NO, "poles"),
    (unit("contactors"), "K1", "sequencer-2", CHANGES, "kind, staging"),
    (unit("contactors", 5.0), "K1", "sequencer-2", CHANGES, "kind, staging"),
    (unit("contactors", 7.5), "K1", "contactor-2", NO, "contact amps"),
    # sequencers
    (unit("double-sequencers", strips=2), "S1", "sequencer-3", CHANGES, "poles, staging"),
    (unit("double-sequencers", strips=2), "S1", "sequencer-1", NO, "poles"),
    (unit("double-sequencers", strips=2), "S1", "contactor-2", CHANGES, "kind, staging"),
    (unit("double-sequencers", strips=2, tie="sequencer-switch"), "S1", "sequencer-2", NO, "poles"),
    (unit("double-sequencers", strips=2, tie="sequencer-switch"), "S1", "sequencer-3", CHANGES, "staging"),
    (STACK, "S1", as_printed(STACK), SAME, ""),
    (STACK, "S1", "sequencer-3", CHANGES, "staging"),
    (STACK, "S1", "sequencer-5", CHANGES, "poles, staging"),
    (STACK, "S1", "contactor-2", NO, "poles"),
    (chained(), "S1", "sequencer-2", CHANGES, "staging"),
    (chained(), "S1", "sequencer-1", NO, "poles"),
    # the blower's relay
    (unit("contactors"), "BR", "relay-spdt", SAME, ""),
    (unit("contactors"), "BR", "relay-open", SAME, ""),
    (unit("contactors"), "BR", "relay-dpdt", CHANGES, "kind, poles"),
    (unit("contactors"), "BR", "relay-tied", CHANGES, "blades"),
    (unit("contactors"), "BR", "contactor-1", NO, "throws"),
    (unit("single-sequencers", tie="sequencer-switch"), "BR", "contactor-1", CHANGES, "kind"),
    (unit("contactors"), "BR", "heat-relay-ac", NO, "throws, contact amps"),
    (unit("contactors", fla=13.0), "BR", "relay-spdt", NO, "contact amps"),
    (unit("contactors", fla=11.0), "BR", "relay-spdt", SAME, ""),
    (unit("contactors", fla=11.0), "BR", "relay-dpdt", CHANGES, "kind, poles"),
    (unit("contactors", fla=12.5), "BR", "relay-dpdt", NO, "contact amps"),
    (unit("contactors", fla=None), "BR", "relay-spdt", SAME, ""),
    (unit("contactors", fla=None), "BR", "relay-dpdt", CHANGES, "kind, poles, contact amps"),
    (unit("contactors", fla=None), "BR", own("relay-spdt", motor_amps=9.0), NO, "contact amps"),
    (unit("contactors"), "BR", "relay-board", NO, "mounting"),
    (unit("contactors", relay="board"), "BR", "relay-spdt", CHANGES, "kind, blades, mounting"),
    (unit("relays-ac", tie="g-with-w", relay="time-delay"), "BR", "relay-spdt", CHANGES, "kind"),
    (
        unit("double-sequencers", strips=2, tie="g-with-w", relay="time-delay"),
        "BR",
        "relay-spdt",
        NO,
        "run-on",
    ),
]


@pytest.mark.parametrize("pair", PAIRS, ids=[f"{n}-{p[1]}" for n, p in enumerate(PAIRS, 1)])
def test_pairs_worked_by_hand(pair):
    made, device, new, verdict, because = pair
    found = substitute(made, device, PART_KINDS[new] if isinstance(new, str) else new)
    level = {SAME: (), CHANGES: ("change",), NO: ("no",)}[verdict]
    said = {point.what for point in found.points if str(point.fit) in level}
    assert (str(found.verdict), said) == (verdict, {w for w in because.split(", ") if w}), [
        (p.what, str(p.fit), p.text) for p in found.points
    ]


def test_every_point_says_something_and_like_for_like_is_the_same_for_every_kind_in_place():
    for control in ("single-sequencers", "contactors", "relays-ac", "relays-dc"):
        made = unit(control)
        device = made.controls[0]
        found = substitute(
            made,
            device.id,
            as_printed(made)
            if control.startswith("single")
            else {
                "contactor": PART_KINDS["contactor-2"],
                "relay-ac": PART_KINDS["heat-relay-ac"],
                "relay-dc": PART_KINDS["heat-relay-dc"],
            }[device.type],
        )
        assert str(found.verdict) == SAME
        assert all(point.text for point in found.points)


def test_a_coil_that_draws_more_is_weighed_with_everything_that_is_called():
    """The relay's 5 VA, the contactor's 7, the outdoor one's 8: 20 of 20, and 21 are too many."""
    made = power(unit("relays-dc"), va=20.0)
    new = own("contactor-1", coil_va=7.0)
    assert str(substitute(made, "K1", new).verdict) == CHANGES
    assert str(substitute(made, "K1", replace(new, coil_va=8.0)).verdict) == NO
    assert made.controls[0].coil == Coil(24, made.controls[0].coil.ohms, 2)
