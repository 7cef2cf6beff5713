"""One specimen of a plate: what no plate says of it, drawn from a seed, and what is broken."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from random import Random
from typing import Any

from plentar.stand_ins.wider.landing import Landing

Plate = Mapping[str, Any]

#: Thermal devices, and those behind a rectifier.
THERMAL, DC = frozenset({"sequencer"}), frozenset({"relay-dc"})
TYPICAL_VA = {"sequencer": 5.0, "contactor": 7.0, "relay-ac": 5.0, "relay-dc": 2.0}
#: AC volts at which a coil acts and lets go, least and most.
ACTS_V = {
    "sequencer": (12.5, 16.5),
    "contactor": (15.0, 19.0),
    "relay-ac": (14.0, 19.0),
    "relay-dc": (12.5, 16.5),
}
LETS_GO_V = {
    "sequencer": (12.0, 14.0),
    "contactor": (6.0, 13.0),
    "relay-ac": (6.0, 13.0),
    "relay-dc": (6.0, 14.0),
}
#: Sizes of faults: least, most, and whether even in the logarithm.
SIZES = {
    "high-resistance": (1.15, 2.5, False),
    "low-resistance": (0.5, 0.90, False),
    "grounded": (0.3, 5e5, True),
    "burnt": (0.02, 0.3, True),
    "loose": (0.03, 0.3, True),
    "slow": (1.3, 40.0, True),
    "coil-shorted": (0.04, 0.5, False),
    "low-volts": (195 / 240, 215 / 240, False),
    "weak-transformer": (0.62, 0.78, False),
    "low": (0.3, 0.65, False),
    "weak-capacitor": (0.5, 0.90, False),
    "locked": (3.0, 6.0, False),
}


@dataclass(frozen=True, slots=True)
class Broken:
    """One fault as it is: of what size, and where."""

    component: str
    mode: str
    size: float
    place: str = ""

    @property
    def id(self) -> str:
        return f"{self.component}:{self.mode}"


class Specimen:
    """The shares of one specimen: each by a draw of its own, so that mending one changes no other."""

    def __init__(
        self, plate: Plate, faults: tuple[str, ...], seed: str, landings: Iterable[Landing] = ()
    ) -> None:
        self.plate, self.seed = plate, seed
        self.landings = {landing.device: landing for landing in landings}
        self.faults = tuple(self._broken(fault) for fault in faults)

    def draw(self, what: str) -> Random:
        return Random(f"{self.plate['id']}/{self.seed}/{what}")

    def between(self, what: str, low: float, high: float) -> float:
        return self.draw(what).uniform(low, high)

    def spread(self, what: str, factor: float) -> float:
        """An unknown factor, even in the logarithm, up to so much either way."""
        return math.exp(self.between(what, -math.log(factor), math.log(factor)))

    def strip_share(self, element: str) -> float:
        """An element's power over its rating: the ends of the band are met most."""
        return 0.90 + 0.15 * self.draw(f"{element}/power").betavariate(0.6, 0.6)

    def has(self, component: str, *modes: str) -> Broken | None:
        return next((b for b in self.faults if b.component == component and b.mode in modes), None)

    def _broken(self, fault: str) -> Broken:
        component, _, mode = fault.partition(":")
        dice = self.draw(fault)
        kind = "weak-transformer" if fault == "transformer:weak" else mode
        size = 0.0
        if kind in SIZES:
            low, high, log = SIZES[kind]
            size = dice.uniform(low, high)
            if log:
                size = math.exp(dice.uniform(math.log(low), math.log(high)))
        place = ""
        if mode == "grounded":
            place = f"{dice.uniform(0.1, 0.9):.2f}"
        elif mode == "loose":
            place = dice.choice(("l1", "l2"))
        elif mode == "open" and component in {c["id"] for c in self.plate["circuits"]}:
            place = dice.choice(("l1", "l2", "both"))
        elif component.endswith(".wire") and component != "tie.wire":
            place = dice.choice(own_joints(self.plate, component.removesuffix(".wire")))
        return Broken(component, mode, size, place)


def joints(element: Plate) -> list[str]:
    circuit, rung = element["circuit"], element["rung"]
    ends = [f"{circuit}.l1", *(end for part in rung for end in (f"{part}.in", f"{part}.out"))]
    ends.append(f"{circuit}.l2")
    return [f"{a}/{b}" for a, b in zip(ends[::2], ends[1::2], strict=True)]


