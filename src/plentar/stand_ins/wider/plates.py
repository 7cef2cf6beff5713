"""Sixty plates drawn from what the visit file can describe: no house was looked at for them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from random import Random
from typing import Any

PLATES = 60
AWG = (
    ("14", 15),
    ("12", 20),
    ("10", 30),
    ("8", 40),
    ("6", 55),
    ("4", 70),
    ("3", 85),
    ("2", 95),
    ("1", 110),
    ("1/0", 125),
    ("2/0", 145),
)
CONTACTS = (25, 30, 40, 50, 60, 80, 100, 125, 150, 200, 250)
BREAKERS = (15, 20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 100, 110, 125, 150, 175, 200, 225)


def plate(number: int) -> dict[str, Any]:
    return _Plate(Random(f"plate/{number}"), number).drawn()


class _Plate:
    """Draws a plate part by part."""

    def __init__(self, dice: Random, number: int) -> None:
        self.dice, self.number = dice, number
        self.volts = dice.choice((208, 240, 240, 240))
        self.count = dice.choice((1, 2, 2, 3, 3, 4, 4, 5, 6))
        self.family = dice.choice(
            (
                "singles",
                "singles",
                "stack",
                "doubles",
                "doubles",
                "chain",
                "contactor",
                "contactors",
                "relays-ac",
                "relays-dc",
                "relays-dc",
                "mixed",
            )
        )
        if self.family == "contactor":
            self.count = min(self.count, 4)
        self.calls = dice.choice((("W1",), ("W1", "W2")))
        self.tie = dice.choice(("nc-contact", "nc-contact", "g-with-w", "g-with-w", "switch"))

    def may(self, chance: float) -> bool:
        return self.dice.random() < chance

    def drawn(self) -> dict[str, Any]:
        strip_volts = self.volts if self.may(0.75) else (230 if self.volts == 240 else 240)
        sizes = [self.dice.choice((3.5, 3.8, 4.8, 4.8, 5.0, 5.0, 5.5, 7.5)) for _ in range(self.count)]
        if self.may(0.6):
            sizes = [sizes[0]] * self.count
        many = self.count > 1 and (sum(sizes) > 13 or self.may(0.2))
        split = (self.count + 1) // 2 if many else self.count
        circuits = ["C1", "C2"] if many else ["C1"]
        apart = self.may(0.12)
        own = f"C{len(circuits) + 1}" if apart else "C1"
        controls, switches = self._controls()
        limits, rungs = self._rungs(switches)
        elements = [
            {
                "id": f"E{n + 1}",
                "rated_kw": kw,
                "rated_volts": strip_volts,
                "circuit": "C1" if n < split else "C2",
                "rung": rungs[n],
            }
            for n, kw in enumerate(sizes)
        ]
        self._part_shared(elements)
        drawn = [(str(e["circuit"]), 1250 * kw / strip_volts) for e, kw in zip(elements, sizes, strict=True)]
        amps = {c: 7 + sum(a for where, a in drawn if where == c) for c in circuits}
        amps |= {own: amps.get(own, 9.0)}
        self._rate(controls, elements, strip_volts)
        links = sorted({p for r in rungs for p in r if p.startswith("FL")})
        return {
            "id": f"wide-{self.number}",
            "label": f"Drawn unit {self.number}",
            "kind": self.dice.choice(("air-handler", "electric-furnace", "package-unit")),
            "circuits": [self._circuit(name, need) for name, need in amps.items()],
            "limits": [{"id": name} for name in limits],
            "links": [{"id": name} for name in links],
            "elements": elements,
            "controls": controls,
            "blower": self._blower(own, elements),
            "control_power": self._power(own),
            "other_loads": [{"id": "OD", "call": "Y", "va": self.dice.choice((7, 8, 10))}]
            if self.may(0.7)
            else [],
        }

    def _circuit(self, name: str, need: float) -> dict[str, Any]:
        found: dict[str, Any] = {"id": name, "rated_volts": self.volts}
        if self.may(0.8):
            found["breaker_amps"] = next(b for b in BREAKERS if b >= need)
        if self.may(0.6):
            awg = next(size for size, carries in AWG if carries >= min(need, AWG[-1][1]))
            found["conductor"] = {
                "awg": awg,
                "material": "copper",
                "insulation_c": 90,
                "termination_c": 75,
                "length_ft": self.dice.randint(12, 90),
            }
        return found

    def _coil(self, ohms: Sequence[float], va: float) -> dict[str, Any]:
        found: dict[str, Any] = {"volts": 24}
        if self.may(0.6):
            found["ohms"] = list(ohms)
        if self.may(0.6):
            found["va"] = va
        return found

    def _controls(self) -> tuple[list[dict[str, Any]], list[list[str]]]:
        """The devices, and for each element the contacts that close it."""
        family, count = self.family, self.count
        if family == "mixed":
            family = self.dice.choice(("singles", "relays-ac", "relays-dc"))
        self.thermal = family in ("singles", "stack", "doubles", "chain")
        if family == "contactor":
            one = self._device("K1", "contactor", ["K1.1", "K1.2"], self.calls[0], (8, 25), 7)
            return [one], [["K1.1", "K1.2"]] * count
        if self.thermal:
            each = {"singles": 1, "stack": min(count, 4), "doubles": 2, "chain": self.dice.choice((1, 2))}
            return self._sequencers(count, each[family], chained=family == "chain")
        kind, ohms, va = {
            "contactors": ("contactor", (8, 25), 7),
            "relays-ac": ("relay-ac", (10, 80), 5),
            "relays-dc": ("relay-dc", (200, 1000), 2),
        }[family]
        poles = 2 if kind == "contactor" and self.may(0.7) else 1
        found, contacts = [], []
        for n in range(1, count + 1):
            names = [f"K{n}.{p + 1}" for p in range(poles)]
            found.append(self._device(f"K{n}", kind, names, self._call(n, count), ohms, va))
            contacts.append(names)
        return found, contacts

    def _call(self, number: int, count: int) -> str:
        return self.calls[0] if number <= (count + 1) // 2 else self.calls[-1]

    def _device(
        self, name: str, kind: str, switches: Sequence[str], call: Any, ohms: Sequence[float], va: float
    ) -> dict[str, Any]:
        made = [{"id": s, "contact_amps": 25} for s in switches]
        return {"id": name, "type": kind, "call": call, "coil": self._coil(ohms, va), "switches": made}

    def _sequencers(
        self, count: int, each: int, chained: bool
    ) -> tuple[list[dict[str, Any]], list[list[str]]]:
        found: list[dict[str, Any]] = []
        contacts: list[list[str]] = []
        printed = self.may(0.75)
        while len(contacts) < count:
            n = len(found) + 1
            size = min(each, count - len(contacts))
            switches: list[dict[str, Any]] = []
            for k in range(1, size + 1):
                switch: dict[str, Any] = {"id": f"S{n}.{k}", "contact_amps": 25}
                if printed:
                    switch |= {
                        "on_s": [(1, 20), (25, 70), (40, 100), (50, 110)][k - 1],
                        "off_s": [(50, 110), (30, 90), (20, 80), (1, 60)][k - 1],
                    }
                switches.append(switch)
            contacts += [[f"S{n}.{k}"] for k in range(1, size + 1)]
            call: Any = self._call(len(contacts), count)
            if chained:
                call = {"through": f"S{n - 1}.A"} if n > 1 else self.calls[0]
                if len(contacts) < count:
                    aux: dict[str, Any] = {"id": f"S{n}.A", "role": "auxiliary"}
                    aux |= {"on_s": [20, 60], "off_s": [10, 60]} if printed else {}
                    switches.append(aux)
            if n == 1 and self.tie == "switch":
                fan: dict[str, Any] = {"id": "S1.B", "role": "blower"}
                fan |= {"on_s": [1, 15], "off_s": [60, 120]} if printed else {}
                switches.append(fan)
            found.append(
                {
                    "id": f"S{n}",
                    "type": "sequencer",
                    "call": call,
                    "coil": self._coil((20, 90), 6),
                    "switches": switches,
                }
            )
        return found, contacts

    def _rungs(self, contacts: Sequence[Sequence[str]]) -> tuple[list[str], list[list[str]]]:
        limited, linked = self.dice.choice((1, 1, 1, 2)), self.may(0.7)
        last = self.may(0.3)
        limits: list[str] = []
        rungs = []
        for n, switches in enumerate(contacts, start=1):
            own = [f"TL{n}"] if limited == 1 else [f"TL{n}", f"TL{n}b"]
            own = own if self.may(0.93) else []
            limits += own
            rung = [switches[0], *([f"FL{n}"] if linked else []), *(own[1:]), f"E{n}", *own[:1]]
            if len(switches) > 1:
                rung.append(switches[1])
            elif last and self.tie != "nc-contact":
                rung.append(rung.pop(0))
            rungs.append(rung)
        return limits, rungs

    def _rate(
        self, controls: Sequence[dict[str, Any]], elements: Sequence[dict[str, Any]], volts: float
    ) -> None:
        """Contacts are made for what they carry, the blower's tap among it."""
        for switch in (s for control in controls for s in control["switches"]):
            fed = [e for e in elements if switch["id"] in e["rung"]]
            if fed and "contact_amps" in switch:
                amps = 6 + sum(1000 * e["rated_kw"] / volts for e in fed)
                switch["contact_amps"] = next(size for size in CONTACTS if size >= amps)

    def _part_shared(self, elements: Sequence[dict[str, Any]]) -> None:
        """One contactor's poles serve the rungs of one circuit."""
        if self.family == "contactor":
            for element in elements:
                element["circuit"] = "C1"

    def _blower(self, circuit: str, elements: Sequence[dict[str, Any]]) -> dict[str, Any]:
        fla = self.dice.choice((2.4, 3.4, 4.3, 5.6))
        kind = self.dice.choice(("spdt", "dpdt", "time-delay", "board", "board"))
        tie: dict[str, Any] = {"kind": self.tie}
        first = elements[0]["rung"][0]
        if self.tie == "switch":
            tie = {"kind": "sequencer-switch", "switch": "S1.B"} if self.thermal else {"kind": "g-with-w"}
        elif self.tie == "nc-contact":
            kind = self.dice.choice(("spdt", "dpdt"))
            tie["tap"] = first
        found: dict[str, Any] = {
            "circuit": circuit,
            "motor": self.dice.choice(("psc", "psc", "ecm")),
            "fla": fla,
            "interlock": tie,
            "relay": {"id": "BR", "type": kind, "call": "G", "coil": self._coil((15, 60), 5)},
        }
        if self.may(0.6):
            found["typical_amps"] = round(0.65 * fla, 1)
        if found["motor"] == "psc":
            found["capacitor_uf"] = self.dice.choice((5, 7.5, 10))
        if self.may(0.8):
            least = 50 * sum(float(e["rated_kw"]) for e in elements)  # a rise of 65 °F at most
            cfm = max(self.dice.choice((800, 1000, 1200, 1600)), 200 * math.ceil(least / 200))
            found |= {"rated_cfm": cfm, "tons": cfm / 400}
        return found

    def _power(self, circuit: str) -> dict[str, Any]:
        found: dict[str, Any] = {"circuit": circuit, "va": self.dice.choice((40, 40, 50, 75)), "volts": 24}
        if self.may(0.8):
            found["fuse_amps"] = self.dice.choice((3, 3, 5))
        if self.may(0.3):
            found["primary_volts"] = self.volts
        if self.may(0.1):
            found["c_grounded"] = False
        return found
