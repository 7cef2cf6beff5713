"""The relay bench: contact tables, wirings of every kind, repeated starts, the sheet, the motor."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.door import judge
from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.relay_bench.contacts import (
    device_verdict,
    leads_in_words,
    leads_of,
    readings_of,
    repeats_of,
    rows_of,
    set_verdicts,
)
from plentar.core.relay_bench.fitted import drawer, fitted
from plentar.core.relay_bench.motor import Leaf, trunks, walk
from plentar.core.relay_bench.proof import prove, prove_wiring
from plentar.core.relay_bench.sheet import open_sheets, plan, sheet_of
from plentar.core.relay_bench.wires import right_wires, wires_of
from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.parts import BlowerRelay, Wire
from plentar.core.unit.terminals import ContactSet, PartKind, Terminal
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import (
    BACK,
    FEELS,
    LANDED,
    LEADS,
    PROVED_DEAD,
    TAKEN_OFF,
    Calls,
    Felt,
    Power,
    Reading,
    Replaced,
    Swap,
    Tested,
    Tried,
    Visit,
    WireMoved,
)
from plentar.files.unit_json import UnitJson, unit_to_json
from tests.kits import Kit, build_kit

OL = math.inf


def unit(control: str = "contactors", strips: int = 1, relay: str = "spdt", **kit) -> Unit:
    made = build_kit(Kit((5000.0,) * strips, 240, control, relay=relay, **kit), "one", "")
    return replace(made, blower=replace(made.blower, fla=3.4, capacitor_uf=7.5))


def place_for(kind: PartKind) -> tuple[Unit, str]:
    """A unit that a kind belongs in, and the id of its place."""
    if kind.device in ("spdt", "dpdt", "time-delay", "board"):
        return unit(relay=kind.device), "BR"
    control = {
        "sequencer": "stacked-sequencer",
        "contactor": "contactors",
        "relay-ac": "relays-ac",
        "relay-dc": "relays-dc",
    }[kind.device]
    made = unit(control, strips=min(4, len(kind.sets)) if kind.device == "sequencer" else 1)
    if kind.name == "contactor-1":
        made = unit("relays-ac")
    return made, made.controls[0].id


@pytest.mark.parametrize("kind", PART_KINDS.values(), ids=list(PART_KINDS))
def test_the_right_wiring_of_every_kind_is_right_and_a_wire_less_is_not(kind):
    made, place = place_for(kind)
    device = made.device_by_id[place]
    wires = right_wires(made, device, kind)

    def proof(of: tuple[Wire, ...]):
        ends: dict[str, tuple[str, ...]] = {}
        for wire in of:
            ends[wire.terminal] = (*ends.get(wire.terminal, ()), wire.to)
        return prove_wiring(made, device, kind, ends)

    found = proof(wires)
    assert found.right, (found.wrong, found.beside)
    # The tie's own wire on a heat switch is its neighbour's business; every other is missed.
    for gone in (wire for wire in wires if wire.to != "tie"):
        assert not proof(tuple(w for w in wires if w is not gone)).right, gone


@pytest.mark.parametrize(
    ("ends", "codes"),
    [
        ({"COM": ("blower",), "NO": ("L1",), "NC": ("heat", "blower-2")}, {"two-speeds"}),
        ({"COM": ("blower",), "NO": ("L1",), "NC": ("G",)}, {"line-on-coil"}),
        ({"COM": ("blower",), "NO": ("L1",), "NC": ("heat",), "B": ("G",)}, {"coil-not-fed"}),
        ({"COM": ("blower", "L1"), "NO": ("L1",), "NC": ("heat",)}, {"heat-always", "blower-always"}),
        ({"COM": ("blower",), "NO": ("=NC",), "NC": ("heat",)}, {"no-blower-on-g"}),
    ],
    ids=["two speeds at once", "line on G", "coil on one wire", "L1 on common too", "jumper for L1"],
)
def test_what_else_a_terminal_can_be_wired_to(ends, codes):
    made = unit("relays-ac")
    coil = {"A": ("G",), "B": ("C",)}
    found = prove_wiring(made, made.relay, PART_KINDS["relay-spdt"], coil | ends)
    assert codes <= {str(code) for code in (*found.wrong, *found.beside)}
    for wrong, way in (found.ways or {}).items():
        assert way[0] == "L1" and len(way) > 1, wrong


def test_the_blowers_switch_of_a_stack_has_its_own_set_and_in_another_part_the_one_that_drops_last():
    made = unit("double-sequencers", strips=2, tie="sequencer-switch")
    device = made.controls[0]
    assert [s.id for s in device.switches] == ["S1.1", "S1.2", "S1.B"]
    here = {w.to: w.terminal for w in right_wires(made, device, fitted(made, device))}
    assert here["blower"] == "N3" and here["E1"] == "N1"
    there = {w.to: w.terminal for w in right_wires(made, device, PART_KINDS["sequencer-3"])}
    assert there["blower"] == "N1" and there["E1"] == "N2"


def test_what_a_right_wiring_does_when_a_contact_fails():
    """Welded normally-closed: the fan's call feeds the strips. Burnt: no blower on heat. And so on."""
    made = unit("relays-ac")
    ends = {t: tuple(w.to for w in ws) for t, ws in wires_of(made, made.relay).items()}
    found = {
        one.fault: {str(code) for code in one.wrong}
        for one in prove_wiring(made, made.relay, PART_KINDS["relay-spdt"], ends).failing
    }
    assert found == {
        "no-stuck-open": {"no-blower-on-g"},
        "no-welded": {"blower-always"},
        "nc-stuck-open": {"no-blower-on-heat"},
        "nc-welded": {"heat-with-g", "relay-carries-element"},
    }


