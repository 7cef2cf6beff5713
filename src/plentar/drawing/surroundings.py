"""What surrounds the rungs, as blocks of the same drawing: each supply from panel to kit, and the air."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.unit.parts import Circuit
from plentar.core.unit.unit import Unit
from plentar.drawing import symbols
from plentar.drawing.blocks import POWER_WORDS, Block, Item, Rung, control_block, line_blocks, points_in
from plentar.drawing.parts import Scene
from plentar.words import chosen, phrase
from plentar.words.numbers import plain, show


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
    size = (
        f"{circuit.breaker_amps:g} A"
        if circuit.breaker_amps
        else phrase("drawing.surroundings.breaker-unknown")
    )
    wire = circuit.conductor
    laid = (
        phrase("drawing.surroundings.awg", awg=wire.awg, material=chosen(wire.material))
        if wire
        else phrase("drawing.surroundings.wire-unknown")
    )
    if wire and wire.length_ft:
        laid += phrase("drawing.surroundings.ft", length_ft=plain(wire.length_ft, "ft"))
    ahead = unit.feeder
    past = ""
    if ahead is not None and name in ahead.circuits:
        past = (
            phrase("drawing.surroundings.behind-feeder", value=f"{ahead.breaker_amps or 0:g}")
            if ahead.breaker_amps
            else " · feeder"
        )
    head = (
        f"{name}.line",
        phrase("drawing.surroundings.line-side", name=name),
        f"{size} · {laid}{past}{POWER_WORDS[power]}",
    )
    rungs = tuple(_leg(name, leg, power) for leg in ("l1", "l2"))
    return Block(f"{name}.supply", "panel", "kit", power, head, rungs)


def _leg(circuit: str, leg: str, power: str) -> Rung:
    line, lug, feed = f"{circuit}.line.{leg}", f"{circuit}.{leg}", f"{circuit}.feed.{leg}"
    side = leg.upper()
    pole = Item(
        f"{line}:{lug}",
        phrase("drawing.surroundings.pole", side=side),
        phrase("drawing.surroundings.volts-across"),
        symbols.contact(power == "on"),
        phrase("drawing.surroundings.breaker-pole-wire"),
        line,
        lug,
        feed,
    )
    clamp = Item(
        lug,
        phrase("drawing.surroundings.feed", side=side),
        phrase("quantity.amps"),
        symbols.CLAMP,
        phrase("drawing.surroundings.feed-conductor"),
        lug,
        lug,
        feed,
    )
    return Rung(f"{circuit}-{leg}", (pole, clamp))


def _air(unit: Unit) -> Block:
    blower = unit.blower
    rated = (
        phrase("drawing.surroundings.cfm-rated", air_cfm=show(blower.air_cfm, "CFM", 4))
        if blower and blower.air_cfm
        else phrase("drawing.surroundings.air-not-plate")
    )
    tap = (
        phrase("drawing.surroundings.speed", speed_tap=blower.speed_tap)
        if blower and blower.speed_tap
        else ""
    )
    least = (
        phrase("drawing.surroundings.cfm-least", min_cfm=show(blower.min_cfm, "CFM", 4))
        if blower and blower.min_cfm
        else ""
    )
    back = Item(
        "return-air",
        "return",
        phrase("drawing.surroundings.before-blower"),
        symbols.THERMOMETER,
        phrase("drawing.surroundings.air-temperature"),
        "",
        "",
        "",
    )
    out = Item(
        "supply-air",
        "supply",
        phrase("drawing.surroundings.out-sight-strips"),
        symbols.THERMOMETER,
        phrase("drawing.surroundings.air-temperature"),
        "",
        "",
        "",
    )
    head = (
        "blower" if blower else "supply-air",
        phrase("drawing.surroundings.air-path"),
        f"{rated}{least}{tap}",
    )
    return Block("air", "return", "supply", "air", head, (Rung("air", (back, out)),))
