"""What is due on a line of the retest: by the reading's own state, and what the plate alone does not
give: a joint's heat, a feed at rest, the rise, a call's amps."""

from __future__ import annotations

from dataclasses import dataclass, replace

from plentar.core.air.airflow import air_rise_f
from plentar.core.expected import Expected, Word
from plentar.core.expected.by_model import BY_MODEL, FIXED
from plentar.core.expected.ends import below, partition
from plentar.core.expected.rules import expected_of
from plentar.core.guided import Step
from plentar.core.guided.asking import Asking, TestStage
from plentar.core.quantity import DEGREES, Band, Quantity
from plentar.core.said import figure, say
from plentar.core.supply.control_budget import control_budget
from plentar.core.tables import thresholds as th
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.points import CONTROL_SIDE, resolve
from plentar.core.unit.ratings import BTUH_PER_WATT
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import motor_amps
from plentar.core.visit.evidence import Evidence

A, V, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.TEMP_F
#: The rise of strips that work on the air that is due, as a share of it.
RISE_SHARE = Band(0.5, 1.35)
#: A sound contact with its spades, Ω.
MOST_CONTACT_OHMS = 0.0065
#: What only the model tells may differ so much.
MODEL_SHARE = Band(0.45, 1.7)
#: Heaters and armatures take more at first.
MOST_COLD = 1.6
#: Where the 24 V side is read.
LOW_VOLTS = CONTROL_SIDE - {"primary"}
#: A secondary without load stands above what coils are usually given.
MOST_CONTROL_SHARE = 1.1


