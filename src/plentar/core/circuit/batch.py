"""Many faults in many states of one unit, solved in one pass."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np

from plentar.core.circuit.faults import Harm
from plentar.core.circuit.network import Phasors, Real, Solution, solve
from plentar.core.circuit.wiring import Wiring


def solve_many(wiring: Wiring, states: Sequence[Collection[str]], harms: Sequence[Harm]) -> Solution:
    """Every harm in every state of closed contacts: arrays are (harms, states, …).

    A weak transformer changes the topology, not a conductance; those harms are solved in a pass
    of their own and put in their places.
    """
    siemens: Real = np.empty((len(harms), len(states), len(wiring.ohms)))
    emf: Phasors = np.empty((len(harms), 1, len(wiring.ohms)), dtype=complex)
    closed = wiring.closed_masks(states)
    for row, harm in enumerate(harms):
        emf[row, 0] = wiring.emf(harm.effects)
        siemens[row] = wiring.siemens_of(closed, harm.effects)
    found = solve(wiring.topology, siemens, emf)
    for row, harm in enumerate(harms):
        topology = wiring.topology_with(harm.effects)
        if topology is not wiring.topology:
            again = solve(topology, siemens[row], emf[row])
            found.volts[row], found.amps[row] = again.volts, again.amps
    return found
