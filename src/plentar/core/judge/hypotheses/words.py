"""What each fault is called, what to do about it, and what to look at around it."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.circuit.faults import Fault
from plentar.core.said import Said, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit


@dataclass(frozen=True, slots=True)
class Words:
    """``is_so`` follows the part's name; ``do`` and ``around`` are whole sentences."""

    is_so: Said
    do: Said
    around: Said


_LOOK_JOINTS = say("judge.hypotheses.words.look-spades-insulation-beside")
_WHY_HOT = say("judge.hypotheses.words.ask-what-got-hot")
_SWITCH = say("judge.hypotheses.words.replace-device-same-number")
_COIL = say("judge.hypotheses.words.replace-device-like-like")
_SHORT = say("judge.hypotheses.words.find-short-before-new")
_AIR = say("judge.hypotheses.words.filter-coil-wheel-speed")
_FEED = say("judge.hypotheses.words.breakers-lugs-feeders-off")
_ALWAYS = say("judge.hypotheses.words.lift-wire-off-terminal")
_RELAY = say("judge.hypotheses.words.replace-relay-one-same")
_THERMOSTAT = say("judge.hypotheses.words.jumper-r-terminal-board")

_BY_MODE = {
    "stuck-open": Words(say("judge.hypotheses.words.does-not-close"), _SWITCH, _LOOK_JOINTS),
    "stuck-closed": Words(say("judge.hypotheses.words.welded-closed"), _SWITCH, _LOOK_JOINTS),
    "burnt": Words(say("judge.hypotheses.words.has-burnt-contacts"), _SWITCH, _LOOK_JOINTS),
    "slow": Words(
        say("judge.hypotheses.words.acts-late"), _SWITCH, say("judge.hypotheses.words.check-coil-volts-cold")
    ),
    "coil-open": Words(
        say("judge.hypotheses.words.has-open-coil"), _COIL, say("judge.hypotheses.words.check-plug-spades")
    ),
    "coil-shorted": Words(say("judge.hypotheses.words.has-shorted-coil"), _COIL, _SHORT),
    "no-rectifier-output": Words(
        say("judge.hypotheses.words.gets-no-dc-from"), _COIL, say("judge.hypotheses.words.check-plug")
    ),
    "high-resistance": Words(
        say("judge.hypotheses.words.draws-too-little"),
        say("judge.hypotheses.words.replace-element"),
        _LOOK_JOINTS,
    ),
    "low-resistance": Words(
        say("judge.hypotheses.words.draws-too-much"),
        say("judge.hypotheses.words.replace-element-one-plates"),
        say("judge.hypotheses.words.check-wire-breaker-what"),
    ),
    "grounded": Words(
        say("judge.hypotheses.words.shorted-ground-cabinet"),
        say("judge.hypotheses.words.leave-breaker-off-replace"),
        say("judge.hypotheses.words.look-sagging-coil-broken"),
    ),
    "weak": Words(
        say("judge.hypotheses.words.opens-too-soon"),
        say("judge.hypotheses.words.replace-limit-one-same"),
        _AIR,
    ),
    "low": Words(
        say("judge.hypotheses.words.low"), _AIR, say("judge.hypotheses.words.read-temperature-rise-again")
    ),
    "no-supply": Words(
        say("judge.hypotheses.words.has-no-supply"),
        say("judge.hypotheses.words.trace-back-disconnect-breaker"),
        say("judge.hypotheses.words.ask-why-went-off"),
    ),
    "loose": Words(say("judge.hypotheses.words.has-burnt-or-loose"), _FEED, _LOOK_JOINTS),
    "low-volts": Words(
        say("judge.hypotheses.words.has-low-volts"),
        say("judge.hypotheses.words.refer-utility-or-electrician"),
        say("judge.hypotheses.words.read-heat-off"),
    ),
    "wrong-tap": Words(
        say("judge.hypotheses.words.tap-higher-service"),
        say("judge.hypotheses.words.move-primary-tap-service"),
        say("judge.hypotheses.words.read-r-c-again"),
    ),
    "dead": Words(
        say("judge.hypotheses.words.gives-nothing"), say("judge.hypotheses.words.replace-transformer"), _SHORT
    ),
    "no-call": Words(
        say("judge.hypotheses.words.gets-no-call"),
        _THERMOSTAT,
        say("judge.hypotheses.words.check-wire-splices-settings"),
    ),
    "always": Words(
        say("judge.hypotheses.words.has-24-v-nobody"),
        _ALWAYS,
        say("judge.hypotheses.words.look-shorted-or-misplaced"),
    ),
    "with-Y": Words(
        say("judge.hypotheses.words.called-whenever-y-wires"),
        say("judge.hypotheses.words.put-thermostats-wires-right"),
        say("judge.hypotheses.words.call-y-alone-once"),
    ),
    "with-G": Words(
        say("judge.hypotheses.words.called-whenever-g-wires"),
        say("judge.hypotheses.words.put-thermostats-wires-right-2"),
        say("judge.hypotheses.words.call-g-alone-once"),
    ),
    "bridged": Words(
        say("judge.hypotheses.words.bridged-never-opens"),
        say("judge.hypotheses.words.take-bridge-off-power"),
        _AIR,
    ),
    "to-ground": Words(
        say("judge.hypotheses.words.shorted-ground-cabinet"),
        say("judge.hypotheses.words.replace-or-reroute-thermostat"),
        _SHORT,
    ),
    "no-stuck-open": Words(say("judge.hypotheses.words.does-not-make-call"), _RELAY, _LOOK_JOINTS),
    "no-welded": Words(
        say("judge.hypotheses.words.has-normally-open-set"),
        _RELAY,
        say("judge.hypotheses.words.set-was-made-motor"),
    ),
    "nc-stuck-open": Words(say("judge.hypotheses.words.has-normally-closed-contact"), _RELAY, _LOOK_JOINTS),
    "nc-welded": Words(
        say("judge.hypotheses.words.has-normally-closed-set"),
        _RELAY,
        say("judge.hypotheses.words.fed-element-through-motor"),
    ),
    "locked": Words(
        say("judge.hypotheses.words.hums-does-not-turn"),
        say("judge.hypotheses.words.breakers-off-locked-proved"),
        say("judge.hypotheses.words.turn-hand-before-any"),
    ),
    "weak-capacitor": Words(
        say("judge.hypotheses.words.has-weak-capacitor"),
        say("judge.hypotheses.words.replace-capacitor-marking"),
        say("judge.hypotheses.words.discharge-through-resistor-first"),
    ),
}
#: Where the part says more than the mode.
_BY_PART = {
    ("device", "stuck-open"): Words(
        say("judge.hypotheses.words.closes-none-switches"), _SWITCH, _LOOK_JOINTS
    ),
    ("device", "stuck-closed"): Words(
        say("judge.hypotheses.words.holds-all-switches-closed"), _SWITCH, _LOOK_JOINTS
    ),
    ("tie", "open"): Words(
        say("judge.hypotheses.words.off-or-broken-heat"),
        say("judge.hypotheses.words.land-or-renew-wire"),
        say("judge.hypotheses.words.then-heat-alone-blower"),
    ),
    ("link", "open"): Words(
        say("judge.hypotheses.words.has-melted"),
        say("judge.hypotheses.words.replace-link-never-bridge"),
        _WHY_HOT,
    ),
    ("limit", "open"): Words(
        say("judge.hypotheses.words.stays-open"),
        say("judge.hypotheses.words.replace-limit-never-bridge"),
        _WHY_HOT,
    ),
    ("element", "open"): Words(
        say("judge.hypotheses.words.broken"), say("judge.hypotheses.words.replace-element"), _LOOK_JOINTS
    ),
    ("wire", "open"): Words(
        say("judge.hypotheses.words.has-open-wire"),
        say("judge.hypotheses.words.find-joint-crimp-new"),
        _LOOK_JOINTS,
    ),
    ("fuse", "open"): Words(
        say("judge.hypotheses.words.open"), _SHORT, say("judge.hypotheses.words.call-each-terminal-turn")
    ),
    ("blower", "open"): Words(
        say("judge.hypotheses.words.dead"),
        say("judge.hypotheses.words.check-plug-thermal-protector"),
        say("judge.hypotheses.words.heat-stays-off-without"),
    ),
    ("circuit", "open"): Words(say("judge.hypotheses.words.open-between-breaker-lugs"), _FEED, _LOOK_JOINTS),
    ("transformer", "weak"): Words(
        say("judge.hypotheses.words.weak"),
        say("judge.hypotheses.words.replace-transformer"),
        say("judge.hypotheses.words.add-up-what-hangs"),
    ),
}


def words_of(fault: Fault) -> Words:
    return _BY_PART.get((fault.kind.of, fault.mode)) or _BY_MODE[fault.mode]


def sentence(unit: Unit, fault: Fault) -> Said:
    """A fault as a statement: the part, and what is wrong with it."""
    return say("fault", part=said_of(unit, fault.component), is_so=words_of(fault).is_so)