def own_joints(plate: Plate, name: str) -> list[str]:
    """Those of an element that no other rung shares."""
    shared = [j for e in plate["elements"] if e["id"] != name for j in joints(e)]
    element = next(e for e in plate["elements"] if e["id"] == name)
    return [joint for joint in joints(element) if joint not in shared]


def filled(plate: Plate) -> Plate:
    """The plate with what it leaves open as it may be: what the tie is tapped from, where nobody has looked."""
    blower = plate.get("blower") or {}
    tie = blower.get("interlock", {})
    if tie.get("kind") != "nc-contact" or tie.get("tap"):
        return plate
    switches = {s["id"] for control in plate["controls"] for s in control["switches"]}
    taps = [part for element in plate["elements"] for part in element["rung"] if part in switches]
    known = tie | {"tap": taps[0]} if taps else {"kind": "none"}
    return dict(plate) | {"blower": blower | {"interlock": known}}


def faults_of(plate: Plate) -> list[str]:
    found: list[str] = []
    for element in plate["elements"]:
        name = element["id"]
        found += [f"{name}:{m}" for m in ("open", "high-resistance", "low-resistance", "grounded")]
        found.append(f"{name}.wire:open")
    in_rungs = {part for e in plate["elements"] for part in e["rung"]}
    through = {c["call"]["through"] for c in plate["controls"] if isinstance(c["call"], dict)}
    tie = plate["blower"]["interlock"] if plate.get("blower") else {}
    for control in plate["controls"]:
        name, kind = control["id"], control["type"]
        for switch in control["switches"]:
            if switch["id"] in in_rungs | through | {tie.get("switch")}:
                found += [f"{switch['id']}:{m}" for m in ("stuck-open", "stuck-closed")]
                if switch.get("role", "element") == "element":
                    found.append(f"{switch['id']}:burnt")
        found += [f"{name}:coil-open", f"{name}:coil-shorted"]
        found += [f"{name}:slow"] if kind in THERMAL else []
        found += [f"{name}:no-rectifier-output"] if kind in DC else []
        if len(control["switches"]) > 1:
            found += [f"{name}:stuck-open", f"{name}:stuck-closed"]
    found += [f"{x['id']}:{m}" for x in plate["limits"] for m in ("open", "weak")]
    found += [f"{x['id']}:open" for x in plate["links"]]
    for circuit in plate["circuits"]:
        found += [f"{circuit['id']}:{m}" for m in ("no-supply", "open", "loose", "low-volts")]
    found += ["transformer:dead", "transformer:weak"]
    power = plate["control_power"]
    served = next(c["rated_volts"] for c in plate["circuits"] if c["id"] == power["circuit"])
    if served < 220 and "primary_volts" not in power:
        found.append("transformer:wrong-tap")
    calls = calls_of(plate)
    if plate["control_power"].get("fuse_amps"):
        found.append("control-fuse:open")
    found += [f"{c}:{m}" for c in calls if c != "Y" for m in ("no-call", "always")]
    found += [f"{c}:{m}" for c in calls if c in ("W1", "W2") for m in ("with-Y", "with-G")]
    found += [f"{c}:to-ground" for c in ("R", *calls)]
    found += [f"{x['id']}:coil-shorted" for x in plate.get("other_loads", ())]
    if plate.get("blower"):
        found += _blower_faults(plate["blower"])
    return found


def _blower_faults(blower: Plate) -> list[str]:
    found = ["airflow:low", "blower:open", "blower:locked"]
    found += ["blower:weak-capacitor"] if blower["motor"] == "psc" else []
    relay = blower.get("relay")
    if relay:
        name = relay["id"]
        modes = ["coil-open", "coil-shorted", "no-stuck-open", "no-welded"]
        modes += ["slow"] if relay["type"] == "time-delay" else []
        if blower["interlock"]["kind"] == "nc-contact":
            modes += ["nc-stuck-open", "nc-welded"]
            found.append("tie.wire:open")
        found += [f"{name}:{mode}" for mode in modes]
    return found


def calls_of(plate: Plate) -> list[str]:
    """The terminals that anything hangs on, in their order."""
    used = {c["call"] for c in plate["controls"] if isinstance(c["call"], str)}
    used |= {x["call"] for x in plate.get("other_loads", ())}
    blower = plate.get("blower")
    if blower and blower.get("relay"):
        used.add(blower["relay"].get("call", "G"))
    return [call for call in ("W1", "W2", "G", "Y") if call in used]
