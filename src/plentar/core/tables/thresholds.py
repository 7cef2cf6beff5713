"""Every threshold that the core uses, declared once with its unit, source and meaning.

The help page lists this table; nothing else repeats its numbers.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Threshold:
    """One figure: ``typical`` marks a trade habit rather than a law or a standard."""

    name: str
    value: float
    unit: str
    source: str
    help: str
    typical: bool = False


PLATE_POWER_LOW = Threshold(
    "plate band, low",
    0.90,
    "× rated",
    "IEC 60335-1 §10.1, heating above 200 W",
    "least power of an element at rated volts",
)
PLATE_POWER_HIGH = Threshold(
    "plate band, high",
    1.05,
    "× rated",
    "IEC 60335-1 §10.1, heating above 200 W",
    "most power of an element at rated volts",
)
HOUSE_BAND = Threshold(
    "house band",
    0.10,
    "of nominal amps",
    "shop habit",
    "current of an element either way, where the shop judges so",
    typical=True,
)
COLD_RATIO_LOW = Threshold(
    "cold ohms, low",
    0.90,
    "× hot ohms",
    "alloy makers' temperature factors",
    "least share of the hot resistance that a cold element shows",
)
DEAD_AMPS = Threshold("dead below", 0.5, "A", "job rule", "an element that draws less is dead")
DEAD_SHARE = Threshold(
    "dead below", 0.05, "of nominal amps", "job rule", "or less than this share of its current"
)
GROUND_GOOD_OHMS = Threshold(
    "element to ground", 1e6, "Ω", "job rule", "less than this, cold and dry, is stop-now"
)
UNMEASURED_VOLTS_LOW = Threshold(
    "volts not measured, low", 0.95, "× rated", "job rule", "assumed least supply, provisional"
)
UNMEASURED_VOLTS_HIGH = Threshold(
    "volts not measured, high", 1.05, "× rated", "job rule", "assumed most supply, provisional"
)
SAG_WATCH = Threshold("sag, watch", 0.03, "of no-load volts", "branch circuit note", "heat off to full heat")
SAG_REPAIR = Threshold(
    "sag, repair", 0.05, "of no-load volts", "branch circuit note", "heat off to full heat"
)
LEG_UNBALANCE = Threshold(
    "leg unbalance", 0.03, "of the mean leg", "job rule", "open or loose neutral or leg upstream"
)
LOW_RANGE_ERROR = Threshold(
    "error on the low range",
    0.02,
    "V",
    "trade habit",
    "what a meter is off by across something closed",
    typical=True,
)
LOW_RANGE_TO = Threshold(
    "low range of volts", 2.0, "V", "trade habit", "above it a meter is as good as on any volts", typical=True
)
JOINT_GOOD_WATTS = Threshold(
    "joint heat, good", 2.0, "W", "trade habit", "volts across a closed joint × amps", typical=True
)
JOINT_REPAIR_WATTS = Threshold(
    "joint heat, repair", 5.0, "W", "trade habit", "at and above this: repair", typical=True
)
JOINT_STOP_WATTS = Threshold(
    "joint heat, stop", 10.0, "W", "trade habit", "above this: stop now", typical=True
)
JOINT_OPEN_VOLTS = Threshold(
    "joint or ghost",
    3.0,
    "V",
    "job rule",
    "more than this across a contact that carries nothing is an open part or a ghost",
)
JOINT_MOST_SHARE = Threshold(
    "joint under current",
    0.25,
    "of rated volts",
    "job rule",
    "more than this across a part that was seen to carry current: it has opened since",
)
POLE_OHMS = Threshold("breaker pole", 0.002, "Ω", "trade habit", "a sound pole", typical=True)
PAIR_S = Threshold(
    "pair of volts", 60.0, "s", "job rule", "line side and lugs are compared when read within this"
)
PAIR_METER_VOLTS = Threshold(
    "pair of volts, meter", 0.6, "V", "job rule", "what two readings of one meter may differ by"
)
PAIR_WANDER = Threshold(
    "pair of volts, wander", 0.003, "of line volts", "job rule", "what the supply may move between the two"
)
SOURCE_SAG = Threshold(
    "sag of the source", 0.02, "of no-load volts", "job rule", "what a sound service falls by under full heat"
)
OVER_POWER = Threshold(
    "element on too many volts",
    1.15,
    "× rated power",
    "job rule",
    "above this the element is made for other volts",
)
OVER_POWER_230 = Threshold(
    "230 V element on too many volts",
    1.21,
    "× rated power",
    "job rule",
    "the same for a 230 V plate, which is meant for 230 to 240 V",
)
USUAL_TAP_VOLTS = Threshold(
    "usual primary tap", 240.0, "V", "trade habit", "where the primary is left as it comes", typical=True
)
TAP_SHARE = Threshold(
    "secondary by its tap",
    0.055,
    "of what is due",
    "job rule",
    "within this of what the 240 V tap gives on 208 V, the tap explains it",
)
LINE_VOLTS_SHARE = Threshold(
    "line volts", 0.80, "of the supply", "job rule", "from here on a reading counts as line volts"
)
SECONDARY_LOW = Threshold(
    "control volts, low", 22.0, "V", "trade habit", "secondary with load, good from here", typical=True
)
SECONDARY_HIGH = Threshold(
    "control volts, high", 29.0, "V", "trade habit", "secondary with load, good up to here", typical=True
)
TRANSFORMER_SHARE = Threshold(
    "load on the transformer",
    0.80,
    "of its VA",
    "trade habit",
    "everything called at once, good up to this",
    typical=True,
)
SECONDARY_REPAIR = Threshold(
    "control volts, repair",
    20.0,
    "V",
    "trade habit",
    "secondary with load, below this coils chatter or stay out",
    typical=True,
)
SECONDARY_DEAD = Threshold(
    "control volts, none", 1.0, "V", "trade habit", "a secondary below this gives nothing", typical=True
)
DC_COIL_LOW = Threshold(
    "DC coil volts, low", 20.0, "V", "trade habit", "a called DC relay gets at least this", typical=True
)
DC_COIL_HIGH = Threshold("DC coil volts, high", 34.0, "V", "trade habit", "and at most this", typical=True)
CAPACITOR_GOOD = Threshold("capacitor", 0.06, "of its marking", "usual marking ±6 %", "good within")

CAPACITOR_WEAK = Threshold(
    "capacitor, replace", 0.10, "below its marking", "trade habit", "more than this: replace it", typical=True
)
UF_PER_AMP_VOLT = Threshold(
    "capacitor under load",
    2652.6,
    "µF·V/A",
    "1 / (2π · 60 Hz)",
    "microfarads from the amps through it and the volts across it",
)
LOAD_PAIR_S = Threshold(
    "capacitor under load, pair",
    120.0,
    "s",
    "job rule",
    "its amps and its volts go together when read within this",
)
AIRFLOW_WATCH_PER_TON = Threshold(
    "airflow, watch", 350.0, "CFM per ton", "trade habit", "below this: watch", typical=True
)
AIRFLOW_REPAIR_PER_TON = Threshold(
    "airflow, repair",
    300.0,
    "CFM per ton",
    "trade habit",
    "below this, where the kit prints no least airflow: repair",
    typical=True,
)
STEADY_AIR_S = Threshold(
    "rise test", 300.0, "s", "job rule", "heat stands this long, or the rise is provisional"
)
TEMP_PAIR_F = Threshold("rise, probes", 1.0, "°F each", "meter", "what one of the two probes may be off")
CONTINUOUS_LOAD = Threshold(
    "continuous load", 1.25, "× load", "NEC 424.4(B)", "least conductor and breaker for elements and blower"
)
MOST_ELEMENT_AMPS = Threshold(
    "elements on one circuit", 48.0, "A", "NEC 424.22(B)", "above this a kit is split"
)
BREAKER_SHARE = Threshold(
    "load on a breaker", 0.80, "of its size", "trade habit", "shown beside the plate's figures", typical=True
)
VOLTAGE_DROP = Threshold(
    "voltage drop", 0.03, "of rated volts", "branch circuit note", "both ways of the wire at full load"
)
LEAST_AIRFLOW = Threshold(
    "least airflow",
    0.3,
    "of rated",
    "range of the fault",
    "a rise beyond what this explains is a probe in sight of the elements",
)
AC_ON_DC_VOLTS = Threshold(
    "AC range on a DC coil", 1.0, "V", "job rule", "the AC range shows less than this where DC volts stand"
)
OFF_TEST_S = Threshold(
    "off test", 300.0, "s", "job rule", "energised at least this long, or the off time is provisional"
)

WATCH_ERROR_S = Threshold(
    "a watch by hand", 3.0, "s", "job rule", "how far a time taken by eye and thumb may be off", typical=True
)
HOUSE_ON_S = Threshold(
    "house limit",
    45.0,
    "s",
    "shop habit",
    "a single-stage sequencer that takes longer is worth a note; the printed window decides",
    typical=True,
)
WARM_S = Threshold(
    "warm start",
    900.0,
    "s",
    "job rule",
    "called again within this, a device starts warm and acts sooner",
    typical=True,
)
LOST_VOLTS_SHARE = Threshold(
    "no volts",
    0.10,
    "× rated",
    "job rule",
    "below this a supply is lost: what is left is a ghost",
    typical=True,
)
LEAVING_AIR_REPAIR_F = Threshold(
    "leaving air, high", 160.0, "°F", "job rule", "above this the air is too little for the heat"
)
LEAVING_AIR_STOP_F = Threshold(
    "leaving air, stop", 200.0, "°F", "job rule", "above this the heat is ended at once"
)
LEADS_CHANCE = Threshold(
    "a suspect leads",
    0.5,
    "probability",
    "job rule",
    "from here on what a suspect would do to the unit is taken for what it does",
    typical=True,
)

ALL: tuple[Threshold, ...] = tuple(v for v in globals().values() if isinstance(v, Threshold))
