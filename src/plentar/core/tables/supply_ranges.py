"""Expected supply volts at the lugs, by what the circuit is plated for."""

from __future__ import annotations

from plentar.core.quantity import Band

#: ANSI C84.1 utilisation and service ranges; editions differ by a few volts.
SERVICE_240 = Band(228.0, 252.0)
LOWEST_AT_EQUIPMENT_240 = 216.0
#: Equipment plated 208/230 V works over this whole range.
EQUIPMENT_208_230 = Band(187.0, 253.0)
SERVICE_208 = Band(197.0, 218.0)
#: A 208 V service: the lowest at equipment, and 110 % of what it is rated for.
EQUIPMENT_208 = Band(187.0, 229.0)
#: Circuits rated below this hang on a 208Y/120 service.
BELOW_230_V = 220.0


def usual_volts(rated_volts: float) -> Band:
    """The supply volts (V) that need no remark at a circuit of these rated volts."""
    if rated_volts < BELOW_230_V:
        return SERVICE_208
    return SERVICE_240 if rated_volts >= 235 else EQUIPMENT_208_230


def bearable_volts(rated_volts: float) -> Band:
    """The supply volts (V) outside which the supply itself is the fault."""
    if rated_volts >= 235:
        return Band(LOWEST_AT_EQUIPMENT_240, SERVICE_240.high)
    return EQUIPMENT_208 if rated_volts < BELOW_230_V else EQUIPMENT_208_230
