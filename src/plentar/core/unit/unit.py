"""The unit, and how its parts must fit together: frozen, and checked when made."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field, fields
from functools import cached_property

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.parts import (
    CALLS,
    HEAT_CALLS,
    Blower,
    BlowerRelay,
    Circuit,
    Control,
    ControlPower,
    Element,
    Feeder,
    Limit,
    Link,
    OtherLoad,
    Part,
    Switch,
)
from plentar.core.unit.terminals import PartKind

ID = re.compile(r"[A-Za-z][A-Za-z0-9-]*(\.[A-Za-z0-9]+)?")
RESERVED_TAILS = frozenset({"in", "out", "coil", "rectifier", "line", "l1", "l2", "wire"})
FIXED_NAMES = frozenset(
    {
        *CALLS,
        "R",
        "C",
        "blower",
        "transformer",
        "capacitor",
        "supply-air",
        "return-air",
        "ground",
        "airflow",
        "control-fuse",
        "none",
        "other",
    }
)
Device = Control | BlowerRelay
#: The component that what lies ahead of the circuits is.
FEEDER = "feeder"


@dataclass(frozen=True)
class Unit:
    """An air handler as the visit file describes it.

    Raises BadInput (with the path below ``unit``) where parts do not fit together.
    """

    id: str
    label: str
    kind: str
    circuits: tuple[Circuit, ...]
    elements: tuple[Element, ...]
    controls: tuple[Control, ...]
    control_power: ControlPower
    blower: Blower | None = None
    limits: tuple[Limit, ...] = ()
    links: tuple[Link, ...] = ()
    other_loads: tuple[OtherLoad, ...] = field(default=())
    feeder: Feeder | None = None
    #: Kinds of part beyond those that ship, which its devices name.
    part_kinds: tuple[PartKind, ...] = ()
    #: Names that are printed in the unit, by the id of their part.
    printed: tuple[tuple[str, str], ...] = ()

    def __post_init__(self) -> None:
        _check(self)

    def __hash__(self) -> int:
        """Of all that it is made of, worked out once."""
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash(tuple(getattr(self, item.name) for item in fields(self)))

    @cached_property
    def circuit_by_id(self) -> dict[str, Circuit]:
        return {circuit.id: circuit for circuit in self.circuits}

    @cached_property
    def printed_by_id(self) -> dict[str, str]:
        return dict(self.printed)

    @cached_property
    def element_by_id(self) -> dict[str, Element]:
        return {element.id: element for element in self.elements}

    @cached_property
    def control_by_id(self) -> dict[str, Control]:
        return {control.id: control for control in self.controls}

    @cached_property
    def control_of_switch(self) -> dict[str, Control]:
        """The device that each switch belongs to, by the switch's id."""
        return {switch.id: control for control in self.controls for switch in control.switches}

    @cached_property
    def switch_by_id(self) -> dict[str, Switch]:
        return {switch.id: switch for control in self.controls for switch in control.switches}

    @cached_property
    def idle_switches(self) -> frozenset[str]:
        """Switches that carry nothing: spares in a stack. What is wrong with one matters to nobody."""
        used = {part for element in self.elements for part in element.rung}
        used |= {control.through for control in self.controls if control.through}
        if self.blower and self.blower.interlock.switch:
            used.add(self.blower.interlock.switch)
        return frozenset(self.switch_by_id) - used

    @cached_property
    def possible_taps(self) -> tuple[str, ...]:
        """The switches behind which the wire of a normally-closed tie may begin: the one that somebody found,
        else the first of each rung; none where there is no such tie."""
        tie = self.blower.interlock if self.blower else None
        if tie is None or tie.kind != "nc-contact":
            return ()
        if tie.tap is not None:
            return (tie.tap,)
        firsts = (next((p for p in e.rung if p in self.switch_by_id), None) for e in self.elements)
        return tuple(dict.fromkeys(first for first in firsts if first is not None))

    @cached_property
    def part_by_id(self) -> dict[str, Part]:
        parts: list[Part] = [*self.elements, *self.switch_by_id.values(), *self.limits, *self.links]
        return {part.id: part for part in parts}

    @cached_property
    def components(self) -> frozenset[str]:
        return frozenset(
            {
                *self.part_by_id,
                *self.control_by_id,
                *self.circuit_by_id,
                *(f"{element.id}.wire" for element in self.elements),
                *(load.id for load in self.other_loads),
                *CALLS,
                "R",
                "transformer",
                "control-fuse",
                "airflow",
                *(["blower", "capacitor"] if self.blower else []),
                *([self.relay.id] if self.relay else []),
                *(
                    ["tie.wire"]
                    if self.relay and self.blower and self.blower.interlock.kind == "nc-contact"
                    else []
                ),
            }
        )

    @cached_property
    def workable(self) -> frozenset[str]:
        """Everything that work can be done on, by id: joints and wires of the feed among it."""
        ends = {f"{c.id}.{end}" for c in self.circuits for end in ("l1", "l2", "line")}
        return self.components | ends | {FEEDER} if self.feeder else self.components | ends

    @property
    def relay(self) -> BlowerRelay | None:
        """The blower's relay, where there is a blower and it has one."""
        return self.blower.relay if self.blower else None

    @cached_property
    def device_by_id(self) -> dict[str, Device]:
        """Everything with a coil of this unit, by id: control devices and the blower's relay."""
        found: dict[str, Device] = {control.id: control for control in self.controls}
        return found | ({self.relay.id: self.relay} if self.relay else {})

    @cached_property
    def device_calls(self) -> tuple[str, ...]:
        """The terminals that drive a device or a motor of this unit, in the thermostat's order."""
        used = {control.call for control in self.controls}
        used |= {self.relay.call} if self.relay else set()
        used |= self.blower.tap_of.keys() if self.blower else set()
        return tuple(call for call in CALLS if call in used)

    @cached_property
    def calls(self) -> tuple[str, ...]:
        """The terminals that drive anything, loads outside the unit among them, in order."""
        used = {*self.device_calls, *(load.call for load in self.other_loads)}
        return tuple(call for call in CALLS if call in used)

    @property
    def heat_calls(self) -> frozenset[str]:
        return HEAT_CALLS.intersection(self.device_calls)

    @property
    def fan_call(self) -> str | None:
        """The call that brings on the blower alone."""
        if self.relay is None:
            return "G" if self.blower and "G" in self.blower.tap_of else None
        return self.relay.call

    def elements_on(self, circuit_id: str) -> Iterator[Element]:
        """The elements of one circuit, in order."""
        return (element for element in self.elements if element.circuit == circuit_id)

    def elements_through(self, part_id: str) -> Iterator[Element]:
        """The elements whose rung holds this part, in order."""
        return (element for element in self.elements if part_id in element.rung)

    def rung_switches(self, element: Element) -> Iterator[Switch]:
        """The switches in an element's rung, in order."""
        return (self.switch_by_id[part] for part in element.rung if part in self.switch_by_id)


