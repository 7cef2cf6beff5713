"""A hidden unit as whoever stands before it finds it: it is read, watched and mended."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import replace
from functools import cached_property

from plentar.stand_ins.wider.circuit import Circuit
from plentar.stand_ins.wider.clock import Clock, Event, Standing
from plentar.stand_ins.wider.complaints import complaints
from plentar.stand_ins.wider.landing import Landing
from plentar.stand_ins.wider.meter import Meter
from plentar.stand_ins.wider.specimen import Plate, Specimen


class HiddenUnit:
    """One specimen of a plate (as the visit file writes it) with hidden faults, and the wires of some devices where
    somebody has put them."""

    def __init__(
        self,
        plate: Plate,
        faults: Sequence[str],
        seed: str,
        specimen: Specimen | None = None,
        *,
        landings: Iterable[Landing] = (),
    ) -> None:
        self.plate, self.seed = plate, seed
        self.specimen = specimen or Specimen(plate, tuple(faults), seed, landings)
        self.circuit = Circuit(self.specimen)
        self.clock, self.meter = Clock(self.circuit), Meter(self.circuit)
        #: The watch of whoever reads is off by this much.
        self.skew_s = self.specimen.between("skew", -3.0, 3.0)

    def at(self, events: Sequence[Event], t_s: float) -> Standing:
        *_, last = self.clock.through(events, t_s)
        return last

    def read(
        self, quantity: str, at: str, events: Sequence[Event], t_s: float, *, driven: bool = False
    ) -> float:
        """What the meter shows; infinity for an overload."""
        switched = max((e["t"] for e in events if "calls" in e or "power" in e), default=0.0)
        now = self.at(events, max(t_s + self.skew_s, switched + 0.5))
        return self.meter.read(quantity, at, now, driven)

    def cycles(self, part: str, events: Sequence[Event], t_s: float) -> bool:
        """Whether an element's current comes and goes in the ten minutes before a time, or a limit
        opens and closes."""
        rung = next((e["rung"] for e in self.plate["elements"] if e["id"] == part), [part])
        found = self.clock.through(events, t_s)
        return any(s.t_s > t_s - 600 and s.cycling & set(rung) for s in found)

    def mended(self, parts: Collection[str]) -> HiddenUnit:
        """The same with some of its parts put right; a blown fuse is renewed."""
        left = [f.id for f in self.specimen.faults if self.work_on(f.id) not in parts]
        return HiddenUnit(self.plate, left, self.seed)

    def with_size(self, number: int, size: float) -> HiddenUnit:
        """The same with one of its faults of another size."""
        specimen = Specimen(self.plate, (), self.seed)
        faults = list(self.specimen.faults)
        faults[number] = replace(faults[number], size=size)
        specimen.faults = tuple(faults)
        return HiddenUnit(self.plate, (), self.seed, specimen)

    def work_on(self, fault: str) -> str:
        """The part that is worked on for a fault: a switch's is its device."""
        component, _, mode = fault.partition(":")
        if component in self.circuit.volts_of and mode in ("no-supply", "low-volts"):
            return f"{component}.supply"
        return self.circuit.owner_of.get(component, component)

    @cached_property
    def complaints(self) -> frozenset[str]:
        return complaints(self.clock)
