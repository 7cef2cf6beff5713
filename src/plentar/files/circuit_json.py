"""Circuits and the feeder ahead of them as the visit file writes them."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from plentar.core.unit import parts as core
from plentar.files.shapes import Amps, Id, Named, Strict, SupplyVolts, fields_of, present

BreakerLegs = Annotated[
    Literal[1, 2], Field(description="1 where the breaker opens and protects one leg only.")
]


class ConductorJson(Strict):
    """The wire that feeds a kit: size, metal, insulation, how it lies, how long."""

    awg: Literal["14", "12", "10", "8", "6", "4", "3", "2", "1", "1/0", "2/0"]
    material: Literal["copper", "aluminium"]
    insulation_c: Literal[60, 75, 90] = 90
    termination_c: (
        Annotated[Literal[60, 75], Field(description="Not given: 60 °C up to 100 A and 1 AWG, 75 °C above.")]
        | None
    ) = None
    cable: Literal["nm", "other"] = "other"
    ambient_c: Annotated[float, Field(ge=-40, le=90)] = 30
    length_ft: Annotated[float, Field(ge=0, le=2000)] = 0
    length_measured: Annotated[bool, Field(description="Measured; a guess may be half or twice as long.")] = (
        False
    )


class PlateJson(Strict):
    """What a plate asks of a circuit: least circuit amps, largest breaker."""

    min_circuit_amps: Amps | None = None
    max_breaker_amps: Amps | None = None
    dual: (
        Annotated[str, Field(pattern=r"^\d{3}/\d{3}$", description="Both volts, such as 208/230.")] | None
    ) = None


class CircuitJson(Named):
    """One supply circuit: its volts, its breaker, its wire and plate where known."""

    rated_volts: SupplyVolts
    breaker_amps: Amps | None = None
    conductor: ConductorJson | None = None
    plate: PlateJson | None = None
    subdivided: (
        Annotated[bool, Field(description="The kit splits it inside, each part behind a breaker of its own.")]
        | None
    ) = None
    breaker_legs: BreakerLegs = 2
    breaker_at: Annotated[
        Literal[core.BREAKER_PLACES],  # type: ignore[valid-type]
        Field(description="Where it is: behind one in the panel lies the supply wire."),
    ] = "panel"


class FeederJson(Strict):
    """What lies ahead of some circuits: breaker or disconnect, and the wire."""

    circuits: Annotated[list[Id], Field(min_length=1, max_length=6)]
    breaker_amps: Amps | None = None
    conductor: ConductorJson | None = None
    disconnect: Literal[core.DISCONNECTS] | None = None  # type: ignore[valid-type]
    breaker_legs: BreakerLegs = 2

    def to_core(self) -> core.Feeder:
        return core.Feeder(
            tuple(self.circuits),
            self.breaker_amps,
            _conductor(self.conductor),
            self.disconnect,
            self.breaker_legs,
        )


def circuit_from(circuit: CircuitJson) -> core.Circuit:
    plate = circuit.plate
    return core.Circuit(
        circuit.id,
        circuit.rated_volts,
        circuit.breaker_amps,
        _conductor(circuit.conductor),
        core.CircuitPlate(**plate.model_dump()) if plate else None,
        circuit.subdivided,
        circuit.breaker_legs,
        circuit.breaker_at,
    )


def _conductor(wire: ConductorJson | None) -> core.Conductor | None:
    return core.Conductor(**wire.model_dump()) if wire else None


def feeder_to_json(feeder: core.Feeder) -> dict[str, Any]:
    """The feeder in the visit file's terms; what is None is left out."""
    wire = present(**fields_of(feeder.conductor)) if feeder.conductor else None
    return present(
        **fields_of(feeder)
        | {"circuits": list(feeder.circuits), "conductor": wire, "breaker_legs": _legs(feeder)}
    )


def circuit_to_json(circuit: core.Circuit) -> dict[str, Any]:
    """A circuit in the visit file's terms; what is None is left out."""
    return present(
        id=circuit.id,
        rated_volts=circuit.rated_volts,
        breaker_amps=circuit.breaker_amps,
        conductor=present(**fields_of(circuit.conductor)) if circuit.conductor else None,
        plate=present(**fields_of(circuit.plate)) if circuit.plate else None,
        subdivided=circuit.subdivided,
        breaker_legs=_legs(circuit),
        breaker_at=circuit.breaker_at if circuit.breaker_at != "panel" else None,
    )


def _legs(one: core.Circuit | core.Feeder) -> int | None:
    """Said only where it is not both."""
    return one.breaker_legs if one.breaker_legs != 2 else None
