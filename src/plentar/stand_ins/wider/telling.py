"""Whether any legal reading of a hidden unit could tell it from one with another fault."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from plentar.stand_ins.wider.clock import Event
from plentar.stand_ins.wider.complaints import HEAT_S, latest
from plentar.stand_ins.wider.specimen import SIZES, calls_of
from plentar.stand_ins.wider.world import HiddenUnit

#: Two readings this near may both be of either unit: as a share, and beside it.
NEAR = {
    "line volts": (0.02, 1.5),
    "control volts": (0.08, 1.5),
    "amps": (0.09, 0.6),
    "blower amps": (0.4, 0.3),
    "control amps": (0.5, 0.08),
    "ohms": (0.09, 0.5),
    "joint volts": (0.3, 0.12),
    "coil ohms": (0.5, 5.0),
    "uf": (0.06, 0.2),
}
SIZES_TRIED = 6
STRIP_OHMS = frozenset({"high-resistance", "low-resistance"})
#: What a plate allows of an element's power, as shares of it, and what a clamp may be wrong by.
PLATE_POWER, CLAMP_SHARE = (0.90, 1.05), 0.02


def could_be(hidden: HiddenUnit, fault: str, cooling: bool = True) -> bool:
    """No reading in any settled state, and none proved dead, rules the other fault out, in some
    size of it; ``none`` is the sound unit, of which a strip within its plate's band is part. Without ``cooling``
    nobody calls Y: only heat in cooling and a fuse that blows are a reason to."""
    if fault == "none" and _in_its_band(hidden):
        return True
    mine = list(_all_read(hidden, cooling))
    return any(
        all(_near(kind, one, other) for (kind, one), (_, other) in zip(mine, its, strict=True))
        for its in (list(_all_read(unit, cooling)) for unit in _others(hidden, fault))
    )


def _in_its_band(hidden: HiddenUnit) -> bool:
    """Its one fault is a strip's resistance, and the strip makes what its plate allows all the same."""
    if len(hidden.specimen.faults) != 1 or hidden.specimen.faults[0].mode not in STRIP_OHMS:
        return False
    [broken] = hidden.specimen.faults
    power = hidden.specimen.strip_share(broken.component) / broken.size
    return PLATE_POWER[0] * (1 - CLAMP_SHARE) <= power <= PLATE_POWER[1] * (1 + CLAMP_SHARE)


def _others(hidden: HiddenUnit, fault: str) -> Iterator[HiddenUnit]:
    faults = [] if fault == "none" else fault.split("+")
    plain = HiddenUnit(hidden.plate, faults, hidden.seed)
    yield plain
    for n, broken in enumerate(plain.specimen.faults):
        kind = "weak-transformer" if broken.id == "transformer:weak" else broken.mode
        low, high, log = SIZES.get(kind, (0.0, 0.0, False))
        for step in range(SIZES_TRIED if high else 0):
            share = step / (SIZES_TRIED - 1)
            size = low * (high / low) ** share if log else low + share * (high - low)
            yield plain.with_size(n, size)


def _states(hidden: HiddenUnit, cooling: bool) -> Iterator[tuple[Sequence[Event], float]]:
    used = [call for call in calls_of(hidden.plate) if cooling or call != "Y"]
    heat = [call for call in used if call.startswith("W")]
    on_s, off_s = latest(hidden.clock, "on_s"), latest(hidden.clock, "off_s")
    yield [], 0.0
    yield [{"t": 0, "calls": heat}], on_s
    ended: list[Event] = [{"t": 0, "calls": heat}, {"t": HEAT_S, "calls": []}]
    yield ended, HEAT_S + off_s
    for calls in (["G"], ["G", "Y"], [*heat, "G"]):
        if set(calls) <= set(used):
            yield [{"t": 0, "calls": calls}], on_s
    yield [{"t": 0, "calls": used}], HEAT_S


def _all_read(hidden: HiddenUnit, cooling: bool) -> Iterator[tuple[str, float]]:
    """Every point in every state without the meter's error; NaN for a ghost."""
    meter, plate = hidden.meter, hidden.plate
    for events, t_s in _states(hidden, cooling):
        now = hidden.at(events, t_s)
        for element in plate["elements"]:
            name = element["id"]
            yield "amps", max(abs(now.solved.amp(name)), abs(now.solved.amp(f"{name}.rest")))
            for part in element["rung"]:
                kind = "line volts" if part == name else "joint volts"
                yield kind, meter.held(part, now)
        for circuit in plate["circuits"]:
            for at in (circuit["id"], f"{circuit['id']}.line"):
                yield "line volts", meter.held(at, now)
            for leg in ("l1", "l2"):
                yield "amps", abs(now.solved.amp(f"{circuit['id']}.feed.{leg}"))
                pole = f"{circuit['id']}.line.{leg}:{circuit['id']}.{leg}"
                yield "joint volts", meter.held(pole, now)
        yield "blower amps", abs(now.solved.amp("blower"))
        for at in ("transformer", "R", *calls_of(plate)):
            yield "control volts", meter.held(at, now)
        for device in hidden.circuit.devices:
            yield "control volts", meter.held(f"{device['id']}.coil", now)
            yield "control amps", abs(now.solved.amp(f"{device['id']}.coil"))
        yield "cycles", float(bool(now.cycling))
    yield from _cold(hidden)


def _cold(hidden: HiddenUnit) -> Iterator[tuple[str, float]]:
    meter, plate = hidden.meter, hidden.plate
    for element in plate["elements"]:
        for part in element["rung"]:
            for driven in (False, True):
                yield "ohms", meter.part_ohms(part, driven=driven)
        yield "coil ohms", meter.part_ohms(f"{element['id']}.in:ground")
    for device in hidden.circuit.devices:
        if device not in plate.get("other_loads", ()):
            yield "coil ohms", meter.part_ohms(f"{device['id']}.coil")
    for terminal in ("R", *calls_of(plate)):
        yield "coil ohms", meter.part_ohms(f"{terminal}:ground")
    if plate.get("blower") and plate["blower"].get("capacitor_uf"):
        yield "uf", meter.microfarads()


def _near(kind: str, one: float, other: float) -> bool:
    if math.isnan(one) or math.isnan(other):
        return True
    if kind == "cycles" or math.isinf(one) or math.isinf(other):
        return one == other or min(one, other) > 1e6
    share, fixed = NEAR[kind]
    if kind == "joint volts" and max(one, other) > 10:
        share, fixed = NEAR["line volts"]
    return abs(one - other) <= share * max(abs(one), abs(other)) + fixed