def test_a_relay_seen_wired_wrong_stops_the_visit_and_an_unknown_end_is_refused():
    made = unit("relays-ac")
    wired = tuple(
        Wire(f"w{n}", terminal, to)
        for n, (terminal, to) in enumerate(
            [("A", "G"), ("B", "C"), ("COM", "L1"), ("NO", "blower"), ("NC", "heat")]
        )
    )
    seen = replace(made.relay, part="relay-spdt", wired=wired)
    wrong = replace(made, blower=replace(made.blower, relay=seen))
    stops = {str(f.code): f.text for f in judge(wrong, Visit()).stops}
    assert "all the time" in stops["relay-wiring"]
    assert "relay-wiring" not in {str(f.code) for f in judge(made, Visit()).findings}
    with pytest.raises(BadInput):
        prove_wiring(made, made.relay, PART_KINDS["relay-spdt"], {"COM": ("chimney",)})


def table(*shown: tuple[str, str, bool, float]) -> tuple[Tested, ...]:
    return tuple(
        Tested(t_s=float(n), device="BR", pair=(a, b), driven=driven, ohms=ohms)
        for n, (a, b, driven, ohms) in enumerate(shown)
    )


GOOD = [
    ("COM", "NO", False, OL),
    ("COM", "NC", False, 0.1),
    ("COM", "NO", True, 0.2),
    ("COM", "NC", True, OL),
]
SETS = [
    ("good", GOOD, "good", ""),
    ("half", GOOD[:2], "open", "driven"),
    ("normally-open welded", [("COM", "NO", False, 0.1), ("COM", "NC", False, OL)], "bad", "welded"),
    ("normally-closed welded", [*GOOD[:3], ("COM", "NC", True, 0.1)], "bad", "COM–NC is closed with"),
    ("normally-open burnt", [*GOOD[:2], ("COM", "NO", True, OL), GOOD[3]], "bad", "does not close"),
    ("normally-closed burnt", [GOOD[0], ("COM", "NC", False, OL)], "bad", "COM–NC is open at rest"),
    ("does not act", [*GOOD[:2], ("COM", "NO", True, OL), ("COM", "NC", True, 0.1)], "bad", "nothing moves"),
    ("neither", [("COM", "NC", False, 40.0)], "bad", "neither open nor closed"),
]


@pytest.mark.parametrize(("shown", "state", "words"), [s[1:] for s in SETS], ids=[s[0] for s in SETS])
def test_a_set_by_its_table(shown, state, words):
    kind = PART_KINDS["relay-spdt"]
    verdict = set_verdicts(kind, rows_of(kind, readings_of(unit(), unit().relay, table(*shown), new=False)))[
        0
    ]
    assert (verdict.state, words in verdict.text) == (state, True), verdict


