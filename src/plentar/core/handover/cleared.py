"""What a repair has cleared: found before it, gone since, and shown to be gone by a reading or not."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from plentar.core.guided.retest_line import Line
from plentar.core.judgement import Finding
from plentar.core.unit.unit import Unit


@dataclass(frozen=True, slots=True)
class Cleared:
    """A finding of before the repair that stands no more; ``proved`` where the retest has shown it."""

    finding: Finding
    proved: bool


def cleared_of(
    unit: Unit, before: Iterable[Finding], now: Iterable[Finding], retest: Sequence[Line]
) -> tuple[Cleared, ...]:
    """Those of ``before`` that are not among ``now``, each once. A line of the retest shows it whose reading
    is at the part, or at a strip of its rung."""
    standing = {(f.code, f.component) for f in now}
    gone = {(f.code, f.component): f for f in before if (f.code, f.component) not in standing}
    passed = {line.step.at.partition(":")[0].partition(".line")[0] for line in retest if line.state == "pass"}
    return tuple(Cleared(f, bool(_shown_at(unit, f.component) & passed)) for f in gone.values())


def _shown_at(unit: Unit, part: str) -> set[str]:
    """Where a reading tells of a part."""
    owner = part.partition(".")[0]
    strips = {e.id for e in unit.elements_through(part)} | {
        e.id for e in unit.elements for s in unit.rung_switches(e) if unit.control_of_switch[s.id].id == part
    }
    shown = {part, owner, *strips}
    if owner in ("airflow", "blower", "capacitor") or (unit.relay and owner == unit.relay.id):
        shown |= {"blower", "supply-air"}
    if owner in ("R", "transformer", "control-fuse", *unit.calls):
        shown |= {"R"}
    return shown
