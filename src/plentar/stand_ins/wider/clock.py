"""What is closed at a time: coils, bimetals, limits and the fuse, from one move to the next."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from plentar.stand_ins.wider.circuit import CALLS, Circuit
from plentar.stand_ins.wider.nodal import Solved
from plentar.stand_ins.wider.specimen import ACTS_V, LETS_GO_V, THERMAL, Plate

#: An event as the visit file writes it.
Event = Mapping[str, Any]

LONG_BEFORE_S, LATEST_S, MOST_MOVES = 7200.0, 1800.0, 4000
#: A device that moves so often in a minute chatters.
CHATTERS = 12
#: A dead short opens its breaker at once, A; a coil burns at so many times its volts, a transformer at so many times
#: its amps.
BOLTED_A, BURNS_COIL, BURNS_TRANSFORMER = 800.0, 3.0, 25.0


@dataclass
class _Device:
    """A coil with what it moves: (contact, on window, off window, closed when energised)."""

    plate: Plate
    kind: str
    moves: list[tuple[str, tuple[float, float], tuple[float, float], bool]]
    on: bool = False
    switched: list[float] = field(default_factory=list)


@dataclass(frozen=True)
class Standing:
    t_s: float
    closed: frozenset[str]
    solved: Solved
    air: bool
    cycling: frozenset[str]
    chatters: bool
    blown: bool
    #: Circuits whose breaker a dead short has opened.
    tripped: frozenset[str] = frozenset()

    @property
    def burnt(self) -> list[str]:
        """What line volts have burnt, as faults."""
        coils = [name for name in self.closed if name.endswith(".coil.burnt")]
        found = [f"{name.removesuffix('.coil.burnt')}:coil-open" for name in coils]
        return sorted([*found, *(["transformer:dead"] if "transformer.burnt" in self.closed else [])])


class Clock:
    def __init__(self, circuit: Circuit) -> None:
        self.circuit, self.specimen, self.plate = circuit, circuit.specimen, circuit.plate
        self._nets: dict[frozenset[str], Solved] = {}

    def through(self, events: Sequence[Event], until_s: float) -> Iterator[Standing]:
        """Every standing up to a time; the last is that of the time itself. Before the first event the power was on for
        long, and nothing called; off where that event is as old as this."""
        self._reset()
        if events and events[0]["t"] <= -LONG_BEFORE_S:
            self._panel(events[0])
        for event in events:
            if event["t"] > until_s:
                break
            if "power" in event or "calls" in event or "wires" in event:
                yield from self._until(event["t"])
                self._panel(event)
        yield from self._until(until_s)

    def _reset(self) -> None:
        plate = self.plate
        self.t_s = -LONG_BEFORE_S
        self.closed = {f"{c['id']}.pole" for c in plate["circuits"]}
        self.closed |= {x["id"] for x in plate["limits"] if not self.specimen.has(x["id"], "open")}
        self.closed |= {x["id"] for x in plate["links"] if not self.specimen.has(x["id"], "open")}
        if not self.specimen.has("control-fuse", "open"):
            self.closed.add("fuse")
        self.blown, self.chattering = False, False
        self.tripped: set[str] = set()
        self.devices = list(self._devices())
        for device in self.devices:
            for contact, _, _, when_on in device.moves:
                self._set(contact, not when_on)
        self.due: list[tuple[float, str, bool]] = []
        self.limits: dict[str, float] = {}
        self.cycling: set[str] = set()
        self.calls: frozenset[str] = frozenset()
        self.lifted = False
        self._call()

    def _devices(self) -> Iterator[_Device]:
        for control in self.plate["controls"]:
            thermal = control["type"] in THERMAL
            usual = (1.0, 110.0) if thermal else (0.0, 1.0)
            moves = [
                (s["id"], tuple(s.get("on_s", usual)), tuple(s.get("off_s", usual)), True)
                for s in control["switches"]
            ]
            yield _Device(control, control["type"], moves)
        relay = (self.plate.get("blower") or {}).get("relay")
        if relay:
            late = relay["type"] == "time-delay"
            on = tuple(relay.get("on_s", (0.0, 3.0) if late else (0.0, 1.0)))
            off = tuple(relay.get("off_s", (45.0, 120.0) if late else (0.0, 1.0)))
            moves = [(f"{relay['id']}.no", on, off, True)]
            tied = self.plate["blower"]["interlock"]["kind"] == "nc-contact"
            if tied or relay["type"] in ("spdt", "dpdt"):  # a set that nobody has wired moves too
                moves.append((f"{relay['id']}.nc", on, off, False))
            yield _Device(relay, "relay-ac", moves)

    def _set(self, contact: str, closes: bool) -> None:
        """Move a contact, as far as it moves."""
        owner = self.circuit.owner_of.get(contact, "")
        part, _, which = contact.rpartition(".")
        has = self.specimen.has
        if which in ("no", "nc") and not owner:
            if has(part, f"{which}-welded"):
                closes = True
            elif has(part, f"{which}-stuck-open") or (which == "nc" and has(part, "no-welded")):
                closes = False
        elif has(contact, "stuck-closed") or has(owner, "stuck-closed"):
            closes = True
        elif has(contact, "stuck-open") or has(owner, "stuck-open"):
            closes = False
        (self.closed.add if closes else self.closed.discard)(contact)

    def _panel(self, event: Event) -> None:
        if "power" in event:
            circuits = (
                [event["circuit"]] if event.get("circuit") else [c["id"] for c in self.plate["circuits"]]
            )
            for name in circuits:
                closed = event["power"] == "on"
                (self.closed.add if closed else self.closed.discard)(f"{name}.pole")
                self.tripped.discard(name)
        if "wires" in event:
            self._wires(event)
        if "calls" in event:
            self.calls = frozenset(event["calls"])
            self.lifted = event.get("lifted", self.lifted)
        self._call()

    def _wires(self, event: Event) -> None:
        """The thermostat's off or back, nothing called after either; or the two of a coil."""
        lifted, coil = event["wires"] == "lifted", event.get("part")
        if coil:
            (self.closed.add if lifted else self.closed.discard)(f"{coil}.off")
        elif lifted != self.lifted:
            self.lifted, self.calls = lifted, frozenset()

    def _call(self) -> None:
        for call in CALLS:
            asked = call in self.calls
            if not self.lifted:
                asked = bool(asked or self.specimen.has(call, "always"))
                asked |= "Y" in self.calls and bool(self.specimen.has(call, "with-Y"))
                asked |= "G" in self.calls and bool(self.specimen.has(call, "with-G"))
                asked = asked and not self.specimen.has(call, "no-call")
            (self.closed.add if asked else self.closed.discard)(f"call.{call}")

    def solved(self) -> Solved:
        key = frozenset(self.closed)
        if key not in self._nets:
            self._nets[key] = self.circuit.net(key).solve()
        return self._nets[key]

    def _until(self, until_s: float) -> Iterator[Standing]:
        for _ in range(MOST_MOVES):
            self._settle()
            yield self._standing()
            next_s = min([t for t, _, _ in self.due] + list(self.limits.values()), default=1e18)
            if next_s > until_s:
                break
            self.t_s = max(self.t_s, next_s)
            self._move()
        self.t_s = max(self.t_s, until_s)
        yield self._standing()

    def _standing(self) -> Standing:
        return Standing(
            self.t_s,
            frozenset(self.closed),
            self.solved(),
            self._air(),
            frozenset(self.cycling),
            self.chattering,
            self.blown,
            frozenset(self.tripped),
        )

    def _move(self) -> None:
        now, self.due = ([d for d in self.due if d[0] <= self.t_s], [d for d in self.due if d[0] > self.t_s])
        for _, contact, closes in now:
            if contact == "fuse":
                self.blown = True
                self.closed.discard("fuse")
            else:
                self._set(contact, closes)
        for limit, at_s in list(self.limits.items()):
            if at_s <= self.t_s:
                opens = limit in self.closed
                (self.closed.discard if opens else self.closed.add)(limit)
                self.cycling.add(limit)
                self.limits[limit] = self.t_s + self._phase_s(limit, opens)

    def _phase_s(self, limit: str, open_: bool) -> float:
        """How long a limit stays open, or closed while its element heats."""
        what = f"{limit}/{'open' if open_ else 'closed'}"
        least, most = 30.0, 360.0
        usual = float(least * (most / least) ** self.specimen.between(what, 0, 1))
        usual *= 1.0 if self._air() or open_ else 0.8
        return usual * self.specimen.between(f"{what}/{self.t_s:.0f}", 0.85, 1.2)

    def _settle(self) -> None:
        for _ in range(4):
            before = frozenset(self.closed)
            self._board()
            if before == self.closed:
                break
        self._shorts()
        self._fuse()
        for device in self.devices:
            self._coil(device)
        self._limits()

    def _shorts(self) -> None:
        """A breaker opens on a dead short, and a transformer that is fed from behind burns."""
        for name in self.circuit.volts_of:
            amps = max(abs(self.solved().amp(f"{name}.feed.{leg}")) for leg in ("l1", "l2"))
            if amps > BOLTED_A:
                self.closed.discard(f"{name}.pole")
                self.tripped.add(name)
        power = self.plate["control_power"]
        rated_a = power.get("va", 40.0) / power.get("volts", 24.0)
        if abs(self.solved().amp("transformer")) > BURNS_TRANSFORMER * rated_a and "fuse_amps" not in power:
            self.closed.add("transformer.burnt")

    def _board(self) -> None:
        blower = self.plate.get("blower")
        if not blower or blower["interlock"]["kind"] != "g-with-w":
            return
        solved = self.solved()
        sees = any(solved.across(w, "C") > 10 for w in ("W1", "W2") if w in solved.index)
        (self.closed.add if sees else self.closed.discard)("board.G")

    def _fuse(self) -> None:
        rating = self.plate["control_power"].get("fuse_amps")
        if not rating or "fuse" not in self.closed:
            return
        over = abs(self.solved().amp("fuse")) > rating
        waits = any(contact == "fuse" for _, contact, _ in self.due)
        if over and not waits:
            self.due.append((self.t_s + self.specimen.between("fuse/s", 0.1, 3.0), "fuse", False))
        elif not over and waits:
            self.due = [d for d in self.due if d[1] != "fuse"]

    def _coil(self, device: _Device) -> None:
        name, has = device.plate["id"], self.specimen.has
        volts = self.solved().across(f"{name}.coil.in", self.circuit.coil_end(name))
        rated_volts = (device.plate.get("coil") or {}).get("volts", 24.0)
        if volts > BURNS_COIL * rated_volts and abs(self.solved().amp(f"{name}.coil")) > 0:
            self.closed.add(f"{name}.coil.burnt")
            volts = 0.0
        table = LETS_GO_V if device.on else ACTS_V
        on = volts >= self.specimen.between(f"{name}/acts/{device.on}", *table[device.kind])
        dead = has(name, "coil-open", "coil-shorted", "no-rectifier-output")
        on = on and not dead
        if on == device.on:
            return
        device.switched = [t for t in device.switched if self.t_s - t < 60] + [self.t_s]
        if len(device.switched) > CHATTERS:
            self.chattering = True
            return
        device.on = on
        mine = {contact for contact, _, _, _ in device.moves}
        self.due = [d for d in self.due if d[1] not in mine]
        for contact, wait_s, closes in self._waits(device, on, volts):
            self.due.append((self.t_s + wait_s, contact, closes))

    def _waits(self, device: _Device, on: bool, volts: float) -> Iterator[tuple[str, float, bool]]:
        """When each contact of a device follows its coil: in the order of the stack."""
        s, name = self.specimen, device.plate["id"]
        slow = s.has(name, "slow")
        rated = (device.plate.get("coil") or {}).get("volts", 24.0)
        cold = max(1.0, (rated / max(volts, 1.0)) ** 2) if device.kind in THERMAL and on else 1.0
        contacts = [contact for contact, *_ in device.moves]
        windows = [on_s if on else off_s for _, on_s, off_s, _ in device.moves]
        waits: list[float] = []
        for contact, (least, most) in zip(contacts, windows, strict=True):
            mover = contact if device.kind in THERMAL else name
            wait = s.between(f"{mover}/{'on' if on else 'off'}", least, most)
            waits.append(cold * (min(slow.size * most, LATEST_S) if slow else wait))
        if device.kind in THERMAL:
            order = range(1, len(waits)) if on else range(len(waits) - 2, -1, -1)
            for n in order:  # one after the other, where the windows allow
                before = waits[n - 1] if on else waits[n + 1]
                if before > waits[n] and (slow or before <= windows[n][1] * cold):
                    waits[n] = before
        closes = [on == when_on for *_, when_on in device.moves]
        yield from zip(contacts, waits, closes, strict=True)

    def _air(self) -> bool:
        """The blower moves its air."""
        blower = self.plate.get("blower")
        if not blower:
            return True
        if self.specimen.has("blower", "open", "locked"):
            return False
        volts = self.solved().across("blower.in", "blower.out")
        return volts > 0.5 * self.circuit.volts_of[blower["circuit"]]

    def _limits(self) -> None:
        air, airflow = self._air(), self.specimen.has("airflow", "low")
        for limit in (x["id"] for x in self.plate["limits"]):
            hot = not air or airflow or self.specimen.has(limit, "weak")
            heats = any(self._heats(e) for e in self.plate["elements"] if limit in e["rung"])
            if limit in self.limits:
                if limit in self.closed and not (heats and hot):
                    del self.limits[limit]
                    self.cycling.discard(limit)
            elif heats and hot:
                first = self.specimen.between(f"{limit}/first", 1.0, 2.0)
                self.limits[limit] = self.t_s + first * self._phase_s(limit, False)

    def _heats(self, element: Plate) -> bool:
        usual = 1000 * element["rated_kw"] / element["rated_volts"]
        return bool(abs(self.solved().amp(element["id"])) > 0.05 * usual)
