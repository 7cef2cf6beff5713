"""Nodes and branches → volts and amps at 60 Hz. Pure numerics; no unit is known here.

A branch has an incidence row ``u`` over the nodes (ground left out), a conductance ``g`` in
siemens and an emf ``e`` in volts: its current is ``i = g (u·v + e)``, counted from the node with
+1 to the node with −1. A transformer is such a branch too, with its turns ratio in the row, so
that what enters its primary leaves its secondary. Kirchhoff then reads ``Uᵀ diag(g) U v = −Uᵀ g e``.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plentar.core.errors import PlentarError

Real = NDArray[np.float64]
Phasors = NDArray[np.complex128]
Index = NDArray[np.intp]


class SingularNetwork(PlentarError):
    """Some nodes have no path to ground at all, so that their volts are anything."""

    def __init__(self, nodes: tuple[str, ...]) -> None:
        super().__init__(f"no path to ground from {', '.join(nodes) or 'some node'}")
        self.nodes = nodes


@dataclass(frozen=True)
class Topology:
    """What never changes while contacts move and parts fail: ``incidence`` is (branches, nodes)."""

    nodes: tuple[str, ...]
    branches: tuple[str, ...]
    incidence: Real

    @cached_property
    def node_index(self) -> dict[str, int]:
        """Column of each node."""
        return {name: at for at, name in enumerate(self.nodes)}

    @cached_property
    def branch_index(self) -> dict[str, int]:
        """Row of each branch."""
        return {name: at for at, name in enumerate(self.branches)}

    @cached_property
    def _stamps(self) -> tuple[Index, Real, Index, Index]:
        """What one siemens of a branch adds to which entries of the nodal matrix, as a list sorted
        by entry: branch and amount of each addition, where each entry's run begins, and the entry.
        Few branches meet in an entry, so that adding runs is far less work than a product."""
        u = self.incidence
        branch, row, column = np.nonzero(u[:, :, None] * u[:, None, :])
        amount = u[branch, row] * u[branch, column]
        entry = row * len(self.nodes) + column
        order = np.argsort(entry, kind="stable")
        entries, starts = np.unique(entry[order], return_index=True)
        return branch[order], amount[order], starts, entries

    def nodal(self, siemens: Real) -> Real:
        """The nodal matrices, (…, nodes, nodes), of conductances (…, branches)."""
        n = len(self.nodes)
        branch, amount, starts, entries = self._stamps
        found: Real = np.zeros((*siemens.shape[:-1], n * n))
        found[..., entries] = np.add.reduceat(siemens[..., branch] * amount, starts, axis=-1)
        return found.reshape(*siemens.shape[:-1], n, n)


@dataclass(frozen=True, slots=True)
class Solution:
    """Node volts to ground (…, nodes) and branch amps (…, branches), as phasors."""

    topology: Topology
    siemens: Real
    emf: Phasors
    volts: Phasors
    amps: Phasors

    def volt(self, node: str) -> complex:
        return 0j if node == "ground" else complex(self.volts[self.topology.node_index[node]])

    def amp(self, branch: str) -> complex:
        return complex(self.amps[self.topology.branch_index[branch]])


def solve(topology: Topology, siemens: Real, emf: Phasors) -> Solution:
    """Solve one network, or a batch along the leading axes.

    Raises SingularNetwork, with the nodes at fault, instead of numpy's error.
    """
    matrix = topology.nodal(siemens)
    drive = -(siemens * emf) @ topology.incidence
    # Conductances are real: real and imaginary parts are two right-hand sides of one matrix.
    both = np.stack([drive.real, drive.imag], axis=-1)
    try:
        found = np.linalg.solve(matrix, both)
    except np.linalg.LinAlgError:
        raise SingularNetwork(_islands(topology, siemens)) from None
    volts = found[..., 0] + 1j * found[..., 1]
    amps = siemens * (volts @ topology.incidence.T + emf)
    return Solution(topology, siemens, emf, volts, amps)


def thevenin_ohms(topology: Topology, siemens: Real, pairs: Real) -> Real:
    """The resistance between two nodes of one network, for each row (pairs, nodes) of ±1, Ω."""
    impedance = np.linalg.inv(topology.nodal(siemens))
    found: Real = np.einsum("pi,pi->p", pairs @ impedance, pairs)
    return found


def _islands(topology: Topology, siemens: Real) -> tuple[str, ...]:
    """Nodes that no conductance joins to ground, in the first singular network of a batch."""
    flat: NDArray[Any] = siemens.reshape(-1, siemens.shape[-1])
    for row in flat:
        grounded = np.zeros(len(topology.nodes), dtype=bool)
        live = topology.incidence[row > 0] != 0
        to_ground = np.abs(topology.incidence[row > 0].sum(axis=1)) > 1e-9
        for _ in topology.nodes:
            touched = to_ground | (live & grounded).any(axis=1)
            grounded |= live[touched].any(axis=0)
        if not grounded.all():
            return tuple(name for name, ok in zip(topology.nodes, grounded, strict=True) if not ok)
    return ()
