"""The run capacitor by what was read of it: dead, or worked out under load."""

from __future__ import annotations

from plentar.core.quantity import Quantity
from plentar.core.said import Said, say
from plentar.core.tables import thresholds as th
from plentar.core.visit.draws import same_setting
from plentar.core.visit.evidence import Evidence

A, V, UF = Quantity.AMPS, Quantity.VOLTS, Quantity.UF
CAPACITOR = "capacitor"


def microfarads(evidence: Evidence) -> tuple[float, float, Said] | None:
    """The newest microfarads of the capacitor: the value, when, and how it was come by."""
    dead = evidence.latest(CAPACITOR, UF)
    found = [(dead.reading.value, dead.reading.t_s, say("air.capacitor.proved-dead"))] if dead else []
    amps = evidence.latest(CAPACITOR, A)
    if amps is not None:
        beside = [
            t
            for t in evidence.at(CAPACITOR, V)
            if same_setting(t.state, amps.state)
            and abs(t.reading.t_s - amps.reading.t_s) <= th.LOAD_PAIR_S
            and t.reading.value > 0
        ]
        if beside:
            volts = beside[-1].reading.value
            uf = th.UF_PER_AMP_VOLT * amps.reading.value / volts
            found.append((uf, max(amps.reading.t_s, beside[-1].reading.t_s), say("air.capacitor.under-load")))
    return max(found, key=lambda one: one[1], default=None)
