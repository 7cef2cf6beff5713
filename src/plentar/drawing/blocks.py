"""A unit as blocks of rungs between two rails: each supply circuit, then the 24 V side."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from plentar.core.said import listed, say
from plentar.core.tables.devices import AT_ONCE_S
from plentar.core.unit.parts import Blower, Control, Element, Limit, Link, Part, Switch
from plentar.core.unit.unit import Unit
from plentar.core.visit.against_record import tied_across
from plentar.drawing import symbols
from plentar.drawing.parts import ELSEWHERE, FUSE, OTHER_SPEED, Scene
from plentar.words import chosen, phrase
from plentar.words.numbers import plain


@dataclass(frozen=True, slots=True)
class Item:
    """A part on a rung, between the nodes ``a`` and ``b``; ``branch`` carries its current."""

    point: str
    label: str
    note: str
    picture: str
    kind: str
    a: str
    b: str
    branch: str


@dataclass(frozen=True, slots=True)
class Rung:
    """Parts in series. ``start`` is empty at the left rail, or says where the rung begins;
    ``joins`` ends it in the middle of the rung above instead of at the right rail, ``ends`` at its
    last part; ``aside`` is a
    part that stands beside it and in no rung, such as the run capacitor."""

    owner: str
    items: tuple[Item, ...]
    start: str = ""
    joins: bool = False
    ends: bool = False
    aside: Item | None = None


@dataclass(frozen=True, slots=True)
class Block:
    """Two rails with their rungs. ``head`` is what is touched to read across the rails."""

    name: str
    left: str
    right: str
    power: str
    head: tuple[str, str, str]
    rungs: tuple[Rung, ...]


POWER_WORDS = {"on": "", "off": say("drawing.blocks.off"), "proved-dead": say("drawing.blocks.proved-dead")}


def line_blocks(unit: Unit, scene: Scene) -> Iterator[Block]:
    """A block for each supply circuit; the blower's rungs stand in its own circuit's."""
    for circuit in unit.circuits:
        power = scene.power.get(circuit.id, "on")
        rungs = [_element_rung(unit, scene, e) for e in unit.elements_on(circuit.id)]
        if unit.blower is not None and unit.blower.circuit == circuit.id:
            rungs += _blower_rungs(unit, unit.blower, scene)
        breaker = (
            phrase("drawing.blocks.breaker", breaker_amps=f"{circuit.breaker_amps:g}")
            if circuit.breaker_amps
            else phrase("drawing.surroundings.breaker-unknown")
        )
        note = f"{circuit.rated_volts:g} V · {breaker}{POWER_WORDS[power]}{_tied(unit, circuit.id)}"
        head = (circuit.id, phrase("drawing.blocks.lugs", circuit=circuit.id), note)
        yield Block(circuit.id, "L1", "L2", power, head, tuple(rungs))


def _tied(unit: Unit, circuit_id: str) -> str:
    """Which others the blower's tie leads to: a part of this one is live until they are off too."""
    tied = tied_across(unit)
    others = sorted(tied - {circuit_id}) if circuit_id in tied else []
    return phrase("drawing.blocks.tied-open-both", others=listed(others)) if others else ""


def control_block(unit: Unit, scene: Scene) -> Block:
    """The 24 V side: thermostat and auxiliary switches to their coils, from R to C."""
    power = unit.control_power
    head = ("R", "R to C", phrase("drawing.blocks.v-control-power", volts=f"{power.volts:g}"))
    state = scene.power.get(power.circuit, "on")
    return Block("24V", "R", "C", state, head, tuple(_control_rungs(unit, scene)))


def _element_rung(unit: Unit, scene: Scene, element: Element) -> Rung:
    items = tuple(_part_item(unit.part_by_id[part], scene, part) for part in element.rung)
    return Rung(element.id, items)


def _part_item(part: Part, scene: Scene, name: str) -> Item:
    closed = scene.model is None or isinstance(part, Element) or scene.is_closed(name)
    at_rest = scene.model is None
    picture = symbols.symbol(part, closed=closed and not (at_rest and isinstance(part, Switch)))
    return Item(name, name, _plate(part), picture, symbols.title(part), f"{name}.in", f"{name}.out", name)


def _plate(part: Part) -> str:
    match part:
        case Element():
            return phrase(
                "drawing.blocks.kw-v",
                rated_watts=f"{part.rated_watts / 1000:g}",
                rated_volts=f"{part.rated_volts:g}",
            )
        case Switch():
            low, high = f"{part.on_s.low:g}", f"{part.on_s.high:g}"
            if "on_s" in part.typical and part.on_s != AT_ONCE_S:
                return phrase("drawing.blocks.typical-seconds", low=low, high=high)
            return f"{low}–{high} s"
        case Limit():
            return plain(part.opens_f, "°F") if part.opens_f else ""
        case Link():
            return ""


