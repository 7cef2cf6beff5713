"""The sag test: line side and lugs, without heat and under all of it, with its amps.

What the lugs lose is the source's, the wire's and the sound poles', or heat in a joint; and it is
on one side of the breaker's line terminals or on the other.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from plentar.core.checks.joints import FeedLoss, feed_loss, level_of
from plentar.core.guided import Guided, Step, every, lines
from plentar.core.guided.asking import Asking, TestStage, heat_calls
from plentar.core.judgement import Level
from plentar.core.quantity import Quantity
from plentar.core.said import NOTHING, Said, figure, plain, rounded, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.parts import Circuit
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import all_off_s, all_on_s

A, V = Quantity.AMPS, Quantity.VOLTS


@dataclass(frozen=True, slots=True)
class Sag:
    """What the readings of one circuit amount to: what the source gives way by, V, under how many
    amps, and what is lost behind the breaker's line side."""

    source_volts: float
    amps: float
    loss: FeedLoss

    @property
    def source_ohms(self) -> float:
        return self.source_volts / self.amps


def sag_test(evidence: Evidence, now_s: float, circuit_id: str) -> Guided:
    """The steps for one circuit and, where the readings are there, what they amount to."""
    asking, unit = Asking(evidence, now_s), evidence.unit
    circuit = unit.circuit_by_id[circuit_id]
    line = f"{circuit_id}.line"
    calls = heat_calls(evidence)
    idle = TestStage(after_s=all_off_s(unit))
    loaded = TestStage(calls, all_on_s(unit))
    steps = [
        asking.step(idle, line, V, say("guided.sag.line-side-breaker-heat")),
        asking.step(idle, circuit_id, V, say("guided.sag.lugs-kit-heat-off")),
        asking.step(loaded, circuit_id, A, say("guided.sag.conductor-l1-alone-all")),
        asking.step(loaded, line, V, say("guided.sag.line-side-all-heat")),
        asking.step(loaded, circuit_id, V, say("guided.sag.lugs-all-heat")),
    ]
    steps[0], steps[1] = _together(steps[0], steps[1])
    steps[3], steps[4] = _together(steps[3], steps[4])
    first, amps, ahead, behind = (steps[n].taken for n in (0, 2, 3, 4))
    found = sag_of(circuit, first, amps, ahead, behind) if first and amps and ahead and behind else None
    stop = _ended(found)
    legs = [
        asking.step(loaded, f"{circuit_id}.{leg}:ground", V, say("guided.sag.cabinet", leg=leg.upper()))
        for leg in ("l1", "l2")
    ]
    poles = [
        asking.step(
            loaded, f"{line}.{leg}:{circuit_id}.{leg}", V, say("guided.sag.across-pole-wire", leg=leg.upper())
        )
        for leg in ("l1", "l2")
        if found is not None and found.loss.watts > th.JOINT_GOOD_WATTS
    ]
    result = _said(circuit, found, legs, poles) if found else ()
    return Guided(every(steps, [] if stop else every(legs, poles)), result, stop)


def _ended(found: Sag | None) -> Said:
    """A joint that burns is not read any further under load."""
    if found is None or level_of(found.loss.least_watts) is not Level.STOP_NOW:
        return NOTHING
    return say("guided.sag.least-made-joint-between", least_watts=figure(found.loss.least_watts, "W"))


def _together(one: Step, two: Step) -> tuple[Step, Step]:
    """Two readings that go together; read too far apart, the second is read again."""
    if one.taken is None or two.taken is None:
        return one, two
    if abs(two.taken.reading.t_s - one.taken.reading.t_s) <= th.PAIR_S:
        return one, two
    again = say("guided.sag.again-belongs-within-minute")
    if two.taken.reading.t_s > one.taken.reading.t_s:
        return replace(one, taken=None, note=again), two
    return one, replace(two, taken=None, note=again)


def sag_of(circuit: Circuit, line_idle: Taken, amps: Taken, line: Taken, lugs: Taken) -> Sag | None:
    """Worked out of the line side without heat, and under it amps, line side and lugs; None where
    no current flows."""
    current = amps.reading.value
    if current < th.DEAD_AMPS:
        return None
    source_volts = line_idle.reading.value - line.reading.value
    loss = feed_loss(circuit, line.reading.value, lugs.reading.value, current)
    return Sag(source_volts, current, loss)


def _said(circuit: Circuit, found: Sag, legs: list[Step], poles: list[Step]) -> tuple[tuple[Said, Said], ...]:
    known = circuit.conductor is not None and circuit.conductor.length_ft > 0
    unknown = NOTHING if known else say("guided.sag.usual-wire-length-not")
    good = figure(th.JOINT_GOOD_WATTS, "W")
    return lines(
        (
            say("guided.sag.before-breaker"),
            say(
                "guided.sag.source",
                source_volts=figure(found.source_volts, "V"),
                amps=figure(found.amps, "A"),
                source_ohms=figure(found.source_ohms, "Ω"),
            ),
        ),
        (
            say("guided.sag.breaker-lugs"),
            say(
                "guided.sag.wire-sound-poles-explain",
                volts=figure(found.loss.volts, "V"),
                explained_volts=figure(found.loss.explained_volts, "V"),
                unknown=unknown,
            ),
        ),
        (say("guided.sag.left-joints"), say("guided.sag.up-good", loss=found.loss.words, good=good)),
        (say("guided.sag.where"), _where(circuit, found, poles)),
        (say("guided.sag.legs"), _balance(legs)),
    )


def _balance(legs: list[Step]) -> Said | None:
    """Both legs to the cabinet, and how far they are apart."""
    one, two = (step.taken for step in legs)
    if one is None or two is None:
        return None
    a, b = one.reading.value, two.reading.value
    apart = 200 * abs(a - b) / max(a + b, 1.0)
    most = 100 * th.LEG_UNBALANCE
    return say(
        "guided.sag.apart-over-worth-look",
        a=figure(a, "V"),
        b=figure(b, "V"),
        apart=rounded(apart, 1),
        most=plain(most),
    )


def _where(circuit: Circuit, found: Sag, across: list[Step]) -> Said | None:
    """Which side of the breaker, and which leg."""
    if level_of(found.loss.least_watts) is None:
        lost = found.source_volts > th.SAG_WATCH * circuit.rated_volts
        return say("guided.sag.ahead-breaker-service-meter") if lost else None
    read = [(step.taken.reading.value, step.at[-2:].upper()) for step in across if step.taken]
    leg = say("guided.sag.of", read=max(read)[1]) if len(read) == len(across) > 1 else ""
    return say("guided.sag.between-breakers-line-side", leg=leg)
