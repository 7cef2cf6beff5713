"""Starting kits: a whole unit from a handful of choices, to be adjusted part by part.

What a kit can't know (breaker, conductor, windows, ohms, what the tie is tapped from) is left out, so that
it is not judged, or judged as typical of its kind.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.core.unit.parts import (
    CONTROL_KINDS,
    RELAY_KINDS,
    WINDOWS,
    Blower,
    BlowerRelay,
    Circuit,
    Coil,
    Control,
    ControlPower,
    Element,
    Interlock,
    Limit,
    Link,
    Switch,
)
from plentar.core.unit.unit import Unit

KIT_KW = (3.5, 4.8, 5.0, 7.5, 10.0)
KIT_VOLTS = (208.0, 230.0, 240.0)
KIT_CONTROLS = {
    "single-sequencers": say("unit.kits.sequencer-each-element"),
    "double-sequencers": say("unit.kits.sequencers-two-switches-each"),
    "stacked-sequencer": say("unit.kits.one-stacked-sequencer-all"),
    "contactors": say("unit.kits.two-pole-contactor-each"),
    "relays-ac": say("unit.kits.ac-heat-relay-each"),
    "relays-dc": say("unit.kits.dc-heat-relay-each"),
    "one-contactor": say("unit.kits.one-two-pole-contactor"),
    "nothing": say("unit.kits.nothing-yet-put-drawing"),
}
KIT_KINDS = {
    "air-handler": say("unit.kits.air-handler"),
    "electric-furnace": say("unit.kits.electric-furnace"),
    "package-unit": say("unit.kits.package-unit"),
}
KIT_RELAYS = {
    "spdt": say("unit.kits.spdt-relay"),
    "dpdt": say("unit.kits.dpdt-relay"),
    "time-delay": say("unit.kits.time-delay-relay"),
    "board": say("unit.kits.fan-board"),
    "none": say("unit.kits.no-relay"),
}
#: How the strips are fed; apart, control power and blower have a circuit of their own.
KIT_SUPPLIES = {
    "1": say("unit.kits.one-circuit"),
    "2": say("unit.kits.two-circuits"),
    "apart": say("unit.kits.heater-breaker-own"),
}
KIT_TIES = {
    "nc-contact": say("unit.kits.normally-closed-contact-blower"),
    "sequencer-switch": say("unit.kits.blower-switch-sequencer"),
    "g-with-w": say("unit.kits.board-or-thermostat-raises"),
    "none": say("unit.kits.none-found"),
}
MOST_ELEMENTS = 4
#: What a kit says of no part: it is its kind's, until somebody reads the print.
TYPICAL = frozenset(WINDOWS)


@dataclass(frozen=True, slots=True)
class Kit:
    """The choices. ``element_watts`` has one entry an element, 1 to 4 of them."""

    element_watts: tuple[float, ...]
    rated_volts: float
    control: str
    circuits: int = 1
    tie: str = "nc-contact"
    kind: str = "air-handler"
    relay: str = "spdt"
    #: Control power and blower hang on a circuit of their own.
    apart: bool = False


def build_kit(kit: Kit, unit_id: str, label: str) -> Unit:
    """The unit that a kit describes; raises BadInput at the choice that does not fit."""
    count = len(kit.element_watts)
    if not 1 <= count <= MOST_ELEMENTS:
        raise BadInput("elements", say("unit.kits.1-elements", most_elements=MOST_ELEMENTS))
    if kit.control not in KIT_CONTROLS:
        raise BadInput("control", say("unit.kits.choose-which-control-closes"))
    if kit.tie not in KIT_TIES:
        raise BadInput("tie", say("unit.kits.choose-how-blower-tied"))
    if not 1 <= kit.circuits <= min(2, count):
        raise BadInput("circuits", say("unit.kits.two-circuits-need-two"))
    if kit.kind not in KIT_KINDS:
        raise BadInput("kind", say("unit.kits.choose-what"))
    if kit.relay not in KIT_RELAYS:
        raise BadInput("relay", say("unit.kits.choose-what-brings-blower"))
    if kit.tie == "nc-contact" and (kit.relay == "none" or kit.control == "nothing"):
        raise BadInput("tie", say("unit.kits.such-tie-needs-blower"))
    if kit.control == "one-contactor" and kit.circuits > 1:
        raise BadInput("circuits", say("unit.kits.one-contactor-closes-strips"))
    if kit.tie == "sequencer-switch" and "sequencer" not in kit.control:
        raise BadInput("tie", say("unit.kits.only-sequencer-has-blower"))
    controls = _controls(kit, count)
    rungs = _rungs(kit, controls, count)
    own = f"C{kit.circuits + 1}" if kit.apart else "C1"
    tie = Interlock(kit.tie, switch="S1.B" if kit.tie == "sequencer-switch" else None)
    relay = None
    if kit.relay != "none":
        of_kind = RELAY_KINDS[kit.relay]
        relay = BlowerRelay("BR", kit.relay, "G", Coil(), of_kind.on_s, of_kind.off_s, typical=TYPICAL)
    return Unit(
        id=unit_id,
        label=label,
        kind=kit.kind,
        circuits=tuple(Circuit(f"C{n}", kit.rated_volts) for n in range(1, kit.circuits + 1 + kit.apart)),
        limits=tuple(Limit(f"TL{n}") for n in range(1, count + 1)),
        links=tuple(Link(f"FL{n}") for n in range(1, count + 1)),
        elements=tuple(
            Element(f"E{n + 1}", watts, kit.rated_volts, _circuit(kit, n, count), rungs[n])
            for n, watts in enumerate(kit.element_watts)
        ),
        controls=controls,
        blower=Blower(own, "psc", tie, relay),
        control_power=ControlPower(own, fuse_amps=3),
    )


def _circuit(kit: Kit, index: int, count: int) -> str:
    return "C1" if kit.circuits == 1 or index < (count + 1) // 2 else "C2"


def sequencer(number: int, roles: Sequence[str], call: str | None, through: str | None = None) -> Control:
    """A sequencer ``S<number>`` whose stack carries one switch for each role, in order; nobody has read it."""
    names = {"blower": "B", "auxiliary": "A"}
    switches: list[Switch] = []
    for role in roles:
        stage = 1 + sum(switch.role == "element" for switch in switches)
        switches.append(_switch(f"S{number}.{names.get(role, stage)}", "sequencer", role))
    return Control(f"S{number}", "sequencer", Coil(), tuple(switches), call, through)


def _switch(switch_id: str, kind: str, role: str = "element") -> Switch:
    of_kind = CONTROL_KINDS[kind]
    return Switch(switch_id, of_kind.on_s, of_kind.off_s, None, role, TYPICAL)


def _controls(kit: Kit, count: int) -> tuple[Control, ...]:
    blower = ["blower"] if kit.tie == "sequencer-switch" else []
    if kit.control == "nothing":
        return ()
    if kit.control == "stacked-sequencer":
        return (sequencer(1, ["element"] * count + blower, "W1"),)
    if kit.control == "single-sequencers":
        return tuple(
            sequencer(n, ["element", *(blower if n == 1 else [])], "W1") for n in range(1, count + 1)
        )
    if kit.control == "double-sequencers":
        pairs = [min(2, count - at) for at in range(0, count, 2)]
        return tuple(
            sequencer(n, ["element"] * size + (blower if n == 1 else []), "W1" if n == 1 else "W2")
            for n, size in enumerate(pairs, start=1)
        )
    kind = {"one-contactor": "contactor", "contactors": "contactor", "relays-ac": "relay-ac"}.get(
        kit.control, "relay-dc"
    )
    return tuple(
        Control(
            f"K{n}",
            kind,
            Coil(),
            tuple(_switch(f"K{n}.{pole}", kind) for pole in range(1, CONTROL_KINDS[kind].poles + 1)),
            "W1",
        )
        for n in range(1, 2 if kit.control == "one-contactor" else count + 1)
    )


def _rungs(kit: Kit, controls: tuple[Control, ...], count: int) -> list[tuple[str, ...]]:
    parts: list[tuple[str, ...]] = [(f"FL{n}", f"E{n}", f"TL{n}") for n in range(1, count + 1)]
    if kit.control == "contactors":
        return [(f"K{n + 1}.1", *rest, f"K{n + 1}.2") for n, rest in enumerate(parts)]
    if kit.control == "one-contactor":
        return [("K1.1", *rest, "K1.2") for rest in parts]
    if kit.control == "nothing":
        return parts
    switches = [s.id for control in controls for s in control.switches if s.role == "element"]
    return [(switch, *rest) for switch, rest in zip(switches, parts, strict=True)]
