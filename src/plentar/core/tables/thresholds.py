"""Every threshold that the core uses, declared once: value, unit, source. What each is for, ``words`` says.

The help page lists this table; nothing else repeats its numbers.
"""

from __future__ import annotations


class Threshold(float):
    """A figure that is used as the number that it is; ``unit`` is a sign or the code of one.

    Where no source is named it is the job's own rule; a habit is typical, no law and no standard.
    """

    def __new__(cls, value: float, unit: str, source: str = "job-rule") -> Threshold:
        made = super().__new__(cls, value)
        made.unit, made.source = unit, source
        return made

    unit: str
    source: str

    @property
    def typical(self) -> bool:
        return self.source.endswith("habit")

    def __reduce__(self) -> tuple[type[float], tuple[float]]:
        return float, (float(self),)


PLATE_POWER_LOW = Threshold(0.9, "times-rated", "iec-60335-1-10-1-heating-above-200-w")
PLATE_POWER_HIGH = Threshold(1.05, "times-rated", "iec-60335-1-10-1-heating-above-200-w")
HOUSE_BAND = Threshold(0.1, "of-nominal-amps", "shop-habit")
COLD_RATIO_LOW = Threshold(0.9, "times-hot-ohms", "alloy-makers-temperature-factors")
DEAD_AMPS = Threshold(0.5, "A")
DEAD_SHARE = Threshold(0.05, "of-nominal-amps")
OFF_LIVE_VOLTS = Threshold(60.0, "V")
OFF_GHOST_VOLTS = Threshold(15.0, "V")
OFF_WATCH_VOLTS = Threshold(5.0, "V")
BENCH_VOLTS = Threshold(30.0, "V")
GROUND_GOOD_OHMS = Threshold(1000000.0, "Ω")
UNMEASURED_VOLTS_LOW = Threshold(0.95, "times-rated")
UNMEASURED_VOLTS_HIGH = Threshold(1.05, "times-rated")
SAG_WATCH = Threshold(0.03, "of-no-load-volts", "branch-circuit-note")
SAG_REPAIR = Threshold(0.05, "of-no-load-volts", "branch-circuit-note")
LEG_UNBALANCE = Threshold(0.03, "of-the-mean-leg")
LEGS_APART_VOLTS = Threshold(30.0, "V")
LEGS_ADD_UP = Threshold(0.05, "of-the-service")
WYE_BELOW_VOLTS = Threshold(220.0, "V")
WYE_LEG_LOW_VOLTS = Threshold(105.0, "V")
WYE_LEG_HIGH_VOLTS = Threshold(135.0, "V")
LEG_PAIR_S = Threshold(120.0, "s")
LEGS_IDLE_AMPS = Threshold(1.0, "A")
LEGS_HEAT_AMPS = Threshold(2.0, "A")
LEGS_HEAT_SHARE = Threshold(0.08, "of-the-larger-leg")
LEGS_RUNG_SHARE = Threshold(0.1, "of-a-rungs-amps")
TYPED_WITHIN_S = Threshold(60.0, "s", "trade-habit")
LOW_RANGE_ERROR = Threshold(0.02, "V", "trade-habit")
LOW_RANGE_TO = Threshold(2.0, "V", "trade-habit")
JOINT_GOOD_WATTS = Threshold(2.0, "W", "trade-habit")
JOINT_REPAIR_WATTS = Threshold(5.0, "W", "trade-habit")
JOINT_STOP_WATTS = Threshold(10.0, "W", "trade-habit")
JOINT_OPEN_VOLTS = Threshold(3.0, "V")
JOINT_MOST_SHARE = Threshold(0.25, "of-rated-volts")
POLE_OHMS = Threshold(0.002, "Ω", "trade-habit")
PAIR_S = Threshold(60.0, "s")
PAIR_METER_VOLTS = Threshold(0.6, "V")
PAIR_WANDER = Threshold(0.003, "of-line-volts")
SOURCE_SAG = Threshold(0.02, "of-no-load-volts")
OVER_POWER = Threshold(1.15, "times-rated-power")
OVER_POWER_230 = Threshold(1.21, "times-rated-power")
USUAL_TAP_VOLTS = Threshold(240.0, "V", "trade-habit")
TAP_SHARE = Threshold(0.055, "of-what-is-due")
LINE_VOLTS_SHARE = Threshold(0.8, "of-the-supply")
SECONDARY_LOW = Threshold(22.0, "V", "trade-habit")
SECONDARY_HIGH = Threshold(29.0, "V", "trade-habit")
TRANSFORMER_SHARE = Threshold(0.8, "of-its-va", "trade-habit")
SECONDARY_REPAIR = Threshold(20.0, "V", "trade-habit")
SECONDARY_DEAD = Threshold(1.0, "V", "trade-habit")
DC_COIL_LOW = Threshold(20.0, "V", "trade-habit")
DC_COIL_HIGH = Threshold(34.0, "V", "trade-habit")
CAPACITOR_GOOD = Threshold(0.06, "of-its-marking", "usual-marking-6")
CAPACITOR_WEAK = Threshold(0.1, "below-its-marking", "trade-habit")
UF_PER_AMP_VOLT = Threshold(2652.6, "µF·V/A", "1-2-60-hz")
LOAD_PAIR_S = Threshold(120.0, "s")
AIRFLOW_WATCH_PER_TON = Threshold(350.0, "cfm-per-ton", "trade-habit")
AIRFLOW_REPAIR_PER_TON = Threshold(300.0, "cfm-per-ton", "trade-habit")
STEADY_AIR_S = Threshold(300.0, "s")
TEMP_PAIR_F = Threshold(1.0, "f-each", "meter")
CONTINUOUS_LOAD = Threshold(1.25, "times-load", "nec-424-4-b")
MOST_ELEMENT_AMPS = Threshold(48.0, "A", "nec-424-22-b")
BREAKER_SHARE = Threshold(0.8, "of-its-size", "trade-habit")
VOLTAGE_DROP = Threshold(0.03, "of-rated-volts", "branch-circuit-note")
LEAST_AIRFLOW = Threshold(0.3, "of-rated", "range-of-the-fault")
AC_ON_DC_VOLTS = Threshold(1.0, "V")
OFF_TEST_S = Threshold(300.0, "s")
WATCH_ERROR_S = Threshold(3.0, "s", "trade-habit")
HOUSE_ON_S = Threshold(45.0, "s", "shop-habit")
WARM_S = Threshold(900.0, "s", "trade-habit")
LOST_VOLTS_SHARE = Threshold(0.1, "times-rated", "trade-habit")
LEAVING_AIR_REPAIR_F = Threshold(160.0, "°F")
LEAVING_AIR_STOP_F = Threshold(200.0, "°F")
LEADS_CHANCE = Threshold(0.5, "probability", "trade-habit")

#: Every one, by the name of its texts.
ALL: dict[str, Threshold] = {
    name.lower().replace("_", "-"): value
    for name, value in list(globals().items())
    if isinstance(value, Threshold)
}
