"""The drawer of generic part kinds: terminals laid out in a grid of our own, ratings and windows
that are usual for the kind (trade habit). What is printed on the part in hand goes before them.
"""

from __future__ import annotations

from plentar.core.quantity import Band
from plentar.core.said import Said, say
from plentar.core.unit.terminals import ContactSet, PartKind, Terminal

RELAY_AMPS, MOTOR_AMPS, STRIP_AMPS, CONTACTOR_AMPS = 15.0, 12.0, 25.0, 30.0
#: What this program once called the ends of a set: numbers of its own, which contradict the prints.
FORMER = {"1": "COM", "2": "NO", "3": "NC"}
ON_FIRST, OFF_FIRST = Band(1.0, 30.0), Band(40.0, 110.0)


def _relay(name: str, title: Said, device: str, sets: int, **given: object) -> PartKind:
    """A blower relay: a column for each set, its common in the middle, the coil below."""
    terminals, contacts = [], []
    for n in range(sets):
        number = str(n + 1) if sets > 1 else ""
        common, no, nc = (f"{end}{number}" for end in ("COM", "NO", "NC"))
        terminals += [Terminal(t, n, row) for row, t in enumerate((no, common, nc))]
        contacts.append(ContactSet(str(n + 1), common, no, nc, role="blower"))
    terminals += [Terminal("A", 0, 3), Terminal("B", 1, 3)]
    former = {str(at + 1): end for at, end in enumerate(end for one in contacts for end in one.ends)}
    settings = {"resistive_amps": RELAY_AMPS, "motor_amps": MOTOR_AMPS, "former": former} | given
    return PartKind(name, title, device, tuple(terminals), ("A", "B"), tuple(contacts), **settings)  # type: ignore[arg-type]


def _stack(name: str, title: Said, switches: int, auxiliary: int = 0) -> PartKind:
    """A sequencer: one row a switch, the first to close at the bottom, the heater at the foot."""
    terminals, sets = [], []
    for n in range(switches):
        left, right = f"M{n + 1}", f"N{n + 1}"
        row = switches - 1 - n
        terminals += [Terminal(left, 0, row), Terminal(right, 1, row)]
        role = "auxiliary" if n >= switches - auxiliary else "element"
        on_s = Band(1.0 + 10.0 * n, min(110.0, 30.0 + 25.0 * n))
        off_s = Band(max(1.0, 40.0 - 12.0 * n), max(30.0, 110.0 - 25.0 * n))
        sets.append(ContactSet(str(n + 1), left, right, role=role, on_s=on_s, off_s=off_s))
    terminals += [Terminal("H1", 0, switches, "1/4", 1), Terminal("H2", 1, switches, "1/4", 1)]
    return PartKind(
        name, title, "sequencer", tuple(terminals), ("H1", "H2"), tuple(sets), resistive_amps=STRIP_AMPS
    )


def _contactor(name: str, title: Said, poles: int) -> PartKind:
    lines = [Terminal(f"L{n + 1}", n, 0, "screw") for n in range(poles)]
    loads = [Terminal(f"T{n + 1}", n, 1, "screw") for n in range(poles)]
    coil = [Terminal("A", 0, 2, "1/4"), Terminal("B", 1, 2, "1/4")]
    return PartKind(
        name,
        title,
        "contactor",
        (*lines, *coil, *loads),
        ("A", "B"),
        tuple(ContactSet(str(n + 1), f"L{n + 1}", f"T{n + 1}") for n in range(poles)),
        resistive_amps=CONTACTOR_AMPS,
        motor_amps=CONTACTOR_AMPS,
        seen=True,
    )


def _heat_relay(name: str, title: Said, device: str, blade: str, *, board: bool = False) -> PartKind:
    coil = (
        (Terminal("+", 0, 1, "pin" if board else blade, 1), Terminal("-", 1, 1, "pin" if board else blade, 1))
        if device == "relay-dc"
        else (Terminal("A", 0, 1, blade, 1), Terminal("B", 1, 1, blade, 1))
    )
    return PartKind(
        name,
        title,
        device,
        (Terminal("K", 0, 0), Terminal("M", 1, 0), *coil),
        (coil[0].name, coil[1].name),
        (ContactSet("1", "K", "M"),),
        resistive_amps=STRIP_AMPS,
        board=board,
    )