def test_both_sets_of_a_dpdt_are_bad_and_a_new_one_starts_anew():
    made = unit(relay="dpdt")
    welded = [("1", "2", False, 0.1), ("4", "5", False, 0.1)]
    found = [f for f in judge(made, Visit(events=table(*welded))).findings if f.component == "BR"]
    assert [str(f.code) for f in found] == ["contact-set"] and "both sets are bad" in found[0].text
    after = (*table(*welded), Replaced(t_s=9.0, component="BR"))
    assert not [f for f in judge(made, Visit(events=after)).findings if str(f.code) == "contact-set"]
    kind = fitted(made, made.relay)
    verdicts = set_verdicts(kind, rows_of(kind, readings_of(made, made.relay, table(*welded[:1]), new=False)))
    assert device_verdict(verdicts).text == "set 1 is bad"


def test_what_was_read_at_a_point_of_the_unit_counts_until_the_part_is_replaced():
    """Set 1 at the bench's own points, set 2 by its terminals: both are bad, until a new one is in."""
    made = unit(relay="dpdt")
    ohms = Quantity.OHMS
    events = (
        Power(t_s=0.0, state=PROVED_DEAD),
        Reading(t_s=1.0, quantity=ohms, at="BR.no", value=0.1),
        Tested(t_s=2.0, device="BR", pair=("4", "5"), ohms=0.1),
    )
    found = [f for f in judge(made, Visit(events=events)).findings if str(f.code) == "contact-set"]
    assert "both sets are bad" in found[0].text
    since = (*events, Replaced(t_s=3.0, component="BR"))
    assert not readings_of(made, made.relay, since, new=False)


def test_the_leads_are_tested_before_a_contact_is_blamed():
    leads = [Tested(t_s=1.0, device="BR", pair=LEADS, ohms=ohms) for ohms in (0.2, 4.0)]
    assert leads_in_words(None)[0] is None
    assert [leads_in_words(leads_of([one], "BR"))[0] for one in leads] == [True, False]


@pytest.mark.parametrize(
    ("failed", "starts", "low", "high"),
    [(3, 20, 0.052, 0.360), (0, 20, 0.0, 0.161), (20, 20, 0.839, 1.0), (1, 10, 0.018, 0.404)],
)
def test_starts_by_the_published_interval(failed, starts, low, high):
    """Wilson's interval, 95 %, from its published tables."""
    tries = [Tried(t_s=float(n), device="BR", acted=n >= failed) for n in range(starts)]
    found = repeats_of(tries, "BR")
    assert (found.low, found.high) == (pytest.approx(low, abs=0.001), pytest.approx(high, abs=0.001))
    codes = {str(f.code) for f in judge(unit(relay="time-delay"), Visit(events=tuple(tries))).findings}
    assert ("erratic-start" in codes) == (failed > 0)


STRIPS = unit("stacked-sequencer", strips=3)
SHEET = plan(STRIPS, "S1", PART_KINDS["sequencer-3"])
MOVES = st.lists(
    st.tuples(
        st.sampled_from([TAKEN_OFF, LANDED, BACK]),
        st.sampled_from([w.id for w in SHEET]),
        st.sampled_from([t.name for t in PART_KINDS["sequencer-3"].terminals]),
        st.booleans(),
    ),
    max_size=60,
)


@pytest.mark.slow
@given(MOVES)
def test_no_sequence_of_ticks_undos_and_reloads_loses_or_doubles_a_wire(moves):
    events = [Swap(t_s=0.0, device="S1", part="sequencer-3", wires=SHEET)]
    for n, (act, wire, at, undone) in enumerate(moves):
        moved = WireMoved(t_s=float(n), device="S1", wire=wire, act=act, at=at if act == LANDED else "")
        sheet = sheet_of(STRIPS, events, "S1")
        try:
            sheet.check_next(moved)
        except BadInput:
            assert sheet.in_hand
            continue
        events.append(moved)
        if undone:
            events.pop()
        sheet = sheet_of(STRIPS, list(events), "S1")
        assert sorted(p.wire.id for p in sheet.wires) == sorted(w.id for w in SHEET)
        assert len(sheet.in_hand) <= 1 and sheet.off == sheet.on + len(sheet.in_hand)
        assert sum(p.where == "old" for p in sheet.wires) + sheet.off == len(SHEET)
        through = all(p.where == "new" and p.at == p.wire.new for p in sheet.wires)
        assert bool(sheet.open) is not through
        assert bool(open_sheets(STRIPS, events)) == (sheet.off > 0 and not through)


