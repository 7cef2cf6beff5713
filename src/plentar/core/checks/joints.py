"""Heat made at a joint: volts lost across a closed part times the amps through it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from plentar.core.checks.registry import Result, check
from plentar.core.expected.waiting import coil_volts_of, waiting_for
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import Said, figure, plain, say
from plentar.core.supply.conductors import dropped_volts, ohms_per_kft, thinnest_ohms_per_kft
from plentar.core.tables import thresholds as th
from plentar.core.tables.model import CONTACT_OHMS, UNKNOWN_CONDUCTOR_OHMS
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import HEAT_CALLS, Circuit, Element
from plentar.core.visit.draws import draws, same_setting
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import PanelState

#: Across what nobody clamped, more than the worst of burnt contacts drops may be a ghost, V.
MOST_JOINT_VOLTS = 6.5
#: What is allowed for where nobody gave the length, ft.
UNKNOWN_FEET = 100.0
#: What a guessed run of wire may be longer than it is given.
GUESSED_LENGTH = 2.0
#: What a coarse meter shows across what is closed, V: so much is no joint for certain.
COARSE_VOLTS, COARSE_BELOW = 0.3, 1.0
#: Limits and links have discs and spades of their own: good, watch and repair to so many watts, and to
#: so many ohms times the amps squared where that is more.
DISCS = ((7.0, 0.015, None), (10.0, 0.025, Level.WATCH), (20.0, 0.050, Level.REPAIR))
#: How much more than the nominal contact or pole a sound one may drop.
SOUND_SPREAD = 1.1
_JOINTS = frozenset({"switch", "limit", "link"})
A, V = Quantity.AMPS, Quantity.VOLTS
NAME = say("checks.joints.heat-joints")


def waiting_now(evidence: Evidence, state: PanelState, element: Element) -> object | None:
    """Why an element need not draw in a state; None where it must."""
    return waiting_for(evidence.unit, state, element, 0.0, coil_volts_of(evidence, state))


def level_of(watts: float) -> Level | None:
    """What so much heat at one joint asks for; None where it is little."""
    if watts > th.JOINT_STOP_WATTS:
        return Level.STOP_NOW
    if watts >= th.JOINT_REPAIR_WATTS:
        return Level.REPAIR
    return Level.WATCH if watts > th.JOINT_GOOD_WATTS else None


def level_of_disc(watts: float, amps: float) -> Level | None:
    """The same at a limit or a link, worn or not."""
    for most, ohms, level in DISCS:
        if watts <= max(most, ohms * amps**2):
            return level
    return Level.STOP_NOW


@check(say("checks.joints.heat-joints"), FindingCode.JOINT_HEAT)
def joint_heat(evidence: Evidence) -> Iterator[Result]:
    """Switches, limits, links and breaker poles by their newest volts; feeds by line and lugs."""
    newest = {
        taken.point.name: taken
        for taken in evidence.taken
        if taken.counts
        and taken.reading.quantity is V
        and (taken.point.kind in _JOINTS or pole_of(evidence, taken) is not None)
    }
    if not newest:
        yield NotJudged(NAME, "joints", say("checks.joints.volts-across-not-read"))
    for taken in newest.values():
        circuit = pole_of(evidence, taken)
        if circuit is None:
            yield _joint(evidence, taken)
        else:
            yield _pole(evidence, taken, circuit)
    for circuit in evidence.unit.circuits:
        yield _feed(evidence, circuit)


def _joint(evidence: Evidence, taken: Taken) -> Result:
    name, volts = taken.point.component, taken.reading.value
    through = tuple(evidence.unit.elements_through(name))
    clamped = [reading for e in through if (reading := evidence.latest(e.id, A)) is not None]
    own = evidence.latest(name, A)
    if own is not None:
        clamped = [own]
    if not clamped:
        return _by_plate(evidence, taken)
    amps = sum(reading.reading.value for reading in clamped)
    carries = [
        draw
        for draw in draws(evidence)
        if draw.taken in clamped and same_setting(draw.taken.state, taken.state)
    ]
    if not carries and all(waiting_now(evidence, taken.state, e) is not None for e in through):
        return NotJudged(NAME, name, say("checks.joints.need-not-closed-there"))
    rated = max((e.rated_volts for e in through), default=240.0)
    most = th.JOINT_MOST_SHARE * rated if carries else th.JOINT_OPEN_VOLTS
    if volts > most:
        return NotJudged(NAME, name, say("checks.joints.open-or-ghost-no"))
    t_s = max(taken.reading.t_s, *(reading.reading.t_s for reading in clamped))
    return _judged(
        name,
        say("checks.joints.drops", name=said_of(evidence.unit, name)),
        volts,
        amps,
        CONTACT_OHMS,
        t_s,
        disc=taken.point.kind != "switch",
    )


def _by_plate(evidence: Evidence, taken: Taken) -> Result:
    """Where nobody clamped: by the plate's amps, where all that is in its rungs is called and on."""
    unit, state, name = evidence.unit, taken.state, taken.point.component
    missing = NotJudged(NAME, name, say("checks.joints.amps-through-not-read"))
    through = [e for e in unit.elements_through(name) if waiting_now(evidence, state, e) is None]
    if not through or taken.reading.value > MOST_JOINT_VOLTS:
        return missing
    if any(_line_volts_elsewhere(evidence, taken, e) for e in through):
        return missing
    amps = sum(
        e.rating.amps(evidence.supply(unit.circuit_by_id[e.circuit], state.t_s).nominal) for e in through
    )
    words = say("checks.joints.plates-amps-which-nobody", name=said_of(unit, name))
    disc = taken.point.kind != "switch"
    return _judged(name, words, taken.reading.value, amps, CONTACT_OHMS, taken.reading.t_s, disc=disc)


