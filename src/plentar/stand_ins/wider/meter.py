"""What a technician's meter shows on a specimen: rounded, a little off, and ghosts on dead wires."""

from __future__ import annotations

import math

from plentar.stand_ins.wider.circuit import Circuit, printed_ohms
from plentar.stand_ins.wider.clock import Standing
from plentar.stand_ins.wider.nodal import GROUND
from plentar.stand_ins.wider.specimen import DC, Plate, Specimen

CONTROL = ("transformer", "R", "W1", "W2", "G", "Y")
BTUH_PER_WATT, AIR = 3.41214, 1.08
#: What a unit moves whose plate says nothing of it.
CFM_PER_KW = 110.0
#: What a dead wire shows beside those of the line, and among those of 24 V, at most.
GHOST_V, CONTROL_GHOST_V = 60.0, 20.0
OVERLOAD = math.inf


class Meter:
    def __init__(self, circuit: Circuit) -> None:
        self.circuit, self.plate = circuit, circuit.plate
        self.specimen: Specimen = circuit.specimen
        s = self.specimen
        self.coarse = s.between("meter/coarse", 0, 1) < 0.5
        self.millivolts = s.between("meter/millivolts", 0, 1) < 0.7
        self.gain = {
            "volts": s.between("meter/volts", 0.991, 1.009),
            "amps": s.between("meter/amps", 0.982, 1.018),
        }
        self.offset_a = s.between("meter/offset", -0.3, 0.3) * (1.0 if self.coarse else 0.3)

    def read(self, quantity: str, at: str, now: Standing, driven: bool = False) -> float:
        if quantity == "tone":
            return float(self.read("ohms", at, now, driven) < self.specimen.between("meter/tone", 20.0, 50.0))
        if quantity == "ohms" and at == "control-fuse":
            return self._rounded(
                quantity, self.specimen.between("fuse", 0.05, 0.3) if "fuse" in now.closed else OVERLOAD
            )
        if quantity in ("ohms", "uf"):
            return self._rounded(quantity, self._cold(quantity, at, driven))
        if quantity == "temp_f":
            return round(self._air(at, now) + self._noise(at, now, 0.7), 1)
        shown = self._clamp(at, now) if quantity == "amps" else self._volts(quantity, at, now)
        return self._rounded(quantity, shown, fine=quantity == "amps" and self._control(at))

    def held(self, at: str, now: Standing) -> float:
        """Volts at a point before the meter; NaN where nothing holds them."""
        one, two = self._ends(at)
        if now.solved.floats(one, two):
            return math.nan
        name = at.removesuffix(".coil")
        return 0.0 if self.specimen.has(name, "no-rectifier-output") else now.solved.across(one, two)

    def amps(self, at: str, now: Standing) -> float:
        """Amps at a point before the meter."""
        amps = now.solved.amp
        if at in {e["id"] for e in self.plate["elements"]}:
            return max(abs(amps(at)), abs(amps(f"{at}.rest")))
        names: tuple[str, ...] = (at,)
        match at.rpartition("."):
            case ("", _, circuit) if circuit in self.circuit.volts_of:
                names = (f"{at}.feed.l1",)
            case (circuit, _, "l1" | "l2" as leg) if circuit in self.circuit.volts_of:
                names = (f"{circuit}.feed.{leg}",)
            case ("transformer", _, "primary"):
                branch = now.solved.net.branches.get("transformer")
                ratio = branch.weights[2][1] if branch else 0.0
                return abs(ratio * amps("transformer") + amps("magnetising"))
            case ("", _, "R"):
                names = ("fuse",)
            case ("", _, "W1" | "W2" | "G" | "Y"):
                names = (f"call.{at}", "board.G") if at == "G" else (f"call.{at}",)
            case _:
                pass
        return abs(sum(amps(name) for name in names))

    def part_ohms(self, at: str, *, driven: bool = False) -> float:
        """Ohms of a part alone, before the meter."""
        return self._ohms(at, driven)

    def microfarads(self) -> float:
        return self._cold("uf", "capacitor", driven=False)

    def _rounded(self, quantity: str, value: float, fine: bool = False) -> float:
        if math.isinf(value):
            return OVERLOAD
        if quantity == "volts" and value < 2:
            return round(value, 3 if self.millivolts else 1)
        places = {"volts": 0, "amps": 1} if self.coarse else {"volts": 1, "amps": 2}
        return round(value, 2 if fine else places.get(quantity, 1))

    def _supply(self, now: Standing) -> float:
        """How the service wanders over a visit, and within a minute."""
        s = self.specimen
        slow = s.between("supply/wander", 0, 0.015)
        period = s.between("supply/period", 600, 3000)
        wave = math.sin(2 * math.pi * now.t_s / period + s.between("supply/phase", 0, 6.3))
        return 1 + slow * wave + s.between(f"supply/{now.t_s:.0f}", -0.003, 0.003)

    def _noise(self, at: str, now: Standing, most: float) -> float:
        return self.specimen.between(f"{at}/{now.t_s:.1f}/noise", -most, most)

    def _control(self, at: str) -> bool:
        return at in CONTROL or at.endswith(".coil")

    def _volts(self, quantity: str, at: str, now: Standing) -> float:
        one, two = self._ends(at)
        solved, s = now.solved, self.specimen
        volts = solved.across(one, two) * self._supply(now)
        if solved.floats(one, two):
            ghost = s.draw(f"{at}/{sorted(now.closed)}/ghost")
            volts = (
                0.0
                if ghost.random() < 0.5
                else ghost.uniform(0, CONTROL_GHOST_V if self._control(at) else GHOST_V)
            )
        device = at.removesuffix(".coil")
        kind = next((c["type"] for c in self.plate["controls"] if c["id"] == device), "")
        if at.endswith(".coil") and kind in DC:
            if s.has(device, "no-rectifier-output"):
                volts = 0.0
            if quantity == "volts":
                return s.between(f"{at}/slip", 0, 15) if volts > 1 else 0.0
            open_ = s.has(device, "coil-open")
            volts *= 1.25 if open_ else s.between(f"{device}/dc", 0.85, 1.3)
        elif quantity == "volts_dc":
            return 0.0
        return max(0.0, volts * self.gain["volts"] * (1 + self._noise(at, now, 0.001)))

    def _clamp(self, at: str, now: Standing) -> float:
        turns = 10.0 if self._control(at) else 1.0
        share = self._supply(now) * self.gain["amps"] * (1 + self._noise(at, now, 0.003))
        return max(0.0, self.amps(at, now) * share + self.offset_a / turns)

    def _ends(self, at: str) -> tuple[str, str]:
        if ":" in at:
            one, _, two = at.partition(":")
            return one, two
        if at in self.circuit.volts_of:
            return f"{at}.l1", f"{at}.l2"
        part, _, which = at.rpartition(".")
        if which == "line":
            return f"{at}.l1", f"{at}.l2"
        if which in ("coil", "rectifier"):
            return f"{part}.coil.in", self.circuit.coil_end(part)
        power = self.plate["control_power"]
        if at == "transformer.primary":
            return f"{power['circuit']}.l1", f"{power['circuit']}.l2"
        if at == "transformer":
            return "secondary", "C"
        if at == "control-fuse":
            return "secondary", "R"
        if at in CONTROL:
            return at, "C"
        if at == "tie.wire":
            tie, relay = self.plate["blower"]["interlock"], self.plate["blower"]["relay"]
            return f"{tie['tap']}.out", f"{relay['id']}.nc.in"
        if which in ("no", "nc") and at not in self.circuit.owner_of:
            return f"{at}.in", self.circuit.common(part)
        return f"{at}.in", f"{at}.out"

    def _air(self, at: str, now: Standing) -> float:
        s, blower = self.specimen, self.plate.get("blower") or {}
        back = s.between("return", 58.0, 76.0)
        if at == "return-air" or not now.air:
            return back
        kw = sum(e["rated_kw"] for e in self.plate["elements"])
        # A unit has air whether its plate says so or not.
        rated = blower.get("rated_cfm") or 400.0 * blower.get("tons", 0) or CFM_PER_KW * kw
        watts = sum(
            abs(now.solved.amp(e["id"])) * now.solved.across(f"{e['id']}.in", f"{e['id']}.out")
            for e in self.plate["elements"]
        )
        low = s.has("airflow", "low")
        share = s.between("airflow", 0.85, 1.15) * (low.size if low else 1.0)
        share *= 0.8 if s.has("blower", "weak-capacitor") else 1.0
        rise = BTUH_PER_WATT * watts * self._supply(now) ** 2 / (AIR * rated * share)
        return float(back + rise)

    def _cold(self, quantity: str, at: str, driven: bool) -> float:
        s = self.specimen
        if quantity == "uf":
            weak = s.has("blower", "weak-capacitor")
            rated = (self.plate.get("blower") or {}).get("capacitor_uf") or math.nan
            return float(rated * s.between("capacitor", 0.95, 1.05) * (weak.size if weak else 1.0))
        ohms = self._ohms(at, driven)
        if ohms > 4e7:
            return OVERLOAD
        return ohms * s.between(f"meter/ohms/{at}", 0.995, 1.005) + s.between("leads", -0.05, 0.15)

    def _ohms(self, at: str, driven: bool) -> float:
        s = self.specimen
        if ":" in at:
            return self._to_ground(at)
        element = next((e for e in self.plate["elements"] if e["id"] == at), None)
        if element is not None:
            if s.has(at, "open"):
                return OVERLOAD
            return self.circuit.strip_ohms(element) * s.between(f"{at}/cold", 0.91, 0.995)
        part, _, which = at.rpartition(".")
        if at == "tie.wire":
            return OVERLOAD if s.has(at, "open") else 0.1
        if which == "coil":
            return self._coil_ohms(part)
        closed = self._closed_cold(at, driven)
        return self.circuit.contact_ohms(at) + s.between(f"{at}/film", 0, 0.08) if closed else (OVERLOAD)

    def _coil_ohms(self, name: str) -> float:
        s = self.specimen
        if s.has(name, "coil-open"):
            return OVERLOAD
        device = next(d for d in self.circuit.devices if d["id"] == name)
        low, high = printed_ohms(device)
        shorted = s.has(name, "coil-shorted")
        return shorted.size * low if shorted else s.between(f"{name}/ohms", low, high)

    def _closed_cold(self, at: str, driven: bool) -> bool:
        s, owner = self.specimen, self.circuit.owner_of.get(at, "")
        part, _, which = at.rpartition(".")
        if at in {x["id"] for x in (*self.plate["limits"], *self.plate["links"])}:
            return not s.has(at, "open")
        relay = not owner
        device = part if relay else owner
        acts = driven and not s.has(device, "coil-open", "coil-shorted", "no-rectifier-output")
        if relay:
            if s.has(part, f"{which}-welded"):
                return True
            if s.has(part, f"{which}-stuck-open") or (which == "nc" and s.has(part, "no-welded")):
                return False
            return acts if which == "no" else not acts
        if s.has(at, "stuck-closed") or s.has(owner, "stuck-closed"):
            return True
        return acts and not s.has(at, "stuck-open") and not s.has(owner, "stuck-open")

    def _to_ground(self, at: str) -> float:
        s, (one, two) = self.specimen, self._ends(at)
        far = two if one == GROUND else one
        name = far.rsplit(".", 1)[0] if far.endswith((".in", ".out")) else far
        grounded = s.has(name, "grounded")
        if grounded:
            element: Plate = next(e for e in self.plate["elements"] if e["id"] == name)
            share = float(grounded.place)
            share = share if far.endswith(".in") else 1 - share
            if s.has(name, "open"):
                share = 0.0
            return grounded.size + share * self.circuit.strip_ohms(element)
        if s.has(name, "to-ground"):
            return 0.05
        sound = s.draw(f"{name}/insulation")
        return sound.uniform(3e6, 3e7) if sound.random() < 0.2 else OVERLOAD
