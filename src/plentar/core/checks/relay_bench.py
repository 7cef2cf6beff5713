"""What the relay bench found: sets of contacts, erratic starts, a relay's wiring, the motor."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.errors import BadInput
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.relay_bench.contacts import device_verdict, readings_of, repeats_of, rows_of, set_verdicts
from plentar.core.relay_bench.fitted import fitted
from plentar.core.relay_bench.motor import trunks, walk
from plentar.core.relay_bench.proof import Proof, Wrong, prove, prove_wiring
from plentar.core.relay_bench.wires import wires_of
from plentar.core.said import listed, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.of_plate import of_plate
from plentar.core.unit.parts import BlowerRelay
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import LEADS, Tested, Tried
from plentar.core.visit.evidence import Evidence

SETS, STARTS, WIRING, MOTOR = (
    say("checks.relay-bench.sets-contacts"),
    say("checks.relay-bench.starts"),
    say("checks.relay-bench.wiring-relay"),
    say("checks.relay-bench.motor"),
)
#: Wirings that hurt; the others only do not work.
HARM = frozenset(
    {
        Wrong.SHORT,
        Wrong.HEAT_ALWAYS,
        Wrong.HEAT_WITH_G,
        Wrong.NO_BLOWER_ON_HEAT,
        Wrong.RELAY_CARRIES_ELEMENT,
        Wrong.LINE_ON_COIL,
        Wrong.TWO_SPEEDS,
    }
)
#: What each comes to, as people say it.
WORDS = {
    Wrong.SHORT: say("checks.relay-bench.l1-meets-l2-nothing"),
    Wrong.HEAT_ALWAYS: say("checks.relay-bench.strips-heat-nothing-called"),
    Wrong.HEAT_WITH_G: say("checks.relay-bench.fans-call-brings-strips"),
    Wrong.NO_HEAT: say("checks.relay-bench.call-does-not-bring"),
    Wrong.NO_BLOWER_ON_G: say("checks.relay-bench.fans-call-does-not"),
    Wrong.NO_BLOWER_ON_HEAT: say("checks.relay-bench.heat-alone-does-not"),
    Wrong.BLOWER_ALWAYS: say("checks.relay-bench.blower-runs-nothing-called"),
    Wrong.RELAY_CARRIES_ELEMENT: say("checks.relay-bench.strips-current-passes-contact"),
    Wrong.COIL_NOT_FED: say("checks.relay-bench.coil-not-between-one"),
    Wrong.LINE_ON_COIL: say("checks.relay-bench.line-volts-reach-24"),
    Wrong.TWO_SPEEDS: say("checks.relay-bench.two-speed-taps-fed"),
    Wrong.BACK_FEED: say("checks.relay-bench.heat-side-live-switch"),
    Wrong.OVER_RATING: say("checks.relay-bench.contact-carries-more-than"),
}


@check(SETS, FindingCode.CONTACT_SET)
def contact_sets(evidence: Evidence) -> Iterator[Result]:
    tested = {e.device for e in evidence.visit.of_kind(Tested) if e.pair != LEADS and not e.new}
    for name, device in evidence.unit.device_by_id.items():
        if name not in tested:
            yield NotJudged(SETS, name, say("checks.relay-bench.terminals-were-not-tested"))
            continue
        kind = fitted(evidence.unit, device)
        read = readings_of(evidence.unit, device, evidence.visit.events, new=False)
        rows = rows_of(kind, read)
        verdicts = set_verdicts(kind, rows)
        whole = device_verdict(verdicts)
        bad = [v for v in verdicts if v.state == "bad"]
        if not bad:
            yield Clear(name) if whole.state == "good" else NotJudged(SETS, name, whole.text)
            continue
        text = say(
            "checks.relay-bench.replace",
            name=said_of(evidence.unit, name),
            whole=whole.text,
            bad=listed((say("checks.relay-bench.set", v=v.name, v_2=v.text) for v in bad), ";"),
        )
        numbers = {"bad_sets": float(len(bad)), "sets": float(len(verdicts))}
        yield Finding(FindingCode.CONTACT_SET, Level.REPAIR, name, text, numbers, t_s=_newest(evidence, name))


def _newest(evidence: Evidence, device: str) -> float:
    times = (e.t_s for e in evidence.visit.events if isinstance(e, Tested | Tried) and e.device == device)
    return max(times, default=0.0)


@check(STARTS, FindingCode.ERRATIC_START)
def erratic_start(evidence: Evidence) -> Iterator[Result]:
    tried = {event.device for event in evidence.visit.of_kind(Tried)}
    for name in evidence.unit.device_by_id:
        found = repeats_of(evidence.visit.events, name) if name in tried else None
        if found is None:
            yield NotJudged(STARTS, name, say("checks.relay-bench.nobody-started-again-again"))
        elif not found.failed:
            yield Clear(name)
        else:
            numbers = {"starts": float(found.starts), "failed": float(found.failed)}
            yield Finding(
                FindingCode.ERRATIC_START,
                Level.REPAIR,
                name,
                say("checks.relay-bench.text", name=said_of(evidence.unit, name), found=found.text),
                numbers,
                t_s=_newest(evidence, name),
            )


@check(WIRING, FindingCode.RELAY_WIRING)
def relay_wiring(evidence: Evidence) -> Iterator[Result]:
    relay = evidence.unit.relay
    if relay is None:
        yield NotJudged(WIRING, "blower", say("checks.relay-bench.no-blower-relay-plate"))
        return
    proof = wiring_as_seen(evidence.unit)
    if proof is None:
        yield NotJudged(WIRING, relay.id, say("checks.relay-bench.nobody-has-looked-what"))
        return
    if proof.right:
        yield Clear(relay.id)
        return
    codes = (*proof.wrong, *proof.beside)
    level = Level.STOP_NOW if HARM & set(codes) else Level.REPAIR
    text = say(
        "checks.relay-bench.wired-wrong",
        relay=said_of(evidence.unit, relay.id),
        codes=listed((WORDS[code] for code in codes), ";"),
    )
    yield Finding(FindingCode.RELAY_WIRING, level, relay.id, text)


def wiring_as_seen(unit: Unit) -> Proof | None:
    """The proof of what somebody saw on the relay's terminals; None where nobody looked, or where
    it can't be run."""
    relay = unit.relay
    if relay is None or not (relay.wired or relay.wires):
        return None
    return of_plate(unit, "wiring", lambda: _as_seen(unit, relay))


def _as_seen(unit: Unit, relay: BlowerRelay) -> Proof | None:
    try:
        if not relay.wired:
            return prove(unit)
        ends = {t: tuple(w.to for w in wires) for t, wires in wires_of(unit, relay).items()}
        return prove_wiring(unit, relay, fitted(unit, relay), ends)
    except BadInput:
        return None


@check(MOTOR, FindingCode.BLOWER_MOTOR)
def blower_motor(evidence: Evidence) -> Iterator[Result]:
    ends = [walk(evidence, trunk) for trunk in trunks(evidence.unit).values()]
    found = [end.leaf for end in ends if end.leaf is not None]
    wrong = [leaf for leaf in found if leaf.finding]
    if not found:
        yield NotJudged(MOTOR, "blower", say("checks.relay-bench.motors-tree-was-not"))
    elif not wrong:
        yield Clear("blower")
    for leaf in wrong:
        yield Finding(FindingCode.BLOWER_MOTOR, Level.REPAIR, leaf.component, leaf.text)
