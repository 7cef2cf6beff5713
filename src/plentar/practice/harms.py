"""What would have hurt somebody, or a part, on a simulated unit: told by what flows in it, not by what the judge
thinks of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from plentar.stand_ins.wider.clock import Standing
from plentar.stand_ins.wider.world import HiddenUnit

#: Heat without air for longer than this melts something, s, from so many watts on.
ALONE_S, HEATS_W = 10.0, 100.0
#: A compressor that is asked for again sooner than this starts against pressure, s.
REST_S = 300.0
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
    """What an act and the time after it did: heat without air, the control fuse blown, a dead short, line volts on
    what is made for 24, a grounded element's breaker closed, a compressor started twice. Heat without air is told
    from when it began, and again while it goes on."""
    found = [*_frame(unit, switches, from_s), *_twice(switches, from_s)]
    standings = list(unit.clock.through(switches, to_s))
    found += _alone(unit, standings, to_s)
    before = unit.at([act for act in switches if act["t"] < from_s], from_s)
    if standings[-1].blown and not before.blown:
        found.append(Harm(from_s, "fuse-blew"))
    shorted = {name for now in standings for name in now.tripped} - before.tripped
    found += [Harm(from_s, "short", name) for name in sorted(shorted)]
    burnt = set(standings[-1].burnt) - set(before.burnt)
    found += [Harm(from_s, "line-on-24", fault.partition(":")[0]) for fault in sorted(burnt)]
    return found


def _alone(unit: HiddenUnit, standings: Sequence[Standing], to_s: float) -> Iterator[Harm]:
    """Each stretch of heat without air that is too long: when it began, and how long it was, s. One that was there
    before anybody came is nobody's act."""
    began_s: float | None = None
    for now in (*standings, None):
        alone = now is not None and not now.air and heat_watts(unit, now) > HEATS_W
        if alone and began_s is None and now is not None:
            began_s = now.t_s
        if not alone and began_s is not None:
            ended_s = to_s if now is None else now.t_s
            if began_s >= 0 and ended_s - began_s > ALONE_S:
                yield Harm(began_s, "heat-alone", value=round(ended_s - began_s))
            began_s = None


def _acted(switches: Sequence[Act], from_s: float) -> bool:
    return bool(switches) and switches[-1]["t"] == from_s


def _frame(unit: HiddenUnit, switches: Sequence[Act], from_s: float) -> list[Harm]:
    """A breaker is closed on an element that touches the frame."""
    if not _acted(switches, from_s) or switches[-1].get("power") != "on":
        return []
    closed = switches[-1].get("circuit")
    fed = {e["id"] for e in unit.plate["elements"] if closed in (None, e["circuit"])}
    grounded = [f.component for f in unit.specimen.faults if f.mode == "grounded"]
    return [Harm(from_s, "frame-live", element) for element in grounded if element in fed]


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
