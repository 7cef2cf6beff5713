"""What a caller may say of a unit: found by running it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from plentar.stand_ins.wider.clock import Clock, Event, Standing
from plentar.stand_ins.wider.specimen import THERMAL, calls_of

HEAT_S = 900.0


def complaints(clock: Clock) -> frozenset[str]:
    return frozenset(_found(clock))


def _found(clock: Clock) -> Iterator[str]:
    plate = clock.plate
    used = calls_of(plate)
    heat = [call for call in used if call.startswith("W")]
    heated = _after(clock, [{"t": 0, "calls": heat}], HEAT_S)
    events: list[Event] = [{"t": 0, "calls": heat}, {"t": HEAT_S, "calls": []}]
    off_s = latest(clock, "off_s")
    ended = _after(clock, events, HEAT_S + 2 * off_s)
    runs = [heated, ended]
    if clock.specimen.has("transformer", "dead") or heated[0].solved.across("R", "C") < 5:
        yield "no-power"
    yield from _heat(clock, heated)
    last = ended[-1]
    if _watts(clock, last) > 20 or any(_watts(clock, s) > 20 for s in ended if s.t_s > HEAT_S + off_s):
        yield "heat-will-not-stop"
    if plate.get("blower"):
        if not heated[-1].air:
            yield "blower-will-not-run"
        if last.air:
            yield "blower-will-not-stop"
    for calls in ([["G"]] if "G" in used else []) + ([["G", "Y"]] if {"G", "Y"} <= set(used) else []):
        ran = _after(clock, [{"t": 0, "calls": calls}], 200.0)
        runs.append(ran)
        if not ran[-1].air and "Y" not in calls:
            yield "blower-will-not-run"
        if _watts(clock, ran[-1]) > 20:
            yield "heat-in-cooling"
    if any(s.blown for run in runs for s in run):
        yield "control-fuse-blows"


def _heat(clock: Clock, heated: Sequence[Standing]) -> Iterator[str]:
    plate, last = clock.plate, heated[-1]
    due = sum(
        last.solved.across(f"{e['circuit']}.l1", f"{e['circuit']}.l2") ** 2
        / (e["rated_volts"] ** 2 / (1000 * e["rated_kw"]))
        for e in plate["elements"]
    )
    rated = sum(1000 * e["rated_kw"] for e in plate["elements"])
    watts = _watts(clock, last)
    if watts < 0.05 * rated:
        yield "no-heat"
    first = next((s.t_s for s in heated if s.t_s >= 0 and _watts(clock, s) > 0.05 * rated), None)
    on_s = latest(clock, "on_s")
    full = next((s.t_s for s in heated if s.t_s >= 0 and _watts(clock, s) > 0.85 * due), HEAT_S)
    if watts < 0.9 * due or full > on_s:
        yield "not-enough-heat"
    if first is not None and first > on_s:
        yield "slow-to-start"
    if any(s.cycling or s.chatters for s in heated):
        yield "clicking"
    for circuit in plate["circuits"]:
        name = circuit["id"]
        amps = abs(last.solved.amp(f"{name}.feed.l1"))
        loose = clock.specimen.has(name, "loose")
        if amps > (circuit.get("breaker_amps") or 1e9) or (loose and amps**2 * loose.size > 5):
            yield "breaker-trips-or-burnt"
    for fault in clock.specimen.faults:
        if fault.mode == "burnt" and abs(last.solved.amp(fault.component)) ** 2 * fault.size > 5:
            yield "breaker-trips-or-burnt"


def _after(clock: Clock, events: Sequence[Event], until_s: float) -> list[Standing]:
    return list(clock.through(events, until_s))


def _watts(clock: Clock, now: Standing) -> float:
    return sum(
        abs(now.solved.amp(e["id"])) * now.solved.across(f"{e['id']}.in", f"{e['id']}.out")
        for e in clock.plate["elements"]
    )


def latest(clock: Clock, window: str) -> float:
    """When the last switch has moved, one device after the other where they are chained."""
    total = longest = 0.0
    for control in clock.plate["controls"]:
        usual = [1, 110] if control["type"] in THERMAL else [0, 1]
        own = max((s.get(window, usual)[1] for s in control["switches"]), default=1)
        longest = max(longest, own)
        total += own if isinstance(control["call"], dict) else 0.0
    relay = (clock.plate.get("blower") or {}).get("relay") or {}
    late = [45, 120] if relay.get("type") == "time-delay" and window == "off_s" else [0, 3]
    return float(max(longest + total, relay.get(window, late)[1]) + 5)
