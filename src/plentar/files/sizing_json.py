"""What ``size`` and ``prove`` answer, in the contract's terms."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from plentar.core.judgement import Finding
from plentar.core.relay_bench.proof import Proof
from plentar.core.supply.sizing import Sized
from plentar.files.judgement_json import finding_to_json


def sizing_to_json(
    findings: Iterable[Finding], circuits: Iterable[Sized], feeder: Sized | None
) -> dict[str, Any]:
    """Findings of the circuits, and what each circuit, and the feeder ahead of them, needs."""
    return {
        "findings": [finding_to_json(finding) for finding in findings],
        "circuits": [_needs(one) for one in circuits],
        **({"feeder": _needs(feeder)} if feeder else {}),
    }


def _needs(one: Sized) -> dict[str, Any]:
    return {
        "id": one.id,
        "load_amps": round(one.load_amps, 2),
        "min_circuit_amps": round(one.min_circuit_amps, 2),
        "breaker_amps": list(one.breaker_amps),
        "copper_awg": one.copper_awg,
        "aluminium_awg": one.aluminium_awg,
    }


def proof_to_json(proof: Proof) -> dict[str, Any]:
    """Whether the wiring is right, what is wrong, and every case."""
    return {
        "right": not proof.wrong,
        "wrong": [str(code) for code in proof.wrong],
        "cases": [
            {
                "calls": sorted(case.calls),
                "blower": case.blower,
                "heat": case.heat,
                "through_relay_amps": None
                if case.through_relay_amps is None
                else round(case.through_relay_amps, 2),
            }
            for case in proof.cases
        ],
    }