def test_a_strip_that_the_old_part_no_longer_fed_is_missed_before_power():
    """Somebody wrote down the wires of a stack and left out the third strip's."""
    kind = PART_KINDS["sequencer-3"]
    seen = tuple(w for w in right_wires(STRIPS, STRIPS.controls[0], kind) if w.to != "E3")
    short = replace(STRIPS.controls[0], part=kind.name, wired=seen)
    made = replace(STRIPS, controls=(short,))
    lines = plan(made, "S1", kind)
    events = [Swap(t_s=0.0, device="S1", part=kind.name, wires=lines)]
    for n, line in enumerate(lines):
        events.append(WireMoved(t_s=n + 1.0, device="S1", wire=line.id, act=LANDED, at=line.new))
    sheet = sheet_of(made, events, "S1")
    assert sheet.on == len(lines) and sheet.open == ("nothing leads to E3",)
    assert open_sheets(made, events)


def test_a_relay_of_another_kind_takes_the_old_ones_place_in_the_visit():
    made = unit()
    new = replace(made.relay, type="dpdt", part="relay-dpdt", wired=(Wire("w1", "4", "blower"),))
    event = Replaced(t_s=1.0, component="BR", by=new)
    event.check(made)
    assert event.refit(made).relay == new and fitted(event.refit(made), new).name == "relay-dpdt"
    with pytest.raises(BadInput):
        Replaced(t_s=1.0, component="BR", by=made.controls[0]).check(made)


def test_a_kind_of_the_shops_own_travels_with_the_unit():
    own = PartKind(
        "own-relay",
        "own relay",
        "spdt",
        (
            Terminal("7", 0, 0),
            Terminal("8", 1, 0),
            Terminal("9", 2, 0),
            Terminal("X", 0, 1, "3/16"),
            Terminal("Y", 2, 1, "3/16"),
            Terminal("P", 1, 1, dummy=True),
        ),
        ("X", "Y"),
        (ContactSet("1", "7", "8", "9", role="blower"),),
        motor_amps=12.0,
    )
    made = unit()
    made = replace(
        made, part_kinds=(own,), blower=replace(made.blower, relay=replace(made.relay, part=own.name))
    )
    again = UnitJson.model_validate(unit_to_json(made)).to_core()
    assert again == made and drawer(again)["own-relay"] == own
    assert isinstance(again.relay, BlowerRelay) and fitted(again, again.relay).least_blade == "3/16"


@pytest.mark.parametrize(
    ("broken", "path"),
    [
        ({"coil": ["A", "Z"]}, "coil[1]"),
        ({"coil": ["A", "COM"]}, "sets[0].common"),
        ({"tied": [["COM", "NO"]]}, "tied"),
        ({"sets": [{"name": "1", "common": "COM"}]}, "sets[0]"),
        ({"device": "toaster"}, "device"),
    ],
)
def test_a_kind_that_cannot_be_is_refused_at_its_path(broken, path):
    made = unit_to_json(replace(unit(), part_kinds=(replace(PART_KINDS["relay-spdt"], name="own"),)))
    made["part_kinds"][0] |= broken
    with pytest.raises((BadInput, ValueError)) as refused:
        UnitJson.model_validate(made).to_core()
    if isinstance(refused.value, BadInput):
        assert refused.value.path == f"part_kinds[0].{path}"


V, A, UF = Quantity.VOLTS, Quantity.AMPS, Quantity.UF


def told(*said) -> tuple:
    """Events from shorthand, a second apart: G called first."""
    events = [Calls(t_s=0.0, calls=frozenset({"G"}))]
    for n, (quantity, at, value) in enumerate(said, 1):
        if quantity == "felt":
            events.append(Felt(t_s=float(n), what=at))
        elif quantity == "calls":
            events.append(Calls(t_s=float(n), calls=frozenset()))
        elif quantity == "dead":
            events.append(Power(t_s=float(n), state=PROVED_DEAD))
        else:
            events.append(Reading(t_s=float(n), quantity=quantity, at=at, value=value))
    return tuple(events)


