"""What past visits tell."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "history.series.amps-rated-volts": "amps at rated volts",
    "history.series.ohms-cold": "ohms, cold",
    "history.series.ohms-cabinet": "ohms to the cabinet",
    "history.series.time": "time on",
    "history.series.time-off": "time off",
    "history.series.volts-lost-under-heat": "volts lost under heat",
    "history.series.heat-contacts": "heat at its contacts",
    "history.series.rise-air": "air rise",
    "history.series.air-moved": "air moved",
    "history.series.ohms-coil": "coil ohms",
    "history.series.amps-wire-r": "amps in the wire to R",
    "history.series.capacitor": "capacitor",
}