def _line_volts_elsewhere(evidence: Evidence, taken: Taken, element: Element) -> bool:
    """Since the last press the line's volts, or no amps, were read in the same rung: nothing flows."""
    least = th.LINE_VOLTS_SHARE * element.rated_volts
    return any(
        (t.reading.quantity is V and t.reading.value >= least and t.point.name != element.id)
        or (t.reading.quantity is A and t.reading.value < th.DEAD_AMPS)
        for t in evidence.taken
        if t.counts and t.point.component in element.rung and same_setting(t.state, taken.state)
    )


def pole_of(evidence: Evidence, taken: Taken) -> Circuit | None:
    """The circuit whose breaker pole a pair of nodes lies across, None for any other point."""
    one, _, two = taken.point.name.partition(":")
    for circuit in evidence.unit.circuits:
        for leg in ("l1", "l2"):
            if {one, two} == {f"{circuit.id}.line.{leg}", f"{circuit.id}.{leg}"}:
                return circuit
    return None


def _pole(evidence: Evidence, taken: Taken, circuit: Circuit) -> Result:
    name, volts = circuit.id, taken.reading.value
    if taken.state.power[circuit.id] != ON or volts > th.LOST_VOLTS_SHARE * circuit.rated_volts:
        return NotJudged(NAME, name, say("checks.joints.breaker-off-or-pole"))
    fed = feed_amps(evidence, circuit, taken)
    if fed is None:
        return NotJudged(NAME, name, say("checks.joints.feeds-amps-not-read"))
    given, most = one_way_ohms(circuit, fed.amps)
    t_s = max(taken.reading.t_s, fed.t_s)
    left, surely = volts - given * fed.amps, volts - most * fed.amps - ACCURACY[V].error(volts)
    sound = SOUND_SPREAD * th.POLE_OHMS * fed.amps
    if left <= sound or level_of(left * fed.amps) is None:
        return Clear(name)
    level = level_of(surely * fed.amps) if surely > sound else None
    text = say(
        "checks.joints.across-pole-wire-drops",
        point=taken.point.title,
        name=said_of(evidence.unit, name),
        volts=figure(volts, "V"),
        amps=figure(fed.amps, "A"),
        given=figure(given * fed.amps, "V"),
        left=figure(left * fed.amps, "W"),
        surely=figure(max(0.0, surely) * fed.amps, "W"),
    )
    if circuit.conductor is None or circuit.conductor.length_ft <= 0:
        text += say("checks.joints.wires-size-length-not", length_ft=plain(UNKNOWN_FEET, "ft"))
    numbers = {"volts": volts, "amps": fed.amps, "watts": left * fed.amps}
    return Finding(FindingCode.JOINT_HEAT, level or Level.WATCH, name, text, numbers, t_s=t_s)


