"""Solved networks, each a set of sized faults and a set of closed contacts, read at every probe."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from plentar.core.budget import check_budget
from plentar.core.circuit.faults import Effects, Fault, effects_of
from plentar.core.circuit.network import Real, Solution
from plentar.core.circuit.shown_by_meter import Probe, ProbeTable, V, standing_probes
from plentar.core.circuit.wiring import Branches, Mask, Wiring
from plentar.core.quantity import Quantity
from plentar.core.unit.points import resolve

Corner = tuple[Fault, ...]
#: Rows that are solved together, and those after which what is solved is kept.
_ROWS_AT_ONCE, _KEPT_AT_ONCE = 64, 512
#: About what a network's faults and contacts take beside its readings, B.
KEY_BYTES = 1_500
#: What a solved network of a clock takes, and how the branches conduct under one fault, B.
NETWORK_BYTES, BRANCHES_BYTES = 5_000, 1_000


class Rows:
    """Solved networks read at every probe, each once."""

    def __init__(self, wiring: Wiring) -> None:
        self.wiring = wiring
        self.table = ProbeTable(wiring, standing_probes(wiring.unit))
        self._harms: dict[Corner, Effects] = {}
        self._number: dict[tuple[Corner, frozenset[str]], int] = {}
        self._keys: list[tuple[Corner, frozenset[str]]] = []
        self._branches: dict[Corner, Branches] = {}
        #: What the clocks have solved, by conductances and emf.
        self.networks: dict[bytes, Solution] = {}
        self.values: Real = np.empty((0, len(self.table.probes)))
        self.ghosts: Mask = np.empty((0, len(self.table.probes)), dtype=bool)

    @property
    def held_bytes(self) -> int:
        solved = NETWORK_BYTES * len(self.networks) + BRANCHES_BYTES * len(self._branches)
        return self.values.nbytes + self.ghosts.nbytes + KEY_BYTES * len(self._keys) + solved

    def effects(self, corner: Corner) -> Effects:
        found = self._harms.get(corner)
        if found is None:
            found = self._harms[corner] = effects_of(self.wiring, corner)
        return found

    def number(self, corner: Corner, closed: frozenset[str]) -> int:
        """The row of a network; ``fill`` reads those that are new."""
        key = (corner, closed)
        found = self._number.get(key)
        if found is None:
            found = self._number[key] = len(self._keys)
            self._keys.append(key)
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

    def _fill(self, fresh: Sequence[tuple[Corner, frozenset[str]]]) -> None:
        values = np.empty((len(fresh), len(self.table.probes)))
        ghosts = np.empty(values.shape, dtype=bool)
        by_share: dict[float, list[int]] = {}
        for n, (corner, _) in enumerate(fresh):
            share = self.effects(corner).network.emf_share.get("transformer", 1.0)
            by_share.setdefault(share, []).append(n)
        for members in by_share.values():
            for start in range(0, len(members), _ROWS_AT_ONCE):
                some = members[start : start + _ROWS_AT_ONCE]
                values[some], ghosts[some] = self._read([fresh[n] for n in some])
        self.values = np.concatenate([self.values, values])
        self.ghosts = np.concatenate([self.ghosts, ghosts])

    def _branches_of(self, corner: Corner) -> Branches:
        found = self._branches.get(corner)
        if found is None:
            found = self._branches[corner] = self.wiring.branches(self.effects(corner).network)
        return found

    def _read(self, keys: Sequence[tuple[Corner, frozenset[str]]]) -> tuple[Real, Mask]:
        every_effect = [self.effects(corner) for corner, _ in keys]
        masks = self.wiring.closed_masks([closed for _, closed in keys])
        siemens = np.array(
            [self._branches_of(corner).siemens(mask) for (corner, _), mask in zip(keys, masks, strict=True)]
        )
        emf = np.array([self.wiring.emf(effects.network) for effects in every_effect])
        topology = self.wiring.topology_with(every_effect[0].network)
        return self.table.read(topology, siemens, emf, every_effect)
