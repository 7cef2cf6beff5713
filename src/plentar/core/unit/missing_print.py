"""What nobody has read off a unit and would decide most now: asked for when it begins to matter."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from plentar.core.unit.unit import Unit

TAP, WINDOW, FULL_LOAD, LEAST_AIR = "tap", "window", "full-load", "least-air"
#: Suspected less than this, a part's print does not matter yet.
MATTERS_FROM = 0.1


@dataclass(frozen=True, slots=True)
class MissingPrint:
    """One thing to read: what, and the part whose plate takes it."""

    what: str
    part: str


def missing_print(unit: Unit, suspects: Mapping[str, float]) -> MissingPrint | None:
    """The first that matters by what is suspected, fault ids (pairs as ``A+B``) by their probability."""
    return next(_missing(unit, suspects), None)


def _missing(unit: Unit, suspects: Mapping[str, float]) -> Iterator[MissingPrint]:
    faults = [
        single.rsplit(":", 1)
        for fault, share in suspects.items()
        for single in fault.split("+")
        if share >= MATTERS_FROM and ":" in single
    ]
    parts = {part for part, _ in faults}
    blower, relay = unit.blower, unit.relay
    ties = {"blower", "tie.wire", "airflow", *([relay.id] if relay else [])}
    if len(unit.possible_taps) > 1 and relay is not None and parts & ties:
        yield MissingPrint(TAP, f"{relay.id}.nc")
    for part, mode in faults:
        control = unit.control_of_switch.get(part) or unit.control_by_id.get(part)
        timed = mode in ("slow", "stuck-open", "stuck-closed")
        if control is not None and control.kind.thermal and timed:
            typical = (s.id for s in control.switches if s.typical and part in (s.id, control.id))
            yield from (MissingPrint(WINDOW, switch) for switch in typical)
    if blower is None:
        return
    if blower.fla is None and parts & {"blower", *([relay.id] if relay else [])}:
        yield MissingPrint(FULL_LOAD, "blower")
    limits = {limit.id for limit in unit.limits}
    if blower.min_cfm is None and ("airflow" in parts or parts & limits):
        yield MissingPrint(LEAST_AIR, "blower")