@dataclass(frozen=True)
class Dues:
    asking: Asking
    parts: frozenset[str]

    @property
    def evidence(self) -> Evidence:
        return self.asking.evidence

    @property
    def unit(self) -> Unit:
        return self.evidence.unit

    def of(self, step: Step, stage: TestStage) -> Step:
        if step.at == "supply-air":
            return replace(step, due=self._rise_due(stage) or step.due)
        if step.quantity is A and step.at in self.unit.circuit_by_id and not stage.calls:
            return replace(step, due=self._still_due(step))
        loaded = self.unit.heat_calls <= stage.calls and bool(stage.calls)
        if step.quantity is V and loaded and (due := self._joint_due(step)) is not None:
            return replace(step, due=due)
        kind = step.due.point.kind
        if step.at == "R" and step.quantity is A and stage.calls:
            return replace(step, due=self._called_due(step, stage))
        if step.taken is None:
            return step
        due = expected_of(self.evidence, step.taken)
        new = "transformer" in self.parts
        if new and kind in LOW_VOLTS and step.quantity is V and due.nominal:
            return replace(step, due=_control_due(due, due.nominal, th.SECONDARY_LOW))
        if due.nominal is None or all(r.meaning != BY_MODEL for r in due.ranges):
            return replace(step, due=due)
        if kind in LOW_VOLTS and step.quantity is V:
            return replace(step, due=_control_due(due, due.nominal))
        amps_24 = kind in LOW_VOLTS and step.quantity is A
        return replace(step, due=_wide_due(due, due.nominal, MOST_COLD if amps_24 else 1.0))

    def _called_due(self, step: Step, stage: TestStage) -> Expected:
        """What the loads on these calls draw, as far as that is known of control amps."""
        loads = [va for _, call, va in control_budget(self.unit).loads if call in stage.calls]
        return _wide_due(step.due, sum(loads) / self.unit.control_power.volts, MOST_COLD)

    def _joint_due(self, step: Step) -> Expected | None:
        """Of a closed contact of what was mended: so much heat and no more."""
        unit = self.unit
        if step.at not in unit.switch_by_id:
            return None
        if not {step.at, unit.control_of_switch[step.at].id} & self.parts:
            return None
        amps = sum(e.rating.amps(e.rated_volts) for e in unit.elements_through(step.at))
        if amps <= 0:
            return None
        ohms = MOST_CONTACT_OHMS
        most = ohms * amps + th.JOINT_REPAIR_WATTS / amps
        return Expected(
            step.due.point,
            V,
            partition(
                [most],
                (Word.CLOSED, True, say("guided.retest-due.sound-joint-loses")),
                (Word.HIGH, False, say("guided.retest-due.heat-made-joint-remake")),
            ),
            nominal=ohms * amps,
        )

    def _still_due(self, step: Step) -> Expected:
        """Less than the least that hangs on the feed, the motor among it."""
        strips = [e.rating.amps(e.rated_volts) for e in self.unit.elements_on(step.at)]
        motor = motor_amps(self.unit, step.at)
        least = min([*strips, *([motor] if motor else [])], default=2 * th.DEAD_AMPS) / 2
        least = min(least, th.DEAD_AMPS)
        return Expected(
            step.due.point,
            A,
            partition(
                [below(least)],
                (Word.IN_BAND, True, say("guided.retest-due.nothing-draws")),
                (Word.HIGH, False, say("guided.retest-due.something-still-draws-nothing")),
            ),
            nominal=0.0,
        )

    def _rise_due(self, stage: TestStage) -> Expected | None:
        """By what the return air was, the rated watts and the rated air."""
        back = self.asking.read(stage, "return-air", TEMP)
        blower = self.unit.blower
        if back is None or blower is None or not blower.air_cfm:
            return None
        watts = sum(e.rated_watts for e in self.unit.elements)
        altitude_ft = self.evidence.visit.settings.altitude_ft
        rise_f = air_rise_f(BTUH_PER_WATT * watts, blower.air_cfm, altitude_ft)
        start, probe = back.reading.value, ACCURACY[TEMP].error(back.reading.value)
        low = start + RISE_SHARE.low * rise_f - probe
        high = start + RISE_SHARE.high * rise_f + probe
        due = say(
            "guided.retest-due.due-rise",
            rise_f=figure(rise_f, DEGREES),
            air_cfm=figure(blower.air_cfm, "CFM", 4),
        )
        return Expected(
            resolve(self.unit, "supply-air"),
            TEMP,
            partition(
                [below(low), high],
                (Word.LOW, False, say("guided.retest-due.too-little-rise", due=due)),
                (Word.IN_BAND, True, due),
                (Word.HIGH, False, say("guided.retest-due.too-much-rise-too", due=due)),
                least=-100.0,
            ),
            nominal=start + rise_f,
        )


def _control_due(due: Expected, nominal: float, low: float = th.SECONDARY_REPAIR) -> Expected:
    """24 V as transformers differ; nothing where nothing is due."""
    high = MOST_CONTROL_SHARE * th.SECONDARY_HIGH
    if nominal < low / 2:
        return _wide_due(due, nominal)
    return Expected(
        due.point,
        V,
        partition(
            [below(low), high],
            (Word.LOW, False, say("guided.retest-due.less-than-what-devices")),
            (Word.IN_BAND, True, say("guided.retest-due.control-power-should")),
            (Word.HIGH, False, say("guided.retest-due.more-than-what-coils")),
        ),
        nominal=nominal,
    )


def _wide_due(due: Expected, nominal: float, spread: float = 1.0) -> Expected:
    """What only the model of the unit as rated tells, as units of its kind differ."""
    band, fixed = MODEL_SHARE.times(nominal), FIXED[due.quantity]
    low, high = (band.low if band.low > fixed else 0.0), spread * band.high + fixed
    return Expected(
        due.point,
        due.quantity,
        partition(
            [below(low), high],
            (Word.LOW, False, say("guided.retest-due.less-than-should")),
            (Word.IN_BAND, True, say("guided.retest-due.about-sound-unit-shows")),
            (Word.HIGH, False, say("guided.retest-due.more-than-should")),
        ),
        nominal=nominal,
    )
