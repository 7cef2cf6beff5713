"""What surrounds the rungs, as blocks of the same drawing: each supply from panel to kit, and the air."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.unit.parts import Circuit
from plentar.core.unit.unit import Unit
from plentar.drawing import symbols
from plentar.drawing.blocks import POWER_WORDS, Block, Item, Rung, control_block, line_blocks, points_in
from plentar.drawing.parts import Scene


def surrounding_blocks(unit: Unit, scene: Scene) -> Iterator[Block]:
    for circuit in unit.circuits:
        yield _supply(unit, scene, circuit)
    yield _air(unit)


def drawn_points(unit: Unit) -> set[str]:
    """The points that the drawings show; the others are reached through the list of points."""
    scene = Scene(link=str)
    blocks = [*line_blocks(unit, scene), control_block(unit, scene), *surrounding_blocks(unit, scene)]
    return points_in(blocks)


def _supply(unit: Unit, scene: Scene, circuit: Circuit) -> Block:
    """A rung a leg: the breaker's pole with its wire, and the feed where a clamp goes around it."""
    name, power = circuit.id, scene.power.get(circuit.id, "on")
    size = f"{circuit.breaker_amps:g} A" if circuit.breaker_amps else "breaker ?"
    wire = circuit.conductor
    laid = f"{wire.awg} AWG {wire.material}" if wire else "wire ?"
    if wire and wire.length_ft:
        laid += f", {wire.length_ft:g} ft"
    ahead = unit.feeder
    past = ""
    if ahead is not None and name in ahead.circuits:
        past = f" · behind a {ahead.breaker_amps or 0:g} A feeder" if ahead.breaker_amps else " · feeder"
    head = (f"{name}.line", f"Line side {name}", f"{size} · {laid}{past}{POWER_WORDS[power]}")
    rungs = tuple(_leg(name, leg, power) for leg in ("l1", "l2"))
    return Block(f"{name}.supply", "panel", "kit", power, head, rungs)


def _leg(circuit: str, leg: str, power: str) -> Rung:
    line, lug, feed = f"{circuit}.line.{leg}", f"{circuit}.{leg}", f"{circuit}.feed.{leg}"
    side = leg.upper()
    pole = Item(
        f"{line}:{lug}",
        f"pole {side}",
        "volts across",
        symbols.contact(power == "on"),
        "breaker pole and its wire",
        line,
        lug,
        feed,
    )
    clamp = Item(lug, f"feed {side}", "amps", symbols.CLAMP, "feed conductor", lug, lug, feed)
    return Rung(f"{circuit}-{leg}", (pole, clamp))


def _air(unit: Unit) -> Block:
    blower = unit.blower
    rated = f"{blower.air_cfm:g} CFM as rated" if blower and blower.air_cfm else "its air not on the plate"
    tap = f" · speed {blower.speed_tap}" if blower and blower.speed_tap else ""
    least = f" · {blower.min_cfm:g} CFM at least" if blower and blower.min_cfm else ""
    back = Item(
        "return-air", "return", "before the blower", symbols.THERMOMETER, "air temperature", "", "", ""
    )
    out = Item(
        "supply-air", "supply", "out of sight of strips", symbols.THERMOMETER, "air temperature", "", "", ""
    )
    head = ("blower" if blower else "supply-air", "Air path", f"{rated}{least}{tap}")
    return Block("air", "return", "supply", "air", head, (Rung("air", (back, out)),))