def one_way_ohms(circuit: Circuit, amps: float) -> tuple[float, float]:
    """One way of the supply wire, Ω: as given, and at most where its length is a guess. Without a length
    100 ft; without a size the smallest that the breaker allows."""
    if circuit.breaker_at == "unit":
        return 0.0, 0.0  # all of it lies ahead
    conductor = circuit.conductor
    if conductor is not None and conductor.length_ft > 0:
        given = wire_ohms(circuit) / 2
        return given, given * (1.0 if conductor.length_measured else GUESSED_LENGTH)
    if conductor is not None:
        per_foot = ohms_per_kft(conductor) / 1000
    else:
        per_foot = thinnest_ohms_per_kft(circuit.breaker_amps or amps) / 1000
    return UNKNOWN_FEET * per_foot, UNKNOWN_FEET * per_foot


def _judged(
    name: str, words: Said, volts: float, amps: float, sound_ohms: float, t_s: float, *, disc: bool = False
) -> Result:
    """By the volts less what a coarse meter may show; what is more by the volts alone is a watch."""
    watts = volts * amps
    surely = max(0.0, volts - COARSE_VOLTS) * amps if volts < COARSE_BELOW else watts
    sound = SOUND_SPREAD * sound_ohms * amps**2
    level = level_of_disc(surely, amps) if disc else level_of(surely)
    if surely <= sound:
        level = None
    perhaps = level_of_disc(watts, amps) if disc else level_of(watts)
    if level is None and perhaps is not None:
        level = Level.WATCH
    least = (volts - th.LOW_RANGE_ERROR) * amps
    if level is None or least <= sound:
        return Clear(name)
    good = max(7.0, 0.015 * amps**2) if disc else float(th.JOINT_GOOD_WATTS)
    text = say(
        "checks.joints.heat-joint-up-good",
        words=words,
        volts=figure(volts, "V"),
        amps=figure(amps, "A"),
        watts=figure(watts, "W"),
        good=figure(good, "W"),
    )
    numbers = {"volts": volts, "amps": amps, "watts": watts}
    return Finding(FindingCode.JOINT_HEAT, level, name, text, numbers, t_s=t_s)


@dataclass(frozen=True, slots=True)
class Fed:
    """Amps in a feed, and when the newest of them was read, s."""

    amps: float
    t_s: float


def feed_amps(evidence: Evidence, circuit: Circuit, beside: Taken) -> Fed | None:
    """Amps in the feed in the setting of another reading: clamped there, or summed of elements."""
    feeds = [
        taken
        for at in (circuit.id, f"{circuit.id}.l1", f"{circuit.id}.l2")
        for taken in evidence.at(at, A)
        if same_setting(taken.state, beside.state)
    ]
    if feeds:
        newest = max(feeds, key=lambda t: t.reading.t_s).reading
        return Fed(newest.value, newest.t_s)
    elements = [
        found[-1].reading
        for element in evidence.unit.elements_on(circuit.id)
        if (found := [t for t in evidence.at(element.id, A) if same_setting(t.state, beside.state)])
    ]
    if not elements:
        return None
    return Fed(sum(r.value for r in elements), max(r.t_s for r in elements))


@dataclass(frozen=True, slots=True)
class FeedLoss:
    """What is lost between a breaker's line side and the lugs, V; what wire and sound poles explain of
    it; what is left for joints, W, as read and by the least that the readings allow."""

    volts: float
    explained_volts: float
    watts: float
    least_watts: float

    @property
    def words(self) -> Said:
        least = max(0.0, self.least_watts)
        return say(
            "checks.joints.read-least", watts=figure(max(0.0, self.watts), "W"), least=figure(least, "W")
        )


