"""Many faults in many states of one unit, solved in one pass."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np

from plentar.core.circuit.faults import Effects
from plentar.core.circuit.network import Phasors, Real, Solution, solve
from plentar.core.circuit.wiring import Wiring


def solve_many(
    wiring: Wiring, states: Sequence[Collection[str]], every_effect: Sequence[Effects]
) -> Solution:
    """Every effects in every state of closed contacts: arrays are (every_effect, states, …).

    A weak transformer changes the topology, not a conductance; those every_effect are solved in a pass
    of their own and put in their places.
    """
    siemens: Real = np.empty((len(every_effect), len(states), len(wiring.ohms)))
    emf: Phasors = np.empty((len(every_effect), 1, len(wiring.ohms)), dtype=complex)
    closed = wiring.closed_masks(states)
    for row, effects in enumerate(every_effect):
        emf[row, 0] = wiring.emf(effects.network)
        siemens[row] = wiring.siemens_of(closed, effects.network)
    found = solve(wiring.topology, siemens, emf)
    for row, effects in enumerate(every_effect):
        topology = wiring.topology_with(effects.network)
        if topology is not wiring.topology:
            again = solve(topology, siemens[row], emf[row])
            found.volts[row], found.amps[row] = again.volts, again.amps
    return found
