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
from plentar.words import chosen, measures, phrase
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
        length_ft=measures.kept(entry.run or 0.0, "ft"),
        termination_c=int(entry.ends) if entry.ends else None,
    )
    elements = entry.kw * 1000 / entry.volts
    motor = entry.blower or 0.0
    one = circuit_of(elements, motor, lies)
    breaker = one.breaker_amps[0]
    rows = [
        (
            chosen("load"),
            phrase("quick.circuit.strips-blower", elements=show(elements, "A"), motor=show(motor, "A")),
        ),
        (
            phrase("quick.breaker"),
            f"{breaker:g} A" if breaker else phrase("quick.circuit.no-standard-size-reaches"),
        ),
    ]
    for metal, awg in (("copper", one.copper_awg), ("aluminium", one.aluminium_awg)):
        rows.append((chosen(metal), _wire(lies, metal, awg, one.load_amps, entry.volts)))
    most = thresholds.MOST_ELEMENT_AMPS
    if elements > most:
        rows.append(
            (phrase("quick.circuit.above", most=f"{most:g}"), phrase("quick.circuit.split-over-circuits-kit"))
        )
    return Numbers(
        show(one.min_circuit_amps, digits=4),
        "A",
        phrase("quick.circuit.minimum-circuit-amps-125"),
        tuple(rows),
        phrase(
            "quick.circuit.1-25-plate-rules",
            elements=show(elements, digits=4),
            motor=show(motor),
            min_circuit_amps=show(one.min_circuit_amps, "A", 4),
        ),
    )


def _wire(lies: Conductor, metal: str, awg: str | None, amps: float, volts: float) -> str:
    if awg is None:
        return phrase("quick.circuit.none-table-lies")
    if not lies.length_ft:
        return phrase("quick.circuit.awg", awg=awg)
    drop = dropped_volts(Conductor(awg, metal, length_ft=lies.length_ft), amps)
    return phrase(
        "quick.circuit.awg-drops", awg=awg, drop=show(drop, "V"), drop_2=f"{100 * drop / volts:.1f}"
    )
