"""Typical coils, used where the plate gives no figure (trade habit)."""

from __future__ import annotations

from plentar.core.quantity import Band

TYPICAL_OHMS = {
    "sequencer": Band(20.0, 150.0),
    "contactor": Band(8.0, 25.0),
    "relay-ac": Band(10.0, 80.0),
    "relay-dc": Band(200.0, 1000.0),
}
TYPICAL_VA = {"sequencer": 5.0, "contactor": 7.0, "relay-ac": 5.0, "relay-dc": 2.0}
#: A coil below this share of its low end has shorted turns; above this multiple it is open.
SHORTED_SHARE = 0.5
OPEN_MULTIPLE = 10.0
