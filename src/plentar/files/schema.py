"""The published JSON Schema of the visit file, generated from the code that checks it."""

from __future__ import annotations

import json

from plentar.files.visit_file import VisitFile

DIALECT = "https://json-schema.org/draft/2020-12/schema"


def schema_text() -> str:
    """The schema as it is committed at docs/visit-file.schema.json."""
    schema = {
        "$schema": DIALECT,
        "title": "Plentar visit file",
        **VisitFile.model_json_schema(),
        "x-codes": {
            "findings": sorted(FINDING_CODES),
            "slips": sorted(SLIP_CODES),
        },
    }
    return json.dumps(schema, ensure_ascii=False, indent=1) + "\n"


FINDING_CODES = frozenset({
    "supply-out-of-range", "supply-sag", "leg-unbalance", "joint-heat", "element-low",
    "element-high", "element-dead", "element-to-ground", "breaker-over-plate",
    "breaker-over-conductor", "breaker-under-load", "conductor-under-load", "elements-over-48",
    "over-80-percent", "voltage-drop", "heat-without-blower", "draw-without-call",
    "limit-cycling", "slow-stage", "slow-off", "contradiction", "whole-unit",
})  # fmt: skip
SLIP_CODES = frozenset({
    "kilo-ohm", "clamp-around-two", "volts-not-measured", "before-window", "ohms-live", "ac-on-dc",
    "zero-volts-dead-rung", "off-test-too-early", "glow-in-sight",
})  # fmt: skip
