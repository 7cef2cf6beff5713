"""Solved networks, each a set of sized faults and a set of closed contacts, read at every probe."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from plentar.core.budget import check_budget
from plentar.core.circuit.faults import Effects, Fault, effects_of
from plentar.core.circuit.network import Real
from plentar.core.circuit.shown_by_meter import Probe, ProbeTable, V, standing_probes
from plentar.core.circuit.solved import Driven, Networks
from plentar.core.circuit.wiring import Mask, Wiring
from plentar.core.quantity import Quantity
from plentar.core.unit.points import resolve

Corner = tuple[Fault, ...]
#: Rows that are solved together, and those after which what is solved is kept.
_ROWS_AT_ONCE, _KEPT_AT_ONCE = 64, 512
#: About what a network's faults and contacts take beside its readings, B.
KEY_BYTES = 1_500
#: How the branches conduct and are driven under one set of faults, B.
DRIVEN_BYTES = 2_000


@dataclass(frozen=True, slots=True, eq=False)
class Sized:
    """Sized faults, what they do, how the unit is driven with them, and the rows of their networks by
    what is closed."""

    effects: Effects
    driven: Driven
    numbers: dict[frozenset[str], int] = field(default_factory=dict)


class Rows:
    """Solved networks read at every probe, each once."""

    def __init__(self, wiring: Wiring) -> None:
        self.wiring = wiring
        self.table = ProbeTable(wiring, standing_probes(wiring.unit))
        self._sized: dict[Corner, Sized] = {}
        self._keys: list[tuple[Sized, frozenset[str]]] = []
        #: What the clocks have solved.
        self.networks = Networks(wiring)
        self.values: Real = np.empty((0, len(self.table.probes)))
        self.ghosts: Mask = np.empty((0, len(self.table.probes)), dtype=bool)

    @property
    def held_bytes(self) -> int:
        solved = self.networks.held_bytes + DRIVEN_BYTES * len(self._sized)
        return self.values.nbytes + self.ghosts.nbytes + KEY_BYTES * len(self._keys) + solved

    def sized(self, corner: Corner) -> Sized:
        found = self._sized.get(corner)
        if found is None:
            effects = effects_of(self.wiring, corner)
            found = self._sized[corner] = Sized(effects, self.networks.driven(effects))
        return found

    def effects(self, corner: Corner) -> Effects:
        return self.sized(corner).effects

    def number(self, sized: Sized, closed: frozenset[str]) -> int:
        """The row of a network; ``fill`` reads those that are new."""
        found = sized.numbers.get(closed)
        if found is None:
            found = sized.numbers[closed] = len(self._keys)
            self._keys.append((sized, closed))
        return found

    def closed(self, number: int) -> frozenset[str]:
        return self._keys[number][1]

    def probe(self, quantity: Quantity, at: str) -> int | None:
        """The column of a probe; a pair of nodes not asked for before is added."""
        found = self.table.index.get((quantity, at))
        if found is None and quantity is V and ":" in at:
            more = [*self.table.probes, Probe(V, resolve(self.wiring.unit, at))]
            self.table = ProbeTable(self.wiring, more)
            self.values = np.empty((0, len(more)))
            self.ghosts = np.empty((0, len(more)), dtype=bool)
            self.fill()
            found = self.table.index[quantity, at]
        return found

    def fill(self) -> None:
        """Read every network that was asked for and is not read yet."""
        while len(self.values) < len(self._keys):
            check_budget()
            done = len(self.values)
            self._fill(self._keys[done : done + _KEPT_AT_ONCE])

    def _fill(self, fresh: Sequence[tuple[Sized, frozenset[str]]]) -> None:
        values = np.empty((len(fresh), len(self.table.probes)))
        ghosts = np.empty(values.shape, dtype=bool)
        by_share: dict[float, list[int]] = {}
        for n, (sized, _) in enumerate(fresh):
            share = sized.effects.network.emf_share.get("transformer", 1.0)
            by_share.setdefault(share, []).append(n)
        for members in by_share.values():
            for start in range(0, len(members), _ROWS_AT_ONCE):
                some = members[start : start + _ROWS_AT_ONCE]
                values[some], ghosts[some] = self._read([fresh[n] for n in some])
        self.values = np.concatenate([self.values, values])
        self.ghosts = np.concatenate([self.ghosts, ghosts])

    def _read(self, keys: Sequence[tuple[Sized, frozenset[str]]]) -> tuple[Real, Mask]:
        masks = self.wiring.closed_masks([closed for _, closed in keys])
        every = [sized.driven for sized, _ in keys]
        siemens = np.array([one.branches.siemens(mask) for one, mask in zip(every, masks, strict=True)])
        emf = np.array([one.emf for one in every])
        return self.table.read(every[0].topology, siemens, emf, [sized.effects for sized, _ in keys])
