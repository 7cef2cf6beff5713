"""What the transformer has to give: each coil by its call, against its rating and its fuse, VA."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.unit.unit import Unit
from plentar.core.visit.state import first_call


@dataclass(frozen=True, slots=True)
class ControlBudget:
    """``loads`` are coil, call and VA; ``fuse_va`` is what the fuse lets pass, None without one."""

    loads: tuple[tuple[str, str, float], ...]
    rated_va: float
    fuse_va: float | None

    @property
    def total_va(self) -> float:
        """Everything called at once."""
        return sum(va for _, _, va in self.loads)


def control_budget(unit: Unit) -> ControlBudget:
    power = unit.control_power
    loads = [(c.id, first_call(unit, c), c.coil_va) for c in unit.controls]
    if unit.relay is not None:
        loads.append((unit.relay.id, unit.relay.call, unit.relay.coil_va))
    loads += [(load.id, load.call, load.va) for load in unit.other_loads]
    fuse_va = power.fuse_amps * power.volts if power.fuse_amps else None
    return ControlBudget(tuple(sorted(loads, key=lambda one: one[1])), power.va, fuse_va)
