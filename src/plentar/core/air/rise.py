"""The rise test: what the strips give by volts times amps, what the air takes up, and so its CFM."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from plentar.core.air.airflow import air_rise_f, airflow_cfm
from plentar.core.quantity import Quantity
from plentar.core.said import Said, listed, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.ratings import BTUH_PER_WATT
from plentar.core.visit.draws import same_setting
from plentar.core.visit.evidence import Evidence, Taken

A, V, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.TEMP_F
HEAT_PUMP = "Y"


@dataclass(frozen=True, slots=True)
class Rise:
    """A rise test that is whole: the strips' rise, °F, and watts; the air, CFM; when it was read.

    ``due_f`` is the rise due at the rated air with every strip as rated, ``working`` how many of
    ``strips`` the rise speaks of; None where the plate gives no air. ``settled`` after five minutes.
    """

    rise_f: float
    watts: float
    cfm: float
    t_s: float
    settled: bool
    due_f: float | None
    working: float | None
    strips: int


def measured_rise(evidence: Evidence) -> Rise | Said:
    """The newest rise test, or, in a few words, what it is missing."""
    supply = evidence.latest("supply-air", TEMP)
    if supply is None:
        return say("air.rise.supply-air-not-read")
    if not supply.state.calls & HEAT_CALLS:
        return say("air.rise.supply-air-not-read-2")
    back = _return_air(evidence, supply)
    if back is None:
        return say("air.rise.return-air-not-read")
    rise_f = supply.reading.value - back.reading.value
    if HEAT_PUMP in supply.state.calls:
        alone_f = _heat_pump_rise(evidence)
        if alone_f is None:
            return say("air.rise.heat-pump-runs-underneath")
        rise_f -= alone_f
    if rise_f <= 2 * th.TEMP_PAIR_F:
        return say("air.rise.no-rise-two-probes")
    watts = _heat_watts(evidence, supply)
    if isinstance(watts, Said):
        return watts
    altitude_ft = evidence.visit.settings.altitude_ft
    cfm = airflow_cfm(BTUH_PER_WATT * watts, rise_f, altitude_ft)
    blower = evidence.unit.blower
    air = blower.air_cfm if blower else None
    if air is not None and cfm < th.LEAST_AIRFLOW * air:
        return say("air.rise.probe-sight-glowing-elements")
    rated = sum(
        e.rating.watts(evidence.supply(evidence.unit.circuit_by_id[e.circuit], supply.reading.t_s).nominal)
        for e in evidence.unit.elements
    )
    due_f = air_rise_f(BTUH_PER_WATT * rated, air, altitude_ft) if air else None
    strips = len(evidence.unit.elements)
    return Rise(
        rise_f,
        watts,
        cfm,
        supply.reading.t_s,
        settled_air(supply),
        due_f,
        strips * rise_f / due_f if due_f else None,
        strips,
    )


def settled_air(taken: Taken) -> bool:
    since = [s for call, s in taken.state.since_s.items() if call in HEAT_CALLS]
    heated_s = taken.state.t_s + taken.reading.lead_s - min(since, default=taken.state.t_s)
    return heated_s >= th.STEADY_AIR_S


def _return_air(evidence: Evidence, supply: Taken) -> Taken | None:
    """The return air nearest in time."""
    every = evidence.at("return-air", TEMP)
    return min(every, key=lambda t: abs(t.reading.t_s - supply.reading.t_s), default=None)


def _heat_pump_rise(evidence: Evidence) -> float | None:
    """What the heat pump alone warmed the air by, earlier in the visit."""
    alone = [
        t
        for t in evidence.at("supply-air", TEMP)
        if HEAT_PUMP in t.state.calls and not t.state.calls & HEAT_CALLS
    ]
    if not alone:
        return None
    back = _return_air(evidence, alone[-1])
    return alone[-1].reading.value - back.reading.value if back else None


def _heat_watts(evidence: Evidence, supply: Taken) -> float | Said:
    """Volts times amps of what was clamped under the same call, W: each strip, and the blower where
    it was clamped too; or the whole feed of a circuit."""
    unit, watts = evidence.unit, 0.0
    for circuit in unit.circuits:
        elements = list(unit.elements_on(circuit.id))
        if not elements:
            continue
        volts = evidence.supply(circuit, supply.reading.t_s)
        if not volts.measured:
            return say("air.rise.service-volts-lugs-not", circuit=said_of(unit, circuit.id))
        amps = [_beside(evidence, (e.id,), supply) for e in elements]
        feed = _beside(evidence, (circuit.id, f"{circuit.id}.l1", f"{circuit.id}.l2"), supply)
        known = [one for one in amps if one is not None]
        if len(known) == len(amps):
            watts += volts.nominal * sum(known)
            if unit.blower and unit.blower.circuit == circuit.id:
                watts += volts.nominal * (_beside(evidence, ("blower",), supply) or 0.0)
        elif feed is not None:
            watts += volts.nominal * feed
        else:
            missing = [e.id for e, one in zip(elements, amps, strict=True) if one is None]
            return say("air.rise.not-clamped-under-same", missing=listed(missing, ","))
    return watts


def _beside(evidence: Evidence, at: Iterable[str], supply: Taken) -> float | None:
    """The newest amps at some points in the setting of the supply air's reading."""
    found = [t for name in at for t in evidence.at(name, A) if same_setting(t.state, supply.state)]
    return max(found, key=lambda t: t.reading.t_s).reading.value if found else None