def _check(unit: Unit) -> None:
    """Raises BadInput at the first rule that the parts break."""
    _ids(unit)
    for index, element in enumerate(unit.elements):
        _rung(unit, element, f"elements[{index}]")
    _shared_parts(unit)
    for index, control in enumerate(unit.controls):
        _call(unit, control, f"controls[{index}]")
    if unit.blower is not None:
        _blower(unit, unit.blower)
    _part_kinds(unit)
    if unit.control_power.circuit not in unit.circuit_by_id:
        raise BadInput(
            "control_power.circuit", say("unit.unit.no-circuit", circuit=unit.control_power.circuit)
        )
    for index, name in enumerate(unit.feeder.circuits if unit.feeder else ()):
        if name not in unit.circuit_by_id:
            raise BadInput(f"feeder.circuits[{index}]", say("unit.unit.no-circuit-2", name=name))
        if name in unit.feeder.circuits[:index]:  # type: ignore[union-attr]
            raise BadInput(f"feeder.circuits[{index}]", say("unit.unit.named-twice", name=name))


def _named(unit: Unit) -> Iterator[tuple[str, str]]:
    for group in ("circuits", "limits", "links", "elements", "controls", "other_loads"):
        for index, part in enumerate(getattr(unit, group)):
            yield f"{group}[{index}].id", part.id
    for index, control in enumerate(unit.controls):
        for at, switch in enumerate(control.switches):
            yield f"controls[{index}].switches[{at}].id", switch.id
    if unit.relay is not None:
        yield "blower.relay.id", unit.relay.id


def _ids(unit: Unit) -> None:
    if not unit.circuits:
        raise BadInput("circuits", say("unit.unit.unit-needs-least-one"))
    taken: dict[str, str] = {}
    for path, name in _named(unit):
        if not ID.fullmatch(name):
            raise BadInput(path, say("unit.unit.no-id-letters-digits", name=name))
        if name in FIXED_NAMES:
            raise BadInput(path, say("unit.unit.name-fixed-reading-point", name=name))
        if "." in name and name.rsplit(".", 1)[1] in RESERVED_TAILS:
            raise BadInput(path, say("unit.unit.ends-like-reading-point", name=name))
        if name in taken:
            raise BadInput(path, say("unit.unit.already-id", name=name, taken=taken[name]))
        taken[name] = path