FED, STALLED = (V, "blower", 240.0), (A, "blower", 12.0)
NOTHING = ("calls", "", 0)
TREE = [
    ("starts-not", [(V, "blower", 2.0)], "Nothing arrives"),
    ("starts-not", [FED, (A, "blower", 0.0)], "thermal protector"),
    ("starts-not", [FED, (A, "blower", 2.1)], "It runs"),
    ("starts-not", [FED, STALLED, ("felt", "stiff", 0)], "seized"),
    ("starts-not", [FED, STALLED, ("felt", "play", 0)], "play"),
    ("starts-not", [FED, (A, "blower", 4.0), ("felt", "hums", 0), ("felt", "stiff", 0)], "seized"),
    (
        "starts-not",
        [FED, STALLED, ("felt", "spins", 0), ("dead", "", 0), (UF, "capacitor", 4.0)],
        "does not start it",
    ),
    (
        "starts-not",
        [FED, STALLED, ("felt", "spins", 0), ("dead", "", 0), (UF, "capacitor", 7.4)],
        "start winding",
    ),
    (
        "stops-not",
        [NOTHING, (A, "blower", 2.1), (A, "BR.no", 2.1), (V, "G", 0.0)],
        "welded. Replace the relay",
    ),
    (
        "stops-not",
        [NOTHING, (A, "blower", 2.1), (A, "BR.no", 2.1), (V, "G", 25.0)],
        "with nothing called: thermostat",
    ),
    ("stops-not", [NOTHING, (A, "blower", 2.1), (A, "BR.no", 0.0), (A, "BR.nc", 2.1)], "heat side is live"),
    ("stops-not", [NOTHING, (A, "blower", 2.1), (A, "BR.no", 0.0), (A, "BR.nc", 0.0)], "bypasses the relay"),
    ("stops-not", [NOTHING, (A, "blower", 0.0)], "It stops"),
]


@pytest.mark.parametrize(("trunk", "said", "words"), TREE, ids=[row[2] for row in TREE])
def test_the_motors_tree_ends_where_the_readings_lead(trunk, said, words):
    made, events = unit(), told(*said)
    judgement = judge(made, Visit(events=events))
    found = walk(judgement.evidence, trunks(judgement.evidence.unit)[trunk])
    assert found.leaf is not None and words in found.leaf.text
    named = [f for f in judgement.findings if str(f.code) == "blower-motor"]
    assert bool(named) == found.leaf.finding
    # One answer less, and the next question is asked instead.
    less = walk(judge(made, Visit(events=events[:-1])).evidence, trunks(judgement.evidence.unit)[trunk])
    assert not isinstance(less.end, Leaf) and less.end.ask and set(less.end.felt) <= set(FEELS)


def test_a_record_of_old_is_read_by_the_names_of_today_and_the_print_of_the_part_stands_beside_them():
    """Once common, normally open and normally closed were 1, 2 and 3 here: no print in the field says so."""
    made = unit(relay="dpdt")
    old, now = (
        [("1", "2", False, OL), ("4", "6", False, 0.2)],
        [("COM1", "NO1", False, OL), ("COM2", "NC2", False, 0.2)],
    )
    assert (
        readings_of(made, made.relay, table(*old), new=False).keys()
        == readings_of(made, made.relay, table(*now), new=False).keys()
    )
    wires = tuple(
        Wire(f"w{n}", at, to) for n, (at, to) in enumerate([("1", "blower"), ("2", "L1"), ("3", "heat")])
    )
    spdt = unit()
    written = replace(spdt.relay, part="relay-spdt", wired=wires)
    spdt = replace(spdt, blower=replace(spdt.blower, relay=written))
    assert {at: [w.to for w in on] for at, on in wires_of(spdt, written).items()} == {
        "COM": ["blower"],
        "NO": ["L1"],
        "NC": ["heat"],
    }
    assert prove(spdt).right
    named = replace(written, printed=(("COM", "1"), ("NO", "3"), ("NC", "2")))
    made = replace(spdt, blower=replace(spdt.blower, relay=named))
    assert UnitJson.model_validate(unit_to_json(made)).to_core() == made
    with pytest.raises(BadInput) as refused:
        replace(made, blower=replace(made.blower, relay=replace(named, printed=(("NX", "1"),))))
    assert refused.value.path == "blower.relay.printed.NX"
