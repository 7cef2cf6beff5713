"""Supply and air."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "air.capacitor.proved-dead": "proved dead",
    "air.capacitor.under-load": "under load",
    "air.rise.supply-air-not-read": "supply air not read",
    "air.rise.supply-air-not-read-2": "supply air not read under heat",
    "air.rise.return-air-not-read": "return air not read",
    "air.rise.heat-pump-runs-underneath": "heat pump runs too: its rise alone not read",
    "air.rise.no-rise-two-probes": "rise too small for two probes to tell",
    "air.rise.probe-sight-glowing-elements": "probe in sight of the glowing elements",
    "air.rise.service-volts-lugs-not": "volts at the heater lugs of {circuit} not read",
    "air.rise.not-clamped-under-same": "{missing} not clamped under the same call",
    "supply.ampere.breaker": "breaker",
    "supply.ampere.load-rated": "load as rated",
    "supply.ampere.load-what-left-off": "load with the part left off",
    "supply.ampere.load-measured": "load as measured",
    "supply.ampere.plate-minimum": "plate minimum",
    "supply.ampere.125": "125 % of it",
    "supply.ampere.80-breaker": "80 % of the breaker",
    "supply.ampere.awg-terminals": "{awg} AWG at its terminals",
    "supply.ampere.awg-lies": "{awg} AWG as laid",
    "supply.ampere.largest-breaker": "largest breaker for it",
    "supply.ampere.plate-maximum": "plate maximum",
    "supply.meanwhile.leave-off": "leave {elements}{called} off: {load_amps} of {of_amps}{breaker}",
    "supply.meanwhile.breaker-still-does-not": "; its {now} A breaker still does not protect that wire, {most} A at most would",
}
