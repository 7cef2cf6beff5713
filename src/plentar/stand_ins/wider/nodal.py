"""Nodal analysis at 60 Hz: admittances, sources behind ohms, and a transformer."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

GROUND = "ground"
#: What ties every node to the frame a little, siemens, so that what floats has an answer.
LEAK_S = 1e-10


@dataclass(frozen=True, slots=True)
class _Branch:
    """Current ``(w · v + emf) / ohms`` along the weights ``w``: +1 where it leaves, -1 where it
    arrives, and the turns' ratio at a transformer's other side."""

    weights: tuple[tuple[str, float], ...]
    ohms: complex
    emf: complex


@dataclass
class Net:
    branches: dict[str, _Branch] = field(default_factory=dict)

    def join(self, name: str, a: str, b: str, ohms: complex, emf: complex = 0.0) -> None:
        """Ohms from ``a`` to ``b``; an emf in it raises ``b`` above ``a``."""
        self.branches[name] = _Branch(((a, 1.0), (b, -1.0)), ohms, emf)

    def transformer(
        self, name: str, hot: str, common: str, primary: tuple[str, str], ratio: float, ohms: complex
    ) -> None:
        """Secondary from ``common`` to ``hot`` behind its ohms, the primary reflecting its load."""
        weights = ((common, 1.0), (hot, -1.0), (primary[0], ratio), (primary[1], -ratio))
        self.branches[name] = _Branch(weights, ohms, 0.0)

    def solve(self) -> Solved:
        """Volts and amps everywhere."""
        index: dict[str, int] = {}
        for branch in self.branches.values():
            for node, _ in branch.weights:
                if node != GROUND:
                    index.setdefault(node, len(index))
        count = len(index)
        admittance = np.eye(count, dtype=complex) * LEAK_S
        drive = np.zeros(count, dtype=complex)
        for branch in self.branches.values():
            known = [(index[node], w) for node, w in branch.weights if node != GROUND]
            for row, w in known:
                drive[row] -= w * branch.emf / branch.ohms
                for column, x in known:
                    admittance[row, column] += w * x / branch.ohms
        inverse = np.linalg.inv(admittance)
        return Solved(self, index, inverse @ drive, inverse)


@dataclass(frozen=True)
class Solved:
    net: Net
    index: dict[str, int]
    volts: np.ndarray
    inverse: np.ndarray

    def volt(self, node: str) -> complex:
        """Of a node to ground, V; 0 for what hangs on nothing at all."""
        at = self.index.get(node)
        return complex(self.volts[at]) if at is not None else 0j

    def across(self, a: str, b: str) -> float:
        """Between two nodes, V."""
        return abs(self.volt(a) - self.volt(b))

    def amp(self, name: str) -> complex:
        """Through a branch, A; 0 for one that is open."""
        branch = self.net.branches.get(name)
        if branch is None:
            return 0j
        drop = sum(w * self.volt(node) for node, w in branch.weights if node != GROUND)
        return complex((drop + branch.emf) / branch.ohms)

    def floats(self, a: str, b: str, from_ohms: float = 1e6) -> bool:
        """What a voltmeter there looks into is nothing but leakage."""
        one, two = self.index.get(a), self.index.get(b)
        if (one is None and a != GROUND) or (two is None and b != GROUND):
            return True
        z = self.inverse
        source = 0j
        if one is not None:
            source += z[one, one]
        if two is not None:
            source += z[two, two]
        if one is not None and two is not None:
            source -= z[one, two] + z[two, one]
        return bool(abs(source) > from_ohms)