def _rung(unit: Unit, element: Element, path: str) -> None:
    if element.circuit not in unit.circuit_by_id:
        raise BadInput(f"{path}.circuit", say("unit.unit.no-circuit", circuit=element.circuit))
    for at, part in enumerate(element.rung):
        here = f"{path}.rung[{at}]"
        if part in unit.element_by_id and part != element.id:
            raise BadInput(here, say("unit.unit.another-element-rung-holds", part=part))
        if part not in unit.part_by_id:
            raise BadInput(here, say("unit.unit.no-switch-link-limit", part=part))
        if element.rung.index(part) != at:
            raise BadInput(here, say("unit.unit.stands-this-rung-twice", part=part))
        if part in unit.switch_by_id and unit.switch_by_id[part].role != "element":
            raise BadInput(here, say("unit.unit.switch", part=part, role=unit.switch_by_id[part].role))
    if element.id not in element.rung:
        raise BadInput(f"{path}.rung", say("unit.unit.rung-does-not-hold", element=element.id))


def _shared_parts(unit: Unit) -> None:
    """Two rungs of one circuit may share what they begin or end with, and nothing else."""
    for index, element in enumerate(unit.elements):
        for other in unit.elements[:index]:
            shared = [part for part in element.rung if part in other.rung]
            if not shared:
                continue
            path = f"elements[{index}].rung[{element.rung.index(shared[0])}]"
            if element.circuit != other.circuit:
                raise BadInput(path, say("unit.unit.rung-circuit", shared=shared[0], circuit=other.circuit))
            head = _common(element.rung, other.rung)
            tail = _common(element.rung[::-1], other.rung[::-1])
            if len(shared) != head + tail:
                raise BadInput(path, say("unit.unit.shared-but-not-same", shared=shared[0]))


def _common(one: tuple[str, ...], two: tuple[str, ...]) -> int:
    for at, (a, b) in enumerate(zip(one, two, strict=False)):
        if a != b:
            return at
    return min(len(one), len(two))


def _call(unit: Unit, control: Control, path: str) -> None:
    if (control.call is None) == (control.through is None):
        raise BadInput(f"{path}.call", say("unit.unit.name-thermostat-terminal-or"))
    if not control.switches:
        raise BadInput(f"{path}.switches", say("unit.unit.control-device-has-least"))
    seen = {control.id}
    step = control
    while step.through is not None:
        switch = unit.switch_by_id.get(step.through)
        if switch is None or switch.role != "auxiliary":
            raise BadInput(f"{path}.call.through", say("unit.unit.no-auxiliary-switch", through=step.through))
        step = unit.control_of_switch[step.through]
        if step.id in seen:
            raise BadInput(f"{path}.call.through", say("unit.unit.chain-calls-comes-back"))
        seen.add(step.id)


def _part_kinds(unit: Unit) -> None:
    """Kinds have names of their own, and a device's wires lie on terminals of its kind."""
    kinds = dict(PART_KINDS)
    for index, kind in enumerate(unit.part_kinds):
        if kind.name in kinds:
            raise BadInput(f"part_kinds[{index}].name", say("unit.unit.drawer-already", kind=kind.name))
        kinds[kind.name] = kind
    paths = {device.id: f"controls[{at}]" for at, device in enumerate(unit.controls)}
    for device in unit.device_by_id.values():
        path = paths.get(device.id, "blower.relay")
        if device.part is None:
            for name in ("wired", "printed"):
                if getattr(device, name, ()):
                    raise BadInput(f"{path}.{name}", say("unit.unit.name-part-terminals-belong"))
            continue
        found = kinds.get(device.part)
        if found is None:
            raise BadInput(f"{path}.part", say("unit.unit.no-part-kind", part=device.part))
        if isinstance(device, Control) and len(device.switches) > len(found.sets):
            raise BadInput(f"{path}.part", say("unit.unit.has-sets-contacts-too", len=len(found.sets)))
        for at, wire in enumerate(device.wired):
            if found.named(wire.terminal) not in found.terminal_by_name:
                raise BadInput(
                    f"{path}.wired[{at}].terminal", say("unit.unit.no-terminal", terminal=wire.terminal)
                )
        for terminal, _ in device.printed if isinstance(device, BlowerRelay) else ():
            if terminal not in found.terminal_by_name:
                raise BadInput(f"{path}.printed.{terminal}", say("unit.unit.no-terminal", terminal=terminal))


def _blower(unit: Unit, blower: Blower) -> None:
    if blower.circuit not in unit.circuit_by_id:
        raise BadInput("blower.circuit", say("unit.unit.no-circuit", circuit=blower.circuit))
    if blower.taps and blower.relay is not None:
        raise BadInput("blower.taps", say("unit.unit.motor-taps-own-has"))
    tie = blower.interlock
    if tie.kind == "nc-contact":
        tap = unit.switch_by_id.get(tie.tap or "")
        if tie.tap is not None and (tap is None or tap.role != "element"):
            raise BadInput("blower.interlock.tap", say("unit.unit.name-element-switch-feeds"))
        if blower.relay is None:
            raise BadInput("blower.relay", say("unit.unit.normally-closed-tie-needs"))
    if tie.kind == "sequencer-switch":
        switch = unit.switch_by_id.get(tie.switch or "")
        if switch is None or switch.role != "blower":
            raise BadInput("blower.interlock.switch", say("unit.unit.name-sequencers-blower-switch"))