def feed_loss(circuit: Circuit, ahead: float, behind: float, amps: float) -> FeedLoss:
    """By the volts ahead of the breaker and behind at the lugs, read as a pair, and the feed's amps."""
    wire = 0.0 if circuit.breaker_at == "unit" else wire_ohms(circuit)
    explained = (wire + 2 * th.POLE_OHMS) * amps
    lost = ahead - behind - explained
    doubt = th.PAIR_METER_VOLTS + th.PAIR_WANDER * ahead
    conductor = circuit.conductor
    if conductor is None or conductor.length_ft <= 0 or not conductor.length_measured:
        doubt += (GUESSED_LENGTH - 1) * wire * amps
    return FeedLoss(ahead - behind, explained, lost * amps, (lost - doubt) * amps)


def _feed(evidence: Evidence, circuit: Circuit) -> Result:
    """What is lost between the breaker's line side and the lugs, less wire and sound poles."""
    name = circuit.id
    lugs = [t for t in evidence.at(name, V) if t.state.power[name] == ON]
    lines = evidence.at(f"{name}.line", V)
    pairs = [
        (line, lug)
        for line in lines
        for lug in lugs
        if abs(line.reading.t_s - lug.reading.t_s) <= th.PAIR_S
        and same_setting(line.state, lug.state)
        and lug.reading.value > 0.5 * circuit.rated_volts
    ]
    if not pairs:
        return _by_sag(evidence, circuit, lugs)
    line, lug = max(pairs, key=lambda pair: pair[1].reading.t_s)
    fed = feed_amps(evidence, circuit, lug)
    if fed is None or fed.amps < 1.0:
        return NotJudged(NAME, name, say("checks.joints.line-side-lugs-not"))
    amps = fed.amps
    ahead, behind = line.reading.value, lug.reading.value
    loss = feed_loss(circuit, ahead, behind, amps)
    level = level_of(loss.least_watts)
    if level is None:
        if level_of(loss.watts) is None:
            return Clear(name)
        level = Level.WATCH
    text = say(
        "checks.joints.loses-between-breakers-line",
        name=said_of(evidence.unit, name),
        volts=figure(loss.volts, "V"),
        amps=figure(amps, "A"),
        explained_volts=figure(loss.explained_volts, "V"),
        loss=loss.words,
    )
    numbers = {
        "line_volts": ahead,
        "lug_volts": behind,
        "amps": amps,
        "watts": loss.watts,
        "least_watts": loss.least_watts,
    }
    t_s = max(line.reading.t_s, lug.reading.t_s, fed.t_s)
    return Finding(FindingCode.JOINT_HEAT, level, name, text, numbers, t_s=t_s)


def _by_sag(evidence: Evidence, circuit: Circuit, lugs: list[Taken]) -> Result:
    """Without the line side: what the lugs fall by under heat, less wire and source."""
    name = circuit.id
    missing = NotJudged(NAME, name, say("checks.joints.line-side-breaker-not"))
    idle = [t for t in lugs if not t.state.calls & HEAT_CALLS]
    loaded = [t for t in lugs if t.state.calls & HEAT_CALLS]
    if not idle or not loaded:
        return missing
    low = min(loaded, key=lambda t: t.reading.value)
    fed = feed_amps(evidence, circuit, low)
    before = idle[-1].reading.value
    if fed is None or low.reading.value < 0.5 * before:
        return missing
    source = th.SOURCE_SAG * before + th.PAIR_METER_VOLTS
    lost = before - low.reading.value - wire_ohms(circuit) * fed.amps - source
    if lost * fed.amps <= th.JOINT_STOP_WATTS:
        return missing
    text = say(
        "checks.joints.falls-under-heat-neither",
        name=said_of(evidence.unit, name),
        before=figure(before - low.reading.value, "V"),
        lost=figure(lost, "V"),
    )
    numbers = {"idle_volts": before, "loaded_volts": low.reading.value, "watts": lost * fed.amps}
    t_s = max(low.reading.t_s, fed.t_s)
    return Finding(FindingCode.JOINT_HEAT, Level.WATCH, name, text, numbers, t_s=t_s)


def wire_ohms(circuit: Circuit) -> float:
    """Both ways of the supply wire; typical where its length is not known."""
    conductor = circuit.conductor
    if conductor is None or conductor.length_ft <= 0:
        return 2 * UNKNOWN_CONDUCTOR_OHMS
    return dropped_volts(conductor, 1.0)
