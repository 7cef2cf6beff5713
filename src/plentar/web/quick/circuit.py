"""One circuit: kilowatts, blower and run in; minimum, breaker and wire of each metal out."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator

from plentar.core.supply.conductors import dropped_volts
from plentar.core.supply.sizing import circuit_of
from plentar.core.tables import thresholds
from plentar.core.unit.parts import Conductor
from plentar.web.entry import Number
from plentar.web.quick.numbers import MayLack, Numbers, within
from plentar.words.numbers import show

CIRCUIT_AT_FIRST = {"kw": "10", "volts": "240", "blower": "3.4", "ambient": "30"}


class CircuitEntry(BaseModel):
    kw: Annotated[Number, within(0.1, 60)]
    volts: Annotated[Number, within(100, 300)]
    blower: Annotated[MayLack, within(0, 60)] = None
    run: Annotated[MayLack, within(0, 2000)] = None
    ambient: Annotated[MayLack, within(-40, 90)] = None
    ends: Annotated[Literal["60", "75"] | None, BeforeValidator(lambda typed: str(typed).strip() or None)] = (
        None
    )


def circuit_numbers(entry: CircuitEntry) -> Numbers:
    ambient = 30.0 if entry.ambient is None else entry.ambient
    lies = Conductor(
        "6",
        "copper",
        ambient_c=ambient,
        length_ft=entry.run or 0.0,
        termination_c=int(entry.ends) if entry.ends else None,
    )
    elements = entry.kw * 1000 / entry.volts
    motor = entry.blower or 0.0
    one = circuit_of(elements, motor, lies)
    breaker = one.breaker_amps[0]
    rows = [
        ("load", f"{show(elements, 'A')} of strips + {show(motor, 'A')} of blower"),
        ("breaker", f"{breaker:g} A" if breaker else "no standard size reaches"),
    ]
    for metal, awg in (("copper", one.copper_awg), ("aluminium", one.aluminium_awg)):
        rows.append((metal, _wire(lies, metal, awg, one.load_amps, entry.volts)))
    most = thresholds.MOST_ELEMENT_AMPS
    if elements > most:
        rows.append((f"above {most:g} A", "split over circuits, in the kit or ahead of it"))
    return Numbers(
        show(one.min_circuit_amps, digits=4),
        "A",
        "minimum circuit amps, 125 % of the load",
        tuple(rows),
        f"1.25 × ({show(elements, digits=4)} + {show(motor)}) A = {show(one.min_circuit_amps, 'A', 4)}."
        " The plate rules where there is one; local code decides",
    )


def _wire(lies: Conductor, metal: str, awg: str | None, amps: float, volts: float) -> str:
    if awg is None:
        return "none of the table as it lies"
    if not lies.length_ft:
        return f"{awg} AWG"
    drop = dropped_volts(Conductor(awg, metal, length_ft=lies.length_ft), amps)
    return f"{awg} AWG, drops {show(drop, 'V')}, {100 * drop / volts:.1f} %"
