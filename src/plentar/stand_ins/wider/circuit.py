"""The circuit of one specimen with some contacts closed."""

from __future__ import annotations

import cmath
import math
from collections.abc import Collection
from functools import cached_property

from plentar.stand_ins.wider.landing import coil_end, common_of
from plentar.stand_ins.wider.nodal import GROUND, Net
from plentar.stand_ins.wider.specimen import DC, THERMAL, TYPICAL_VA, Plate, Specimen, joints

CALLS = ("W1", "W2", "G", "Y")
OHMS_PER_KFT = {
    "copper": {
        "14": 3.14,
        "12": 1.98,
        "10": 1.24,
        "8": 0.778,
        "6": 0.491,
        "4": 0.308,
        "3": 0.245,
        "2": 0.194,
        "1": 0.154,
        "1/0": 0.122,
        "2/0": 0.0967,
    },
    "aluminium": {
        "12": 3.25,
        "10": 2.04,
        "8": 1.28,
        "6": 0.808,
        "4": 0.508,
        "3": 0.403,
        "2": 0.319,
        "1": 0.253,
        "1/0": 0.201,
        "2/0": 0.159,
    },
}


class Circuit:
    def __init__(self, specimen: Specimen) -> None:
        self.specimen, self.plate = specimen, specimen.plate
        self.volts_of = {c["id"]: float(c["rated_volts"]) for c in self.plate["circuits"]}

    def net(self, closed: Collection[str]) -> Net:
        net = Net()
        for circuit in self.plate["circuits"]:
            self._supply(net, circuit, closed)
        made: set[str] = set()
        for element in self.plate["elements"]:
            self._rung(net, element, closed, made)
        self._control(net, closed)
        if self.plate.get("blower"):
            self._blower(net, closed)
        for landing in self.specimen.landings.values():
            for one, other in landing.straps:
                net.join(f"{one}={other}", one, other, 0.001)
            for contact, one, other, alike in landing.beside:
                if (contact in closed) == alike:
                    net.join(f"{one}/{other}", one, other, 0.003)
        return net

    def _wire(self, net: Net, name: str, at: str, to: str, ohms: float) -> None:
        """A wire between two nodes, or where its ends were put instead."""
        at, to = (self._lies.get((name, end), end) for end in (at, to))
        if at and to:
            net.join(name, at, to, ohms)

    @cached_property
    def _lies(self) -> dict[tuple[str, str], str]:
        return {
            end: node for landing in self.specimen.landings.values() for end, node in landing.lies.items()
        }

    def common(self, relay: str) -> str:
        """The node of a blower relay's common: the motor's, unless its wires were moved."""
        return common_of(relay) if relay in self.specimen.landings else "blower.in"

    def coil_end(self, device: str) -> str:
        """The node of a coil's other end: C, unless its wires were moved."""
        return coil_end(device) if device in self.specimen.landings else "C"

    def contact_ohms(self, name: str) -> float:
        burnt = self.specimen.has(name, "burnt")
        return self.specimen.between(f"{name}/ohms", 0.001, 0.006) + (burnt.size if burnt else 0.0)

    def _supply(self, net: Net, circuit: Plate, closed: Collection[str]) -> None:
        name, volts, s = circuit["id"], float(circuit["rated_volts"]), self.specimen
        gone, low = s.has(name, "no-supply"), s.has(name, "low-volts")
        share = low.size if low else s.between("supply", 0.96, 1.04)
        if volts < 220:
            leg = volts / math.sqrt(3)
            legs = [complex(leg), cmath.rect(leg, -2 * math.pi / 3)]
        else:
            legs = [complex(volts / 2), complex(-volts / 2)]
        tilt = s.between(f"{name}/tilt", -0.006, 0.006)
        wire = self._wire_ohms(circuit)
        loose, broken = s.has(name, "loose"), s.has(name, "open")
        for end, emf, sign in zip(("l1", "l2"), legs, (1, -1), strict=True):
            source = s.between(f"{name}/source", 0.006, 0.016)
            if not gone:
                net.join(
                    f"{name}.source.{end}",
                    GROUND,
                    f"{name}.line.{end}",
                    source,
                    share * emf * (1 + sign * tilt),
                )
            if f"{name}.pole" not in closed or (broken and broken.place in (end, "both")):
                continue
            ohms = wire + s.between(f"{name}/pole/{end}", 0.001, 0.004)
            if loose and loose.place == end:
                ohms += loose.size
            net.join(f"{name}.feed.{end}", f"{name}.line.{end}", f"{name}.{end}", ohms)

    def _wire_ohms(self, circuit: Plate) -> float:
        s, conductor = self.specimen, circuit.get("conductor") or {}
        feet = conductor.get("length_ft")
        if not feet:
            return s.between(f"{circuit['id']}/wire", 0.003, 0.018)
        per_kft = OHMS_PER_KFT[conductor["material"]][conductor["awg"]]
        return float(s.between(f"{circuit['id']}/wire", 0.9, 1.3) * feet / 1000 * per_kft)

    def _rung(self, net: Net, element: Plate, closed: Collection[str], made: set[str]) -> None:
        rung, s = element["rung"], self.specimen
        off = s.has(f"{element['id']}.wire", "open")
        ends = [*rung, None]
        for joint, part in zip(joints(element), ends, strict=True):
            if joint not in made:
                made.add(joint)
                at, _, to = joint.partition("/")
                if not (off and off.place == joint):
                    self._wire(net, f"wire/{joint}", at, to, s.between(joint, 0.0005, 0.002))
            if part and part not in made:
                made.add(part)
                self._part(net, element, part, closed)

    def strip_ohms(self, element: Plate) -> float:
        s, name = self.specimen, element["id"]
        ohms = element["rated_volts"] ** 2 / (1000 * element["rated_kw"]) / s.strip_share(name)
        worn = s.has(name, "high-resistance", "low-resistance")
        return float(ohms * worn.size if worn else ohms)

    def _part(self, net: Net, element: Plate, part: str, closed: Collection[str]) -> None:
        if part != element["id"]:
            if part in closed:
                net.join(part, f"{part}.in", f"{part}.out", self.contact_ohms(part))
            return
        ohms, s = self.strip_ohms(element), self.specimen
        grounded = s.has(part, "grounded")
        share = float(grounded.place) if grounded else 0.5
        net.join(part, f"{part}.in", f"{part}.mid", share * ohms)
        if not s.has(part, "open"):
            net.join(f"{part}.rest", f"{part}.mid", f"{part}.out", (1 - share) * ohms)
        if grounded:
            net.join(f"{part}.earth", f"{part}.mid", GROUND, grounded.size)

    def _blower(self, net: Net, closed: Collection[str]) -> None:
        blower, s = self.plate["blower"], self.specimen
        circuit = blower["circuit"]
        if not s.has("blower", "open"):
            volts, locked = self.volts_of[circuit], s.has("blower", "locked")
            amps = blower_amps(blower) * s.between("blower/amps", 0.6, 1.4)
            if locked:
                amps = locked.size * blower.get("fla", 4.0)
            factor = s.between("blower/factor", 0.7, 0.98)
            phase = math.acos(factor)
            net.join("blower", "blower.in", "blower.out", cmath.rect(volts / amps, phase))
        net.join("blower.wire", "blower.out", f"{circuit}.l2", 0.002)
        relay, tie = blower.get("relay"), blower["interlock"]
        if relay:
            name = relay["id"]
            common = self.common(name)
            if common != "blower.in":
                self._wire(net, f"{name}.com.wire", common, "blower.in", 0.002)
            self._wire(net, f"{name}.no.wire", f"{circuit}.l1", f"{name}.no.in", 0.002)
            if f"{name}.no" in closed:
                net.join(f"{name}.no", f"{name}.no.in", common, self.contact_ohms(f"{name}.no"))
            if tie["kind"] == "nc-contact" and not self.specimen.has("tie.wire", "open"):
                self._wire(net, f"{name}.nc.wire", f"{tie['tap']}.out", f"{name}.nc.in", 0.002)
            if f"{name}.nc" in closed:
                net.join(f"{name}.nc", f"{name}.nc.in", common, self.contact_ohms(f"{name}.nc"))
        if tie["kind"] == "sequencer-switch":
            name = tie["switch"]
            self._wire(net, f"{name}.wire.in", f"{circuit}.l1", f"{name}.in", 0.002)
            self._wire(net, f"{name}.wire.out", f"{name}.out", "blower.in", 0.002)
            if name in closed:
                net.join(name, f"{name}.in", f"{name}.out", self.contact_ohms(name))

    def _control(self, net: Net, closed: Collection[str]) -> None:
        power, s = self.plate["control_power"], self.specimen
        volts, va = power.get("volts", 24.0), power.get("va", 40.0)
        tap = power.get("primary_volts") or self.volts_of[power["circuit"]]
        share = s.between("transformer/ratio", 0.96, 1.05)
        weak = s.has("transformer", "weak")
        share *= weak.size if weak else 1.0
        if s.has("transformer", "wrong-tap"):
            share *= 208 / 240
        primary = f"{power['circuit']}.l1", f"{power['circuit']}.l2"
        ratio = 1.10 * volts / tap * share
        if not s.has("transformer", "dead") and "transformer.burnt" not in closed:
            inner = s.between("transformer/inner", 0.06, 0.13) * volts**2 / va
            net.transformer("transformer", "secondary", "C", primary, ratio, inner)
        net.join("magnetising", *primary, 1j * s.between("transformer/idle", 6e3, 18e3) + 2e3)
        if power.get("c_grounded", True):
            net.join("bond", "C", GROUND, 0.01)
        if "fuse" in closed:
            net.join("fuse", "secondary", "R", 0.01)
        for call in CALLS:
            if f"call.{call}" in closed:
                net.join(f"call.{call}", "R", call, s.between(f"{call}/wire", 0.05, 0.6))
        for terminal in ("R", *CALLS):
            if s.has(terminal, "to-ground"):
                net.join(f"{terminal}.earth", terminal, GROUND, 0.05)
        blower = self.plate.get("blower") or {"interlock": {"kind": "none"}}
        for call in ("W1", "W2") if blower["interlock"]["kind"] == "g-with-w" else ():
            net.join(f"board.{call}", call, "C", s.between(f"board/{call}", 5e3, 50e3))
        if "board.G" in closed:
            net.join("board.G", "R", "G", 0.05)
        for device in self.devices:
            self._coil(net, device, closed)

    @cached_property
    def devices(self) -> list[Plate]:
        """Everything with a coil: controls, the blower's relay, other loads."""
        blower = self.plate.get("blower") or {}
        relay = blower.get("relay")
        return [*self.plate["controls"], *([relay] if relay else []), *self.plate.get("other_loads", ())]

    @cached_property
    def owner_of(self) -> dict[str, str]:
        """The control that each switch belongs to."""
        return {s["id"]: c["id"] for c in self.plate["controls"] for s in c["switches"]}

    def _coil(self, net: Net, device: Plate, closed: Collection[str]) -> None:
        name, s, call = device["id"], self.specimen, device.get("call", "G")
        feed = call
        if isinstance(call, dict):
            feed = f"{call['through']}.out"
            owner = self.owner_of[call["through"]]
            self._wire(net, f"{name}.feed", f"{owner}.coil.in", f"{call['through']}.in", 0.02)
            if call["through"] in closed:
                net.join(call["through"], f"{call['through']}.in", feed, 0.02)
        if f"{name}.coil.off" in closed:
            return
        self._wire(net, f"{name}.coil.wire", feed, f"{name}.coil.in", 0.02)
        end = self.coil_end(name)
        if end != "C":
            self._wire(net, f"{name}.coil.back", end, "C", 0.02)
        parted = s.has(name, "no-rectifier-output") and s.between(f"{name}/diode", 0, 1) < 0.5
        if not s.has(name, "coil-open") and not parted and f"{name}.coil.burnt" not in closed:
            net.join(f"{name}.coil", f"{name}.coil.in", end, self.coil_impedance(device))

    def coil_impedance(self, device: Plate) -> complex:
        """At 60 Hz, running."""
        name, s, kind = device["id"], self.specimen, device.get("type", "contactor")
        shorted = s.has(name, "coil-shorted")
        if shorted:
            return complex(shorted.size * printed_ohms(device)[0])
        coil = device.get("coil") or {}
        va = coil.get("va") or device.get("va") or TYPICAL_VA.get(kind, 5.0)
        ohms = coil.get("volts", 24.0) ** 2 / (va * s.between(f"{name}/va", 0.6, 1.4))
        if kind in THERMAL | DC:
            return complex(ohms)
        return cmath.rect(ohms, math.acos(s.between(f"{name}/factor", 0.3, 0.7)))


def blower_amps(blower: Plate) -> float:
    return float(blower.get("typical_amps") or 0.65 * blower.get("fla", 4.6))


def printed_ohms(device: Plate) -> tuple[float, float]:
    printed = (device.get("coil") or {}).get("ohms")
    if printed:
        return float(printed[0]), float(printed[1])
    return TYPICAL_OHMS_OF.get(device.get("type", ""), (8.0, 25.0))


TYPICAL_OHMS_OF = {
    "sequencer": (20.0, 150.0),
    "contactor": (8.0, 25.0),
    "relay-ac": (10.0, 80.0),
    "relay-dc": (200.0, 1000.0),
    "spdt": (10.0, 80.0),
    "dpdt": (10.0, 80.0),
    "time-delay": (10.0, 80.0),
    "board": (10.0, 80.0),
}
