"""How somebody is coming on: which kinds of fault they have met, when each is worth meeting once more, and what they
do as a matter of habit. Counted from what was done; it is no grade."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime

from fsrs import Card, Rating, Scheduler

from plentar.core.door import judge_reading
from plentar.core.expected import Word
from plentar.core.quantity import Quantity
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.visit.events import Reading
from plentar.core.visit.state import all_on_s
from plentar.practice.at_unit import Act
from plentar.practice.bench import Bench
from plentar.practice.debrief import named_right
from plentar.practice.own_acts import CLAMP, MISSET, MISSETS
from plentar.practice.scene import SOUND

TWO_WIRES = "two-wires"


@dataclass(frozen=True, slots=True)
class Ended:
    """A practice that is over: how it was left, what was named, and whether it was led by hand."""

    bench: Bench
    named: Sequence[str]
    hints: int
    guided: bool
    at: datetime

    @property
    def kinds(self) -> frozenset[str]:
        """The kinds of fault that were in it, by their mode."""
        return frozenset(fault.partition(":")[2] for fault in self.bench.scene.faults) or frozenset({SOUND})

    @property
    def rating(self) -> Rating:
        """How well it went, as a scheduler of repetitions asks it."""
        if not named_right(self.bench, self.named):
            return Rating.Again
        helped = self.guided or self.hints > 0 or bool(self.bench.harms)
        return Rating.Hard if helped else Rating.Good


@dataclass(frozen=True, slots=True)
class Met:
    """A kind of fault: how often it was met and found, and when it is worth meeting once more."""

    kind: str
    met: int
    found: int
    again_at: datetime


def met(ended: Iterable[Ended]) -> list[Met]:
    """Every kind that was met, the one that is wanted soonest first."""
    scheduler = Scheduler(enable_fuzzing=False)
    cards: dict[str, Card] = {}
    times, found = Counter[str](), Counter[str]()
    for one in sorted(ended, key=lambda one: one.at):
        for kind in one.kinds:
            before = cards.get(kind) or Card(card_id=len(cards) + 1, due=one.at)
            cards[kind], _ = scheduler.review_card(before, one.rating, one.at)
            times[kind] += 1
            found[kind] += one.rating is not Rating.Again
    every = [Met(kind, times[kind], found[kind], card.due) for kind, card in cards.items()]
    return sorted(every, key=lambda one: (one.again_at, one.kind))


@dataclass(frozen=True, slots=True)
class Skill:
    """A habit: in how many practices there was occasion for it, and in how many it was done."""

    code: str
    done: int
    occasions: int


def skills(ended: Iterable[Ended]) -> list[Skill]:
    """Each habit over all practices, in a fixed order; those without occasion are left out."""
    done, occasions = Counter[str](), Counter[str]()
    for one in ended:
        for code, was in _habits(one):
            occasions[code] += 1
            done[code] += was
    return [Skill(code, done[code], count) for code, count in occasions.items()]


def _habits(one: Ended) -> Iterator[tuple[str, bool]]:
    """Each habit that one practice had an occasion for, and whether it was kept."""
    bench, acts = one.bench, one.bench.acts
    reads = [(n, act) for n, act in enumerate(acts) if "read" in act]
    ohms = [n for n, act in reads if act["read"] == Quantity.OHMS]
    if ohms or any(harm.code == "ohms-live" for harm in bench.harms):
        yield "proves-dead", not any(harm.code == "ohms-live" for harm in bench.harms)
        across = [n for n, act in reads if act["read"] in (Quantity.AMPS, Quantity.VOLTS)]
        yield "across-before-ohms", bool(across) and (not ohms or across[0] < ohms[0])
    heated = [act for _, act in reads if bench.evidence.state_at(act["t"]).calls & HEAT_CALLS]
    if heated:
        yield "waits-out-windows", all(_waited(bench, act["t"]) for act in heated)
    opened = [act for act in acts if act.get("power") == "off"]
    if opened:
        yield "ends-the-call-first", all(not bench.evidence.state_at(a["t"] - 0.1).calls for a in opened)
    limits = {limit.id for limit in bench.unit.limits}
    doubted = [
        n for n, act in enumerate(acts) if {act.get("at"), act.get("part"), act.get("replaced")} & limits
    ]
    if doubted:
        air = [n for n, act in reads if act["read"] == Quantity.TEMP_F]
        yield "air-before-limits", bool(air) and air[0] < doubted[0]
    called = [act for act in acts if "calls" in act and set(act["calls"]) & HEAT_CALLS]
    if called:
        yield "never-heat-alone", not any(harm.code == "heat-alone" for harm in bench.harms)
    yield from _of_the_meter(bench)
    yield from _before_the_motor(one)
    devices = [act for act in acts if act.get("replaced") in bench.unit.device_by_id]
    if devices:
        yield "moves-wires-one-by-one", not bench.lost
        yield "wires-where-they-belong", not bench.astray


def _of_the_meter(bench: Bench) -> Iterator[tuple[str, bool]]:
    """One wire in the jaw; and what can't be, or says nothing by itself, is read once more."""
    acts = bench.acts
    wrong = [n for n, act in enumerate(acts) if MISSET in act]
    if any(act.get("read") == Quantity.AMPS or CLAMP in act or act.get(MISSET) == TWO_WIRES for act in acts):
        yield "clamps-one-wire", not any(acts[n][MISSET] == TWO_WIRES for n in wrong)
    first = {acts[n]["at"]: n for n in reversed(list(_unclear(bench)))}
    if wrong or first:
        reads = [(n, act["at"]) for n, act in enumerate(acts) if "read" in act]
        again = all(any(at == here and n > since for n, here in reads) for at, since in first.items())
        yield "reads-it-again", again and all(_read_after(acts, n) for n in wrong)


def _unclear(bench: Bench) -> Iterator[int]:
    """The acts that are readings whose verdict is open: between what is closed and what is open, or between the line
    and a ghost."""
    for number, (_, event) in enumerate(bench.done):
        if isinstance(event, Reading):
            said = judge_reading(bench.evidence, bench.evidence.take_then(event)).verdict
            if said.word is Word.UNCLEAR:
                yield number


def _read_after(acts: Sequence[Act], number: int) -> bool:
    wrong = acts[number]
    wanted = MISSETS[wrong[MISSET]].instead_of
    return any(act.get("read") == wanted and act["at"] == wrong["at"] for act in acts[number + 1 :])


def _before_the_motor(one: Ended) -> Iterator[tuple[str, bool]]:
    """Whoever condemns the motor has read what feeds it: its own volts, the relay, the tie."""
    bench, relay = one.bench, one.bench.unit.relay
    replaced = [n for n, act in enumerate(bench.acts) if act.get("replaced") == "blower"]
    if not replaced and "blower" not in one.named:
        return
    until = replaced[0] if replaced else len(bench.acts)
    feeds = {"tie.wire"} | ({f"{relay.id}.no", f"{relay.id}.nc", f"{relay.id}.coil"} if relay else set())
    read = [act for act in bench.acts[:until] if "read" in act]
    own = any(act["at"] == "blower" and act["read"] == Quantity.VOLTS for act in read)
    yield "feed-before-the-motor", own or any(act["at"] in feeds for act in read)


def _waited(bench: Bench, t_s: float) -> bool:
    """Every window of the call was over when it was read."""
    since = bench.evidence.state_at(t_s).since_s
    begun = max((s for call, s in since.items() if call in HEAT_CALLS), default=t_s)
    return t_s - begun >= all_on_s(bench.unit)
