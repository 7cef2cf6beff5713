"""The networks that clocks have solved, each once, and what in each moves things."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from plentar.core.circuit.faults import Effects
from plentar.core.circuit.movers import movers
from plentar.core.circuit.network import Index, Phasors, Real, Solution, Topology, solve
from plentar.core.circuit.wiring import Branches, Wiring
from plentar.core.tables.model import BOARD_SEES_V, HEATING_AMPS_SHARE, RUNNING_SHARE
from plentar.core.unit.parts import CALLS

#: What a solved network takes, B, and how many are solved together.
NETWORK_BYTES, AT_ONCE = 2_500, 64


@dataclass(frozen=True, slots=True)
class Driven:
    """How a unit with some faults conducts and is driven, whatever is closed; ``key`` tells its drive."""

    topology: Topology
    branches: Branches
    emf: Phasors
    key: bytes


@dataclass(frozen=True, slots=True)
class Felt:
    """A solved network: volts across each coil, V; the terminals on which a board sees a call; the
    elements that heat; whether the blower's volts turn it; amps through the control fuse, A."""

    solution: Solution
    coil_volts: Mapping[str, float]
    seen: frozenset[str]
    heating: frozenset[str]
    blower_runs: bool
    fuse_amps: float


class Networks:
    """Those of one wiring, by conductances and drive."""

    def __init__(self, wiring: Wiring) -> None:
        self.wiring, self._found = wiring, dict[bytes, Felt]()
        unit, node, branch = wiring.unit, wiring.topology.node_index, wiring.topology.branch_index
        self._common = node["C"]
        self._devices = [device.id for device in movers(unit)]
        self._coils = [node[f"{device}.coil.in"] for device in self._devices]
        self._calls = [call for call in CALLS if call in node]
        self._terminals = [node[call] for call in self._calls]
        self._elements = [element.id for element in unit.elements]
        self._strips: Index = np.array([branch[e] for e in self._elements], dtype=np.intp)
        self._rests: Index = np.array([branch[f"{e}.rest"] for e in self._elements], dtype=np.intp)
        self._heats_from = [HEATING_AMPS_SHARE * e.rating.amps(e.rated_volts) for e in unit.elements]
        self._fuse = branch["control-fuse"]

    @property
    def held_bytes(self) -> int:
        return NETWORK_BYTES * len(self._found)

    def driven(self, effects: Effects) -> Driven:
        """Under these effects; a weak transformer has another topology of the same shape."""
        emf = self.wiring.emf(effects.network)
        key = emf.tobytes() + str(effects.network.emf_share.get("transformer")).encode()
        return Driven(
            self.wiring.topology_with(effects.network), self.wiring.branches(effects.network), emf, key
        )

    def of(self, driven: Driven, closed: Collection[str]) -> Felt:
        """The network with these contacts closed."""
        siemens = driven.branches.siemens(self.wiring.closed_masks([closed])[0])
        key = siemens.tobytes() + driven.key
        if key not in self._found:
            self._solve(driven.topology, {key: (siemens, driven.emf)})
        return self._found[key]

    def ahead(self, every: Iterable[Driven], states: Sequence[Collection[str]]) -> None:
        """Solve together what clocks under these effects will likely ask for, one by one, else."""
        closed = self.wiring.closed_masks(states)
        wanted: dict[int, tuple[Topology, dict[bytes, tuple[Real, Phasors]]]] = {}
        for driven in every:
            _, rows = wanted.setdefault(id(driven.topology), (driven.topology, {}))
            for siemens in driven.branches.siemens(closed):
                key = siemens.tobytes() + driven.key
                if key not in self._found:
                    rows[key] = siemens, driven.emf
        for topology, rows in wanted.values():
            keys = list(rows)
            for start in range(0, len(keys), AT_ONCE):
                self._solve(topology, {key: rows[key] for key in keys[start : start + AT_ONCE]})

    def _solve(self, topology: Topology, rows: Mapping[bytes, tuple[Real, Phasors]]) -> None:
        siemens = np.array([row for row, _ in rows.values()])
        emf = np.array([emf for _, emf in rows.values()])
        found = solve(topology, siemens, emf)
        coils = np.abs(found.volts[:, self._coils] - found.volts[:, [self._common]]).tolist()
        seen = np.abs(found.volts[:, self._terminals] - found.volts[:, [self._common]]) > BOARD_SEES_V
        amps = np.abs(found.amps)
        heating = np.maximum(amps[:, self._strips], amps[:, self._rests]) > self._heats_from
        fuse = amps[:, self._fuse]
        runs = self._blower_runs(found)
        for n, (key, (row, driven)) in enumerate(rows.items()):
            self._found[key] = Felt(
                Solution(topology, row, driven, found.volts[n], found.amps[n]),
                dict(zip(self._devices, coils[n], strict=True)),
                frozenset(call for call, sees in zip(self._calls, seen[n], strict=True) if sees),
                frozenset(e for e, heats in zip(self._elements, heating[n], strict=True) if heats),
                bool(runs[n]),
                float(fuse[n]),
            )

    def _blower_runs(self, found: Solution) -> Sequence[bool]:
        blower, node = self.wiring.unit.blower, found.topology.node_index
        if blower is None:
            return [True] * len(found.volts)  # not on this plate: nothing is claimed of its air
        volts = np.abs(found.volts[:, node["blower.in"]] - found.volts[:, node["blower.out"]])
        runs: list[bool] = (
            volts >= RUNNING_SHARE * self.wiring.unit.circuit_by_id[blower.circuit].rated_volts
        ).tolist()
        return runs
