"""Sound units of the wider world, read at every point in every ordinary state: what is found wrong with them is
a false alarm. Every second one is judged as nobody had read its prints."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace

from plentar.core.door import judge
from plentar.core.judge.diagnosis import diagnose
from plentar.core.judgement import Level, Sureness
from plentar.core.quantity import Quantity
from plentar.core.unit.points import points, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event, Power, Reading, Visit
from plentar.core.visit.state import all_off_s, all_on_s
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.stand_ins.hidden import Hidden, drawn_unit
from plentar.stand_ins.wider.plates import PLATES, plate
from plentar.stand_ins.wider.world import HiddenUnit

UNITS, MOST_REPAIRS, MOST_CONTRADICTIONS = 200, 2, 5
LIVE = frozenset({Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC})


def read_everywhere(number: int, seed: str) -> Visit:
    """A sound unit of the wider world, read at every point in every ordinary state, then proved dead."""
    unit = drawn_unit(number)
    sound = Hidden(unit, HiddenUnit(plate(number), [], seed))
    fan = frozenset({unit.fan_call}) if unit.fan_call else frozenset[str]()
    poles = [f"{c.id}.line.{leg}:{c.id}.{leg}" for c in unit.circuits for leg in ("l1", "l2")]
    legs = [f"{c.id}.{leg}:ground" for c in unit.circuits for leg in ("l1", "l2")]
    everywhere = [*points(unit), *(resolve(unit, name) for name in (*poles, *legs))]
    events: list[Event] = []
    t_s = 10.0

    def read(quantities: frozenset[Quantity]) -> None:
        nonlocal t_s
        for point in everywhere:
            for quantity in quantities.intersection(point.quantities):
                value = sound.read(quantity, point.name, events, t_s)
                if math.isfinite(value) or quantity is Quantity.OHMS:
                    events.append(Reading(t_s=t_s, quantity=quantity, at=point.name, value=value))
                    t_s += 6

    read(LIVE)
    for calls, waits_s in (
        (unit.heat_calls | fan, all_on_s(unit) + 320),
        (unit.heat_calls, all_on_s(unit) + 320),
        (fan, all_off_s(unit) + 70),
        (frozenset[str](), 140.0),
    ):
        events.append(Calls(t_s=t_s, calls=calls))
        t_s += waits_s
        read(LIVE | {Quantity.TEMP_F} if calls & unit.heat_calls else LIVE)
    events.append(Power(t_s=t_s, state="proved-dead"))
    t_s += 300
    read(frozenset({Quantity.OHMS, Quantity.UF}))
    return Visit(complaint="check-up", events=tuple(events))


def nobody_read(unit: Unit) -> Unit:
    """The same unit before anybody has looked at a print: windows, coils and the tie's tap are typical."""
    plate = unit_to_json(unit)
    parts = [switch for control in plate["controls"] for switch in control["switches"]]
    blower = plate.get("blower") or {}
    for part in (*parts, blower.get("relay") or {}):
        part.pop("on_s", None)
        part.pop("off_s", None)
    for device in (*plate["controls"], blower.get("relay") or {"coil": {}}):
        device["coil"].pop("ohms", None)
        device["coil"].pop("va", None)
    (blower.get("interlock") or {}).pop("tap", None)
    return UnitJson.model_validate(plate).to_core()


@dataclass(frozen=True, slots=True)
class FalseAlarms:
    """What was found of one sound unit that its plate alone does not say."""

    number: int
    stops: tuple[str, ...]
    repairs: tuple[str, ...]
    contradicts: bool
    accused: tuple[str, ...]


def alarms_of(number: int) -> FalseAlarms:
    drawn = number % PLATES
    unit, visit = drawn_unit(drawn), read_everywhere(drawn, f"everywhere {number}")
    if number % 2:
        unit = nobody_read(unit)
        visit = replace(visit, events=tuple(e for e in visit.events if getattr(e, "at", "") != "tie.wire"))
    of_plate = {(f.code, f.component) for f in judge(unit, Visit()).findings}
    judgement = judge(unit, visit)
    found = [f for f in judgement.findings if (f.code, f.component) not in of_plate]
    said = diagnose(judgement.evidence)
    decided = said.state in (Sureness.LIKELY, Sureness.CLEAR)
    return FalseAlarms(
        number,
        tuple(str(f.text) for f in found if f.level is Level.STOP_NOW),
        tuple(str(f.text) for f in found if f.level is Level.REPAIR),
        bool(said.contradictions),
        said.parts if decided else (),
    )


def measure() -> Iterator[str]:
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(alarms_of, range(UNITS), chunksize=4))
    yield (
        f"{UNITS} sound units read everywhere, half of them with nothing printed:"
        f" stops in {sum(bool(f.stops) for f in found)} (0), parts likely or clear in"
        f" {sum(bool(f.accused) for f in found)} (0), repairs in {sum(bool(f.repairs) for f in found)} (at most"
        f" {MOST_REPAIRS}), contradictions in {sum(f.contradicts for f in found)} (at most {MOST_CONTRADICTIONS})"
    )
    for text, count in Counter(t for f in found for t in (*f.stops, *f.repairs, *f.accused)).most_common():
        yield f"  {count} × {text}"
