"""A prediction as the command line prints it."""

from __future__ import annotations

from typing import Any

from plentar.core.circuit.predict import Prediction


def prediction_to_json(prediction: Prediction) -> dict[str, Any]:
    """Node phasors to ground, and every point's reading."""
    readings = []
    for reading in prediction.readings:
        written: dict[str, Any] = {
            "read": str(reading.quantity),
            "at": reading.at,
            "value": round(reading.value, 6),
        }
        if reading.cycling:
            written["cycling"] = True
        readings.append(written)
    answer: dict[str, Any] = {
        "nodes": {
            node: [round(volts.real, 6), round(volts.imag, 6)] for node, volts in prediction.nodes.items()
        },
        "readings": readings,
    }
    if prediction.moment.chatter:
        answer["chatter"] = sorted(prediction.moment.chatter)
    return answer
