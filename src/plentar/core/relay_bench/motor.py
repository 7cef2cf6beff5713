"""The blower's motor as a small tree: what to read next, and what it comes to. Two trunks: it does not
start, and it will not stop. Each answer is a reading or what a hand and an ear said; nothing is asked
twice, and nothing is concluded that was not read.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from plentar.core.air.capacitor import microfarads
from plentar.core.quantity import Quantity, show
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

    text: str
    component: str = "blower"
    finding: bool = True


@dataclass(frozen=True, slots=True)
class Question:
    """What to find out, how (a point and its quantity, or words to choose from), and where each
    answer leads."""

    name: str
    ask: str
    decide: Callable[[Evidence], tuple[str, str] | None]
    branches: Mapping[str, Question | Leaf]
    point: str = ""
    quantity: Quantity | None = None
    felt: tuple[str, ...] = ()
    caution: str = ""


@dataclass(frozen=True, slots=True)
class TreeStep:
    """A question that has been answered: which branch was taken, and what it stands on."""

    question: Question
    answer: str
    because: str


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
    return of_plate(unit, "trunks of the motor", lambda: _trunks(unit))


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
        "capacitor",
        "microfarads of the run capacitor, proved dead and discharged",
        _capacitor,
        {
            "weak": Leaf("the run capacitor does not start it: replace it, then try again", "capacitor"),
            "good": Leaf("capacitor good and rotor free: its start winding is open, the motor is replaced"),
        },
        "capacitor",
        UF,
        caution="proved dead; discharge it through a resistor first",
    )
    free = capacitor if psc else Leaf("free by hand and fed, and it does not turn: its module or winding")
    hand = Question(
        "hand",
        "by hand, proved dead: does the wheel spin?",
        _by_hand,
        {
            "stiff": Leaf("it is stiff by hand: bearing or wheel seized, the motor is replaced"),
            "play": Leaf("bearing or hub has play: the wheel drags, hub or motor is replaced"),
            "free": free,
        },
        felt=("spins", "stiff", "play"),
        caution="breakers off, locked, proved dead before a hand goes in",
    )
    silent = Leaf(
        "fed, and it draws nothing: a winding or its thermal protector is open. Hot: let it cool and try"
        " again, and look for what made it hot"
        if psc
        else "fed, and it draws nothing: its module is dead, or nothing tells it to run"
    )
    amps = Question(
        "amps",
        "amps of the blower with the fan called",
        _amps,
        {"none": silent, "stalled": hand, "runs": Leaf("it runs", finding=False)},
        "blower",
        A,
    )
    return Question(
        "volts",
        "volts at the motor with the fan called",
        _fed,
        {
            "none": Leaf(
                "nothing arrives at the motor: its relay’s contacts, its wire, the speed tap", feeds
            ),
            "fed": amps,
        },
        "blower",
        V,
        caution="live: meter leads alone",
    )


def _fed(evidence: Evidence) -> tuple[str, str] | None:
    taken, blower = _newest(evidence, "blower", V, fan=True), evidence.unit.blower
    if taken is None or blower is None:
        return None
    rated = evidence.unit.circuit_by_id[blower.circuit].rated_volts
    volts = taken.reading.value
    return ("fed" if volts >= FED_SHARE * rated else "none"), f"{show(volts, 'V')} of {show(rated, 'V')}"


def _amps(evidence: Evidence) -> tuple[str, str] | None:
    taken, blower = _newest(evidence, "blower", A, fan=True), evidence.unit.blower
    if taken is None or blower is None:
        return None
    amps = taken.reading.value
    full = blower.fla or blower.running_amps
    said = f"{show(amps, 'A')}" + (f", full-load {show(full, 'A')}" if full else "")
    if amps < blower.still_below_amps:
        return "none", said
    hums = _felt(evidence, "hums", "silent") == "hums"
    stalled = hums or (full is not None and amps > STALLED_MULTIPLE * full)
    return ("stalled" if stalled else "runs"), said


def _by_hand(evidence: Evidence) -> tuple[str, str] | None:
    word = _felt(evidence, "spins", "stiff", "play")
    if word is None:
        return None
    return {"spins": "free", "stiff": "stiff", "play": "play"}[word], "by hand"


def _capacitor(evidence: Evidence) -> tuple[str, str] | None:
    blower, found = evidence.unit.blower, microfarads(evidence)
    if blower is None or found is None or blower.capacitor_uf is None:
        return None
    weak = 1 - found[0] / blower.capacitor_uf > th.CAPACITOR_WEAK
    said = f"{show(found[0], 'µF')} {found[2]}, marked {show(blower.capacitor_uf, 'µF')}"
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
    direct = Leaf("neither wire of the relay feeds it: a wire goes to it past the relay, or a second relay")
    if relay is None:
        return _running(direct)
    tied = unit.blower is not None and unit.blower.interlock.kind == "nc-contact"
    heat_side = Leaf(
        "fed through normally-closed: the heat side is live. Its switch is welded or still in its"
        " off time: clamp its strip",
        unit.blower.interlock.tap or relay.id if unit.blower else relay.id,
    )
    nc = Question(
        "nc amps",
        "amps in the wire of normally-closed, nothing called",
        _flows(f"{relay.id}.nc"),
        {"yes": heat_side, "no": direct},
        f"{relay.id}.nc",
        A,
    )
    called = Question(
        "fan call",
        f"volts from {relay.call} to C, nothing called",
        _call_there(relay.call),
        {
            "yes": Leaf(
                f"{relay.call} is there although nothing asks: thermostat, wire or board", relay.call
            ),
            "no": Leaf(
                "no call, and normally-open feeds it: its contact is welded, the relay is replaced", relay.id
            ),
        },
        relay.call,
        V,
    )
    no = Question(
        "no amps",
        "amps in the wire of normally-open, nothing called",
        _flows(f"{relay.id}.no"),
        {"yes": called, "no": nc if tied else direct},
        f"{relay.id}.no",
        A,
    )
    return _running(no)


def _running(then: Question | Leaf) -> Question:
    return Question(
        "runs on",
        "amps of the blower with nothing called, past its off time",
        _flows("blower"),
        {"yes": then, "no": Leaf("it stands with nothing called", finding=False)},
        "blower",
        A,
    )


def _flows(point: str) -> Callable[[Evidence], tuple[str, str] | None]:
    def decide(evidence: Evidence) -> tuple[str, str] | None:
        taken, blower = _newest(evidence, point, A, fan=False), evidence.unit.blower
        if taken is None or blower is None:
            return None
        amps = taken.reading.value
        return ("yes" if amps >= blower.still_below_amps else "no"), show(amps, "A")

    return decide


def _call_there(call: str) -> Callable[[Evidence], tuple[str, str] | None]:
    def decide(evidence: Evidence) -> tuple[str, str] | None:
        taken = _newest(evidence, call, V, fan=False)
        if taken is None:
            return None
        rated = evidence.unit.control_power.volts
        volts = taken.reading.value
        return ("yes" if volts >= rated / 2 else "no"), show(volts, "V")

    return decide


def leaves(trunk: Question | Leaf) -> Iterator[Leaf]:
    if isinstance(trunk, Leaf):
        yield trunk
        return
    for branch in trunk.branches.values():
        yield from leaves(branch)
