"""Heat, air and rise: CFM = Q ÷ (1.08 · F · ΔT), the air thinner the higher the site."""

from __future__ import annotations

from plentar.core.tables.model import SEA_LEVEL_AIR

#: The standard atmosphere: how its density falls with height.
_PER_FOOT, _EXPONENT = 6.8754e-6, 5.2559


def air_factor(altitude_ft: float) -> float:
    """F: the air's density at a height as a share of that at sea level."""
    return float((1 - _PER_FOOT * altitude_ft) ** _EXPONENT)


def airflow_cfm(heat_btuh: float, rise_f: float, altitude_ft: float = 0.0) -> float:
    """The air that carries so much heat, BTU/h, at such a rise > 0 °F."""
    return heat_btuh / (SEA_LEVEL_AIR * air_factor(altitude_ft) * rise_f)


def air_rise_f(heat_btuh: float, cfm: float, altitude_ft: float = 0.0) -> float:
    """By how much so much heat, BTU/h, warms so much air > 0 CFM."""
    return heat_btuh / (SEA_LEVEL_AIR * air_factor(altitude_ft) * cfm)
