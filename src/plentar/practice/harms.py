"""What would have hurt somebody, or a part, on a simulated unit: told by what flows in it, not by what the judge
thinks of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from plentar.stand_ins.wider.clock import Standing
from plentar.stand_ins.wider.world import HiddenUnit

#: Heat without air for longer than this melts something, s, from so many watts on.
ALONE_S, HEATS_W = 10.0, 100.0
#: A compressor that is asked for again sooner than this starts against pressure, s.
REST_S = 300.0
#: Where a clamp shows that current goes to the frame, A, and how much of it.
TO_FRAME_A = 0.5
#: How closely the unit is looked at between its own moves, s.
EVERY_S = 2.0
Act = Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Harm:
    """An unsafe act, by its code, when it was and where; ``value`` says how much: volts, or seconds."""

    t_s: float
    code: str
    at: str = ""
    value: float = 0.0


def heat_watts(unit: HiddenUnit, now: Standing) -> float:
    """What all elements make, W."""
    return float(
        sum(
            abs(now.solved.amp(e["id"])) * now.solved.across(f"{e['id']}.in", f"{e['id']}.out")
            for e in unit.plate["elements"]
        )
    )


def harms_between(unit: HiddenUnit, switches: Sequence[Act], from_s: float, to_s: float) -> list[Harm]:
    """What an act and the time after it did: heat without air, the control fuse blown, a grounded element's breaker
    closed, a compressor started twice."""
    found = [*_frame(unit, switches, from_s), *_twice(switches, from_s)]
    standings = [s for s in unit.clock.through(switches, to_s) if s.t_s >= from_s - EVERY_S]
    alone_s, told = 0.0, False
    for now, after in pairwise([*standings, None]):
        assert now is not None
        until_s = to_s if after is None else min(after.t_s, to_s)
        if not now.air and heat_watts(unit, now) > HEATS_W:
            alone_s += max(0.0, until_s - max(now.t_s, from_s))
        else:
            alone_s = 0.0
        if alone_s > ALONE_S and not told:
            found.append(Harm(from_s, "heat-alone", value=round(alone_s)))
            told = True
    blown = [s.blown for s in standings]
    before = unit.at(switches[:-1], from_s).blown if switches else False
    if any(blown) and not before and _acted(switches, from_s):
        found.append(Harm(from_s, "fuse-blew"))
    return found


def _acted(switches: Sequence[Act], from_s: float) -> bool:
    return bool(switches) and switches[-1]["t"] == from_s


def _frame(unit: HiddenUnit, switches: Sequence[Act], from_s: float) -> list[Harm]:
    """A breaker is closed on an element that touches the frame."""
    if not _acted(switches, from_s) or switches[-1].get("power") != "on":
        return []
    return [Harm(from_s, "frame-live", f.component) for f in unit.specimen.faults if f.mode == "grounded"]


def _twice(switches: Sequence[Act], from_s: float) -> list[Harm]:
    """Cooling is called again before the compressor has rested."""
    if not _acted(switches, from_s):
        return []
    ended_s, asked = None, False
    for act in switches:
        if "calls" not in act:
            continue
        cools = "Y" in act["calls"]
        if cools and not asked and ended_s is not None and act["t"] - ended_s < REST_S and act["t"] == from_s:
            return [Harm(from_s, "compressor-twice", value=round(act["t"] - ended_s))]
        if asked and not cools:
            ended_s = act["t"]
        asked = cools
    return []