def _blower_rungs(unit: Unit, blower: Blower, scene: Scene) -> Iterator[Rung]:
    """L1 → relay → blower → L2, and below it what feeds the blower with heat."""
    fla = phrase("drawing.blocks.fla", fla=f"{blower.fla:g}") if blower.fla else ""
    motor = Item("blower", "blower", fla, symbols.BLOWER, "motor", "blower.in", "blower.out", "blower")
    aside = None
    if blower.motor == "psc":
        mark = f"{blower.capacitor_uf:g} µF" if blower.capacitor_uf else ""
        aside = Item(
            "capacitor", "capacitor", mark, symbols.CAPACITOR, phrase("drawing.blocks.motor"), "", "", ""
        )
    relay, tie = blower.relay, blower.interlock
    contact = (_contact(f"{relay.id}.no", phrase("drawing.blocks.normally-open"), scene),) if relay else ()
    yield Rung("blower", (*contact, motor))
    if relay is not None and tie.kind == "nc-contact":
        items = (_contact(f"{relay.id}.nc", phrase("drawing.blocks.normally-closed"), scene),)
        yield Rung(
            "tie",
            items,
            start=phrase("drawing.blocks.from", tap=tie.tap)
            if tie.tap
            else phrase("drawing.blocks.from-which-strip"),
            joins=True,
            aside=aside,
        )
    elif tie.kind == "sequencer-switch" and tie.switch:
        items = (_part_item(unit.switch_by_id[tie.switch], scene, tie.switch),)
        yield Rung("tie", items, joins=True, aside=aside)
    elif aside is not None:
        yield Rung("tie", (), aside=aside)
    if (other := blower.other_speed) is not None:
        note = chosen("capped") if other.lead == "capped" else phrase("drawing.blocks.relay")
        lead = Item("blower", other.tap, note, symbols.CAPPED, OTHER_SPEED, "blower.in", "", "")
        yield Rung("other-speed", (lead,), start="motor", ends=True)


def _contact(name: str, kind: str, scene: Scene) -> Item:
    normally_closed = name.endswith(".nc")
    closed = normally_closed if scene.model is None else scene.is_closed(name)
    picture = symbols.contact(closed)
    return Item(
        name, name, kind, picture, phrase("drawing.blocks.relay-contact"), f"{name}.in", "blower.in", name
    )


def _control_rungs(unit: Unit, scene: Scene) -> Iterator[Rung]:
    yield Rung("supply", _control_supply(unit, scene))
    loads = [*_coils_by_call(unit)]
    seen: set[str] = set()
    for call, coil in loads:
        if call in seen:
            yield Rung(f"{call}-{coil.point}", (coil,), start=phrase("drawing.blocks.from-2", call=call))
            continue
        seen.add(call)
        closed = scene.model is not None and scene.is_closed(f"thermostat.{call}")
        switch = Item(
            call, call, "thermostat", symbols.contact(closed), "call", "R", call, f"thermostat.{call}"
        )
        yield Rung(call, (switch, coil))
    for control in unit.controls:
        if control.through is not None:
            aux = _part_item(unit.switch_by_id[control.through], scene, control.through)
            before = unit.control_of_switch[control.through]
            yield Rung(
                control.id, (aux, _coil(control)), start=phrase("drawing.blocks.from-coil", before=before.id)
            )


def _control_supply(unit: Unit, scene: Scene) -> tuple[Item, Item]:
    """The transformer and the fuse between it and R."""
    power = unit.control_power
    whole = scene.model is None or scene.is_closed("control-fuse")
    rating = f"{power.fuse_amps:g} A" if power.fuse_amps else phrase("drawing.blocks.none-plate")
    fuse = symbols.symbol(Link("control-fuse"), closed=whole)
    return (
        Item("control-fuse", "fuse", rating, fuse, FUSE, "R", "transformer.hot", "control-fuse"),
        Item(
            "transformer",
            "transformer",
            phrase("drawing.blocks.va-from", va=f"{power.va:g}", circuit=power.circuit),
            symbols.TRANSFORMER,
            "secondary",
            "transformer.hot",
            "C",
            "transformer",
        ),
    )


def _coils_by_call(unit: Unit) -> Iterator[tuple[str, Item]]:
    for control in unit.controls:
        if control.call is not None:
            yield control.call, _coil(control)
    relay = unit.relay
    if relay is not None:
        name = f"{relay.id}.coil"
        yield (
            relay.call,
            Item(
                name,
                name,
                phrase("drawing.blocks.blower-relay"),
                symbols.COIL,
                "coil",
                f"{name}.in",
                "C",
                name,
            ),
        )
    for call, tap in unit.blower.taps if unit.blower else ():
        name = f"blower.tap.{call}"
        yield (
            call,
            Item(
                call, "motor", phrase("drawing.blocks.tap", tap=tap), symbols.COIL, ELSEWHERE, call, "C", name
            ),
        )
    for load in unit.other_loads:
        name = f"{load.id}.coil"
        # A load outside the unit: drawn, and read at its terminal.
        yield (
            load.call,
            Item(load.call, load.id, load.label, symbols.COIL, ELSEWHERE, f"{name}.in", "C", name),
        )


def _coil(control: Control) -> Item:
    name = f"{control.id}.coil"
    return Item(name, name, control.type, symbols.COIL, "coil", f"{name}.in", "C", name)


def points_in(blocks: Iterable[Block]) -> set[str]:
    """The points that some blocks show."""
    shown = set()
    for block in blocks:
        shown.add(block.head[0])
        for rung in block.rungs:
            shown |= {item.point for item in (*rung.items, rung.aside) if item is not None}
    return shown
