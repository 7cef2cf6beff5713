"""The blower's motor as a small tree: what to read next, and what it comes to. Two trunks: it does not
start, and it will not stop. Each answer is a reading or what a hand and an ear said; nothing is asked
twice, and nothing is concluded that was not read.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from plentar.core.air.capacitor import microfarads
from plentar.core.quantity import Quantity
from plentar.core.said import NOTHING, Said, figure, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.of_plate import of_plate
from plentar.core.unit.parts import PSC, Blower
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Felt
from plentar.core.visit.evidence import Evidence, Taken

A, V, UF = Quantity.AMPS, Quantity.VOLTS, Quantity.UF
#: The motor is fed from this share of its circuit's volts; it is stalled above this multiple of its
#: full-load amps (a locked rotor draws three to six times that).
FED_SHARE, STALLED_MULTIPLE = 0.8, 2.0


@dataclass(frozen=True, slots=True)
class Leaf:
    """What it comes to. ``finding``: something is wrong with ``component``."""

    text: Said
    component: str = "blower"
    finding: bool = True


@dataclass(frozen=True, slots=True)
class Question:
    """What to find out, how (a point and its quantity, or words to choose from), and where each
    answer leads."""

    name: Said
    ask: Said
    decide: Callable[[Evidence], tuple[str, Said] | None]
    branches: Mapping[str, Question | Leaf]
    point: str = ""
    quantity: Quantity | None = None
    felt: tuple[str, ...] = ()
    caution: Said = NOTHING


@dataclass(frozen=True, slots=True)
class TreeStep:
    """A question that has been answered: which branch was taken, and what it stands on."""

    question: Question
    answer: str
    because: Said


@dataclass(frozen=True, slots=True)
class Walk:
    """The answered questions in order, and where they end: a leaf, or the next question."""

    steps: tuple[TreeStep, ...]
    end: Question | Leaf

    @property
    def leaf(self) -> Leaf | None:
        return self.end if isinstance(self.end, Leaf) else None


def walk(evidence: Evidence, trunk: Question) -> Walk:
    at: Question | Leaf = trunk
    steps = []
    while isinstance(at, Question):
        found = at.decide(evidence)
        if found is None:
            break
        steps.append(TreeStep(at, *found))
        at = at.branches[found[0]]
    return Walk(tuple(steps), at)


def trunks(unit: Unit) -> dict[str, Question]:
    """The two trunks for this unit; none without a blower."""
    return of_plate(unit, "trunks", lambda: _trunks(unit))


def _trunks(unit: Unit) -> dict[str, Question]:
    blower = unit.blower
    if blower is None:
        return {}
    feeds = unit.relay.id if unit.relay else "blower"
    return {"starts-not": _starts_not(blower, feeds), "stops-not": _stops_not(unit)}


def _newest(evidence: Evidence, point: str, quantity: Quantity, *, fan: bool) -> Taken | None:
    """The newest reading with the fan called, or with nothing called."""
    call = evidence.unit.fan_call or "G"
    taken = [
        t
        for t in evidence.at(point, quantity)
        if (call in t.state.calls if fan else not t.state.calls) and t.state.live
    ]
    return taken[-1] if taken else None


def _starts_not(blower: Blower, feeds: str) -> Question:
    """``feeds`` is what to look at where nothing arrives."""
    psc = blower.motor == PSC
    capacitor = Question(
        say("relay-bench.motor.capacitor"),
        say("relay-bench.motor.microfarads-run-capacitor-proved"),
        _capacitor,
        {
            "weak": Leaf(say("relay-bench.motor.run-capacitor-does-not"), "capacitor"),
            "good": Leaf(say("relay-bench.motor.capacitor-good-rotor-free")),
        },
        "capacitor",
        UF,
        caution=say("relay-bench.motor.proved-dead-discharge-through"),
    )
    free = capacitor if psc else Leaf(say("relay-bench.motor.free-hand-fed-does"))
    hand = Question(
        say("relay-bench.motor.hand-2"),
        say("relay-bench.motor.hand-proved-dead-does"),
        _by_hand,
        {
            "stiff": Leaf(say("relay-bench.motor.stiff-hand-bearing-or")),
            "play": Leaf(say("relay-bench.motor.bearing-or-hub-has")),
            "free": free,
        },
        felt=("spins", "stiff", "play"),
        caution=say("relay-bench.motor.breakers-off-locked-proved"),
    )
    silent = Leaf(
        say("relay-bench.motor.fed-draws-nothing-winding")
        if psc
        else say("relay-bench.motor.fed-draws-nothing-module")
    )
    amps = Question(
        say("relay-bench.motor.amps"),
        say("relay-bench.motor.amps-blower-fan-called"),
        _amps,
        {"none": silent, "stalled": hand, "runs": Leaf(say("relay-bench.motor.runs"), finding=False)},
        "blower",
        A,
    )
    return Question(
        say("relay-bench.motor.volts"),
        say("relay-bench.motor.volts-motor-fan-called"),
        _fed,
        {"none": Leaf(say("relay-bench.motor.nothing-arrives-motor-relays"), feeds), "fed": amps},
        "blower",
        V,
        caution=say("relay-bench.motor.live-meter-leads-alone"),
    )


def _fed(evidence: Evidence) -> tuple[str, Said] | None:
    taken, blower = _newest(evidence, "blower", V, fan=True), evidence.unit.blower
    if taken is None or blower is None:
        return None
    rated = evidence.unit.circuit_by_id[blower.circuit].rated_volts
    volts = taken.reading.value
    return ("fed" if volts >= FED_SHARE * rated else "none"), say(
        "relay-bench.motor.of", volts=figure(volts, "V"), rated=figure(rated, "V")
    )


def _amps(evidence: Evidence) -> tuple[str, Said] | None:
    taken, blower = _newest(evidence, "blower", A, fan=True), evidence.unit.blower
    if taken is None or blower is None:
        return None
    amps = taken.reading.value
    full = blower.fla or blower.running_amps
    said = figure(amps, "A") + (say("relay-bench.motor.full-load", full=figure(full, "A")) if full else "")
    if amps < blower.still_below_amps:
        return "none", said
    hums = _felt(evidence, "hums", "silent") == "hums"
    stalled = hums or (full is not None and amps > STALLED_MULTIPLE * full)
    return ("stalled" if stalled else "runs"), said


def _by_hand(evidence: Evidence) -> tuple[str, Said] | None:
    word = _felt(evidence, "spins", "stiff", "play")
    if word is None:
        return None
    return {"spins": "free", "stiff": "stiff", "play": "play"}[word], say("relay-bench.motor.hand")


def _capacitor(evidence: Evidence) -> tuple[str, Said] | None:
    blower, found = evidence.unit.blower, microfarads(evidence)
    if blower is None or found is None or blower.capacitor_uf is None:
        return None
    weak = 1 - found[0] / blower.capacitor_uf > th.CAPACITOR_WEAK
    said = say(
        "relay-bench.motor.marked",
        found=figure(found[0], "µF"),
        found_2=found[2],
        capacitor_uf=figure(blower.capacitor_uf, "µF"),
    )
    return ("weak" if weak else "good"), said


def _felt(evidence: Evidence, *words: str) -> str | None:
    """The newest of these words since the motor was mended."""
    said = [
        e.what
        for e in evidence.visit.of_kind(Felt)
        if e.what in words and not evidence.mended_since("blower", e.t_s)
    ]
    return said[-1] if said else None


def _stops_not(unit: Unit) -> Question:
    relay = unit.relay
    direct = Leaf(say("relay-bench.motor.neither-wire-relay-feeds"))
    if relay is None:
        return _running(direct)
    tied = unit.blower is not None and unit.blower.interlock.kind == "nc-contact"
    heat_side = Leaf(
        say("relay-bench.motor.fed-through-normally-closed"),
        unit.blower.interlock.tap or relay.id if unit.blower else relay.id,
    )
    nc = Question(
        say("relay-bench.motor.nc-amps"),
        say("relay-bench.motor.amps-wire-normally-closed"),
        _flows(f"{relay.id}.nc"),
        {"yes": heat_side, "no": direct},
        f"{relay.id}.nc",
        A,
    )
    called = Question(
        say("relay-bench.motor.fan-call"),
        say("relay-bench.motor.volts-from-c-nothing", call=relay.call),
        _call_there(relay.call),
        {
            "yes": Leaf(say("relay-bench.motor.there-although-nothing-asks", call=relay.call), relay.call),
            "no": Leaf(say("relay-bench.motor.no-call-normally-open"), relay.id),
        },
        relay.call,
        V,
    )
    no = Question(
        say("relay-bench.motor.no-amps"),
        say("relay-bench.motor.amps-wire-normally-open"),
        _flows(f"{relay.id}.no"),
        {"yes": called, "no": nc if tied else direct},
        f"{relay.id}.no",
        A,
    )
    return _running(no)


def _running(then: Question | Leaf) -> Question:
    return Question(
        say("relay-bench.motor.runs-2"),
        say("relay-bench.motor.amps-blower-nothing-called"),
        _flows("blower"),
        {"yes": then, "no": Leaf(say("relay-bench.motor.stands-nothing-called"), finding=False)},
        "blower",
        A,
    )


def _flows(point: str) -> Callable[[Evidence], tuple[str, Said] | None]:
    def decide(evidence: Evidence) -> tuple[str, Said] | None:
        taken, blower = _newest(evidence, point, A, fan=False), evidence.unit.blower
        if taken is None or blower is None:
            return None
        amps = taken.reading.value
        return ("yes" if amps >= blower.still_below_amps else "no"), figure(amps, "A")

    return decide


def _call_there(call: str) -> Callable[[Evidence], tuple[str, Said] | None]:
    def decide(evidence: Evidence) -> tuple[str, Said] | None:
        taken = _newest(evidence, call, V, fan=False)
        if taken is None:
            return None
        rated = evidence.unit.control_power.volts
        volts = taken.reading.value
        return ("yes" if volts >= rated / 2 else "no"), figure(volts, "V")

    return decide


def leaves(trunk: Question | Leaf) -> Iterator[Leaf]:
    if isinstance(trunk, Leaf):
        yield trunk
        return
    for branch in trunk.branches.values():
        yield from leaves(branch)
