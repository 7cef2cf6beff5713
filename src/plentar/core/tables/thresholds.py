"""Every threshold that the core uses, declared once: value, unit, name, what it is for, source.

The help page lists this table; nothing else repeats its numbers.
"""

from __future__ import annotations


class Threshold(float):
    """A figure that is used as the number that it is.

    Where no source is named it is the job's own rule; a habit is typical, no law and no standard.
    """

    def __new__(cls, value: float, unit: str, name: str, help_: str, source: str = "job rule") -> Threshold:
        made = super().__new__(cls, value)
        made.unit, made.name, made.help, made.source = unit, name, help_, source
        return made

    unit: str
    name: str
    help: str
    source: str

    @property
    def typical(self) -> bool:
        return self.source.endswith("habit")

    def __reduce__(self) -> tuple[type[float], tuple[float]]:
        return float, (float(self),)


PLATE_POWER_LOW = Threshold(
    0.9,
    "× rated",
    "plate band, low",
    "least power of an element at rated volts",
    "IEC 60335-1 §10.1, heating above 200 W",
)
PLATE_POWER_HIGH = Threshold(
    1.05,
    "× rated",
    "plate band, high",
    "most power of an element at rated volts",
    "IEC 60335-1 §10.1, heating above 200 W",
)
HOUSE_BAND = Threshold(
    0.1,
    "of nominal amps",
    "house band",
    "current of an element either way, where the shop judges so",
    "shop habit",
)
COLD_RATIO_LOW = Threshold(
    0.9,
    "× hot ohms",
    "cold ohms, low",
    "least share of the hot resistance that a cold element shows",
    "alloy makers' temperature factors",
)
DEAD_AMPS = Threshold(0.5, "A", "dead below", "an element that draws less is dead")
DEAD_SHARE = Threshold(0.05, "of nominal amps", "dead below", "or less than this share of its current")
OFF_LIVE_VOLTS = Threshold(
    60.0, "V", "recorded off, live", "more than this behind a breaker that is recorded off is live"
)
OFF_GHOST_VOLTS = Threshold(
    15.0, "V", "recorded off, or a ghost", "from here on the proof is void, and low impedance tells"
)
OFF_WATCH_VOLTS = Threshold(5.0, "V", "recorded off, watch", "as good as nothing up to here")
BENCH_VOLTS = Threshold(30.0, "V", "bench supply", "its own volts at the coil that it drives, at most")
GROUND_GOOD_OHMS = Threshold(1000000.0, "Ω", "element to ground", "less than this, cold and dry, is stop-now")
UNMEASURED_VOLTS_LOW = Threshold(
    0.95, "× rated", "volts not measured, low", "assumed least supply, provisional"
)
UNMEASURED_VOLTS_HIGH = Threshold(
    1.05, "× rated", "volts not measured, high", "assumed most supply, provisional"
)
SAG_WATCH = Threshold(0.03, "of no-load volts", "sag, watch", "heat off to full heat", "branch circuit note")
SAG_REPAIR = Threshold(
    0.05, "of no-load volts", "sag, repair", "heat off to full heat", "branch circuit note"
)
LEG_UNBALANCE = Threshold(0.03, "of the mean leg", "leg unbalance", "open or loose neutral or leg upstream")
LEGS_APART_VOLTS = Threshold(
    30.0, "V", "legs far apart", "to ground, where both add up to the service: the neutral or ground is lost"
)
LEGS_ADD_UP = Threshold(0.05, "of the service", "legs add up", "both legs to ground, as near the service")
WYE_BELOW_VOLTS = Threshold(220.0, "V", "208Y/120 service", "a service of less has legs of 120 V at 120°")
WYE_LEG_LOW_VOLTS = Threshold(105.0, "V", "leg of 208Y/120, low", "outside of it with the service in range")
WYE_LEG_HIGH_VOLTS = Threshold(135.0, "V", "leg of 208Y/120, high", "or above this")
LEG_PAIR_S = Threshold(120.0, "s", "legs clamped as a pair", "both of one state within this")
LEGS_IDLE_AMPS = Threshold(1.0, "A", "legs of a feed, no heat", "more than this comes home another way")
LEGS_HEAT_AMPS = Threshold(2.0, "A", "legs of a feed, heat", "more than this, or than the share below")
LEGS_HEAT_SHARE = Threshold(0.08, "of the larger leg", "legs of a feed, heat", "the larger of both counts")
LEGS_RUNG_SHARE = Threshold(
    0.10, "of a rung's amps", "one wire of a rung", "so near a rung's amps, the clamp may have missed one"
)
TYPED_WITHIN_S = Threshold(
    60.0, "s", "typed after it was seen", "a reading may be so much older than its entry", "trade habit"
)
LOW_RANGE_ERROR = Threshold(
    0.02, "V", "error on the low range", "what a meter is off by across something closed", "trade habit"
)
LOW_RANGE_TO = Threshold(
    2.0, "V", "low range of volts", "above it a meter is as good as on any volts", "trade habit"
)
JOINT_GOOD_WATTS = Threshold(
    2.0, "W", "joint heat, good", "volts across a closed joint × amps", "trade habit"
)
JOINT_REPAIR_WATTS = Threshold(5.0, "W", "joint heat, repair", "at and above this: repair", "trade habit")
JOINT_STOP_WATTS = Threshold(10.0, "W", "joint heat, stop", "above this: stop now", "trade habit")
JOINT_OPEN_VOLTS = Threshold(
    3.0,
    "V",
    "joint or ghost",
    "more than this across a contact that carries nothing is an open part or a ghost",
)
JOINT_MOST_SHARE = Threshold(
    0.25,
    "of rated volts",
    "joint under current",
    "more than this across a part that was seen to carry current: it has opened since",
)
POLE_OHMS = Threshold(0.002, "Ω", "breaker pole", "a sound pole", "trade habit")
PAIR_S = Threshold(60.0, "s", "pair of volts", "line side and lugs are compared when read within this")
PAIR_METER_VOLTS = Threshold(0.6, "V", "pair of volts, meter", "what two readings of one meter may differ by")
PAIR_WANDER = Threshold(
    0.003, "of line volts", "pair of volts, wander", "what the supply may move between the two"
)
SOURCE_SAG = Threshold(
    0.02, "of no-load volts", "sag of the source", "what a sound service falls by under full heat"
)
OVER_POWER = Threshold(
    1.15, "× rated power", "element on too many volts", "above this the element is made for other volts"
)
OVER_POWER_230 = Threshold(
    1.21,
    "× rated power",
    "230 V element on too many volts",
    "the same for a 230 V plate, which is meant for 230 to 240 V",
)
USUAL_TAP_VOLTS = Threshold(
    240.0, "V", "usual primary tap", "where the primary is left as it comes", "trade habit"
)
TAP_SHARE = Threshold(
    0.055,
    "of what is due",
    "secondary by its tap",
    "within this of what the 240 V tap gives on 208 V, the tap explains it",
)
LINE_VOLTS_SHARE = Threshold(
    0.8, "of the supply", "line volts", "from here on a reading counts as line volts"
)
SECONDARY_LOW = Threshold(
    22.0, "V", "control volts, low", "secondary with load, good from here", "trade habit"
)
SECONDARY_HIGH = Threshold(
    29.0, "V", "control volts, high", "secondary with load, good up to here", "trade habit"
)
TRANSFORMER_SHARE = Threshold(
    0.8, "of its VA", "load on the transformer", "everything called at once, good up to this", "trade habit"
)
SECONDARY_REPAIR = Threshold(
    20.0,
    "V",
    "control volts, repair",
    "secondary with load, below this coils chatter or stay out",
    "trade habit",
)
SECONDARY_DEAD = Threshold(
    1.0, "V", "control volts, none", "a secondary below this gives nothing", "trade habit"
)
DC_COIL_LOW = Threshold(
    20.0, "V", "DC coil volts, low", "a called DC relay gets at least this", "trade habit"
)
DC_COIL_HIGH = Threshold(34.0, "V", "DC coil volts, high", "and at most this", "trade habit")
CAPACITOR_GOOD = Threshold(0.06, "of its marking", "capacitor", "good within", "usual marking ±6 %")
CAPACITOR_WEAK = Threshold(
    0.1, "below its marking", "capacitor, replace", "more than this: replace it", "trade habit"
)
UF_PER_AMP_VOLT = Threshold(
    2652.6,
    "µF·V/A",
    "capacitor under load",
    "microfarads from the amps through it and the volts across it",
    "1 / (2π · 60 Hz)",
)
LOAD_PAIR_S = Threshold(
    120.0, "s", "capacitor under load, pair", "its amps and its volts go together when read within this"
)
AIRFLOW_WATCH_PER_TON = Threshold(350.0, "CFM per ton", "airflow, watch", "below this: watch", "trade habit")
AIRFLOW_REPAIR_PER_TON = Threshold(
    300.0,
    "CFM per ton",
    "airflow, repair",
    "below this, where the kit prints no least airflow: repair",
    "trade habit",
)
STEADY_AIR_S = Threshold(300.0, "s", "rise test", "heat stands this long, or the rise is provisional")
TEMP_PAIR_F = Threshold(1.0, "°F each", "rise, probes", "what one of the two probes may be off", "meter")
CONTINUOUS_LOAD = Threshold(
    1.25, "× load", "continuous load", "least conductor and breaker for elements and blower", "NEC 424.4(B)"
)
MOST_ELEMENT_AMPS = Threshold(
    48.0, "A", "elements on one circuit", "above this a kit is split", "NEC 424.22(B)"
)
BREAKER_SHARE = Threshold(
    0.8, "of its size", "load on a breaker", "shown beside the plate's figures", "trade habit"
)
VOLTAGE_DROP = Threshold(
    0.03, "of rated volts", "voltage drop", "both ways of the wire at full load", "branch circuit note"
)
LEAST_AIRFLOW = Threshold(
    0.3,
    "of rated",
    "least airflow",
    "a rise beyond what this explains is a probe in sight of the elements",
    "range of the fault",
)
AC_ON_DC_VOLTS = Threshold(
    1.0, "V", "AC range on a DC coil", "the AC range shows less than this where DC volts stand"
)
OFF_TEST_S = Threshold(300.0, "s", "off test", "energised at least this long, or the off time is provisional")
WATCH_ERROR_S = Threshold(
    3.0, "s", "a watch by hand", "how far a time taken by eye and thumb may be off", "trade habit"
)
HOUSE_ON_S = Threshold(
    45.0,
    "s",
    "house limit",
    "a single-stage sequencer that takes longer is worth a note; the printed window decides",
    "shop habit",
)
WARM_S = Threshold(
    900.0, "s", "warm start", "called again within this, a device starts warm and acts sooner", "trade habit"
)
LOST_VOLTS_SHARE = Threshold(
    0.1, "× rated", "no volts", "below this a supply is lost: what is left is a ghost", "trade habit"
)
LEAVING_AIR_REPAIR_F = Threshold(
    160.0, "°F", "leaving air, high", "above this the air is too little for the heat"
)
LEAVING_AIR_STOP_F = Threshold(200.0, "°F", "leaving air, stop", "above this the heat is ended at once")
LEADS_CHANCE = Threshold(
    0.5,
    "probability",
    "a suspect leads",
    "from here on what a suspect would do to the unit is taken for what it does",
    "trade habit",
)

ALL: tuple[Threshold, ...] = tuple(v for v in globals().values() if isinstance(v, Threshold))