def _tied_relay() -> PartKind:
    """Common is strapped to a second blade inside, and a dummy holds the motor's spare leads."""
    terminals = (
        Terminal("NO", 0, 0),
        Terminal("COM", 0, 1),
        Terminal("NC", 0, 2),
        Terminal("COM2", 1, 1),
        Terminal("D", 1, 0, dummy=True),
        Terminal("A", 0, 3),
        Terminal("B", 1, 3),
    )
    return PartKind(
        "relay-tied",
        say("unit.part-kinds.relay-internal-tie-dummy"),
        "spdt",
        terminals,
        ("A", "B"),
        (ContactSet("1", "COM", "NO", "NC", role="blower"),),
        tied=(("COM", "COM2"),),
        former=FORMER | {"4": "COM2"},
        resistive_amps=RELAY_AMPS,
        motor_amps=MOTOR_AMPS,
    )


def _board_relay() -> PartKind:
    terminals = (
        Terminal("NO", 0, 0),
        Terminal("COM", 1, 0),
        Terminal("NC", 2, 0),
        Terminal("G", 0, 1, "pin", 1),
        Terminal("C", 2, 1, "pin", 1),
    )
    return PartKind(
        "relay-board",
        say("unit.part-kinds.fan-board-relay"),
        "board",
        terminals,
        ("G", "C"),
        (ContactSet("1", "COM", "NO", "NC", role="blower"),),
        resistive_amps=RELAY_AMPS,
        motor_amps=MOTOR_AMPS,
        board=True,
    )


def _delay_relay() -> PartKind:
    terminals = (
        Terminal("NO", 0, 0),
        Terminal("COM", 0, 1),
        Terminal("NC", 0, 2),
        Terminal("A", 1, 0),
        Terminal("B", 1, 2),
    )
    windows = {"on_s": Band(0.0, 3.0), "off_s": Band(45.0, 120.0)}
    return PartKind(
        "relay-delay",
        say("unit.part-kinds.time-delay-relay"),
        "time-delay",
        terminals,
        ("A", "B"),
        (ContactSet("1", "COM", "NO", "NC", role="blower", **windows),),
        former=FORMER,
        resistive_amps=RELAY_AMPS,
        motor_amps=MOTOR_AMPS,
    )


#: By name, in the order of the drawer.
PART_KINDS: dict[str, PartKind] = {
    kind.name: kind
    for kind in (
        _relay("relay-spdt", say("unit.part-kinds.spdt-relay"), "spdt", 1),
        _relay("relay-dpdt", say("unit.part-kinds.dpdt-relay"), "dpdt", 2),
        _tied_relay(),
        _relay("relay-open", say("unit.part-kinds.open-frame-relay-contacts"), "spdt", 1, seen=True),
        _board_relay(),
        _delay_relay(),
        _contactor("contactor-1", say("unit.part-kinds.contactor-one-pole"), 1),
        _contactor("contactor-2", say("unit.part-kinds.contactor-two-poles"), 2),
        _stack("sequencer-1", say("unit.part-kinds.single-sequencer"), 1),
        _stack("sequencer-2", say("unit.part-kinds.double-sequencer"), 2),
        _stack("sequencer-3", say("unit.part-kinds.triple-sequencer"), 3),
        _stack("sequencer-5", say("unit.part-kinds.five-switch-sequencer"), 5, auxiliary=1),
        _heat_relay("heat-relay-ac", say("unit.part-kinds.ac-heat-relay"), "relay-ac", "1/4"),
        _heat_relay("heat-relay-dc", say("unit.part-kinds.dc-heat-relay-plugged"), "relay-dc", "3/16"),
        _heat_relay(
            "heat-relay-dc-board", say("unit.part-kinds.dc-heat-relay-board"), "relay-dc", "3/16", board=True
        ),
    )
}
