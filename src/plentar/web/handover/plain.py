"""What an owner reads: parts, findings, work and how the unit is left, in plain words that a
catalogue translates. A finding that has no words of its own here says so in general ones."""

from __future__ import annotations

from collections.abc import Mapping

from plentar.core.judgement import FindingCode, Level
from plentar.core.said import say
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import STAGE_OFF, STAGE_ON, Did, Event, Replaced
from plentar.words import phrase

#: How the unit is left.
LEFT: Mapping[str, object] = {
    "in-service": say("owner.unit-service"),
    "left-off": say("owner.unit-switched-off-breaker"),
    "heat-disabled": say("owner.electric-heat-disabled-what"),
}
#: Why somebody came.
CAME: Mapping[str, object] = {
    "not-enough-heat": say("owner.not-enough-heat"),
    "no-heat": say("owner.no-heat-all"),
    "heat-will-not-stop": say("owner.heat-would-not-stop"),
    "heat-in-cooling": say("owner.heat-while-cooling-or"),
    "blower-will-not-run": say("owner.fan-would-not-run"),
    "blower-will-not-stop": say("owner.fan-would-not-stop"),
    "control-fuse-blows": say("owner.fuse-blows-or-thermostat"),
    "breaker-trips-or-burnt": say("owner.breaker-trips-smell-or"),
    "clicking": say("owner.clicking-while-heating"),
    "slow-to-start": say("owner.heat-starts-very-slowly"),
    "no-power": say("owner.no-power"),
    "check-up": say("owner.check-before-season"),
}
#: What was found, by its code. ``{part}`` is the part as below.
FOUND: Mapping[FindingCode, object] = {
    FindingCode.SUPPLY_OUT_OF_RANGE: say("owner.voltage-feeds-unit-outside"),
    FindingCode.SUPPLY_SAG: say("owner.voltage-drops-too-far"),
    FindingCode.LEG_UNBALANCE: say("owner.two-halves-supply-stand"),
    FindingCode.LIVE_WHEN_OFF: say("owner.part-unit-was-live"),
    FindingCode.GROUND_CURRENT: say("owner.current-leaks-through-units"),
    FindingCode.LIMIT_BRIDGED: say("owner.safety-switch-was-bridged"),
    FindingCode.JOINT_HEAT: "owner.wire-connection-gets-warm",
    FindingCode.BREAKER_OVER_PLATE: "owner.breaker-larger-than-unit",
    FindingCode.BREAKER_OVER_CONDUCTOR: "owner.breaker-too-large-wire",
    FindingCode.BREAKER_UNDER_LOAD: "owner.breaker-too-small-what",
    FindingCode.CONDUCTOR_UNDER_LOAD: "owner.wire-too-small-what",
    FindingCode.ELEMENTS_OVER_48: say("owner.so-much-heat-has"),
    FindingCode.OVER_80_PERCENT: "owner.breaker-loaded-close-what",
    FindingCode.VOLTAGE_DROP: say("owner.supply-wire-long-or"),
    FindingCode.NO_BLOWER_TIE: say("owner.nothing-makes-fan-run"),
    FindingCode.RUN_ON_SHORT: say("owner.fan-stops-before-heat"),
    FindingCode.OVER_VOLTS: say("owner.voltage-higher-than-heating"),
    FindingCode.PRIMARY_TAP: say("owner.control-transformer-wired-another"),
    FindingCode.HEAT_WITHOUT_BLOWER: say("owner.heat-ran-while-fan"),
    FindingCode.DRAW_WITHOUT_CALL: "owner.heated-although-thermostat-did",
    FindingCode.ELEMENT_TO_GROUND: "owner.leaks-current-cabinet-danger",
    FindingCode.ELEMENT_LOW: "owner.gives-less-heat-than",
    FindingCode.ELEMENT_HIGH: "owner.draws-more-current-than",
    FindingCode.ELEMENT_DEAD: "owner.gave-no-heat",
    FindingCode.SLOW_STAGE: "owner.came-late",
    FindingCode.SLOW_OFF: "owner.went-off-late",
    FindingCode.HOUSE_TIME: "owner.takes-time",
    FindingCode.LIMIT_CYCLING: say("owner.heat-was-cut-off"),
    FindingCode.LOW_AIRFLOW: say("owner.too-little-air-passes"),
    FindingCode.HIGH_LEAVING_AIR: say("owner.air-leaves-unit-too"),
    FindingCode.CONTROL_VOLTS_LOW: say("owner.control-voltage-low"),
    FindingCode.CONTROL_OVERLOAD: say("owner.control-transformer-or-fuse"),
    FindingCode.COIL_OHMS: "owner.coil-not-should",
    FindingCode.CONTACT_RATING: "owner.contacts-too-small-what",
    FindingCode.CONTACT_SET: "owner.contact-bad",
    FindingCode.ERRATIC_START: "owner.does-not-start-every",
    FindingCode.RELAY_WIRING: "owner.wired-wrongly",
    FindingCode.BLOWER_MOTOR: say("owner.fans-motor-not-should"),
    FindingCode.CAPACITOR_WEAK: say("owner.capacitor-fans-motor-weak"),
    FindingCode.BLOWER_AMPS_HIGH: say("owner.fans-motor-draws-more"),
    FindingCode.WHOLE_UNIT: say("owner.something-about-unit-needs"),
}
#: The same where it is only to be watched: it may be so.
MAY_BE: Mapping[FindingCode, object] = {
    FindingCode.RUN_ON_SHORT: say("owner.fan-may-stop-little"),
    FindingCode.ELEMENTS_OVER_48: say("owner.whether-so-much-heat"),
    FindingCode.SUPPLY_SAG: say("owner.voltage-drops-somewhat-when"),
    FindingCode.HIGH_LEAVING_AIR: say("owner.air-leaves-unit-rather"),
}
#: What the look at the whole unit goes over.
LOOKED: Mapping[str, object] = {
    "filter": say("owner.filter"),
    "indoor-coil": say("owner.indoor-coil"),
    "wheel": say("owner.fan-wheel"),
    "speed-tap": say("owner.fan-speed"),
    "capacitor": say("owner.fan-capacitor"),
    "strands": say("owner.loose-wire-strands"),
    "insulation": say("owner.wire-insulation"),
    "spades": say("owner.wire-connectors"),
    "lugs": say("owner.main-terminals"),
    "panel": say("owner.electric-panel-disconnect"),
}
POOR, BURNT = "owner.needs-attention", "owner.burnt-or-melted-danger"
OTHERWISE = "owner.something-needs-attention"
#: How pressing a finding is.
PRESSING: Mapping[Level, object] = {
    Level.STOP_NOW: say("owner.danger"),
    Level.REPAIR: say("owner.repair"),
    Level.WATCH: say("owner.watch"),
    Level.OK: say("owner.order"),
}
#: What a careful round would still read.
UNREAD: Mapping[str, object] = {
    "off": say("owner.whether-heat-switches-off"),
    "to-ground": say("owner.whether-heating-element-leaks"),
    "tie": say("owner.whether-fan-comes-heat"),
    "joint": say("owner.connections-supply-wire"),
}
WHEN: Mapping[str, object] = {
    "now": say("owner.now"),
    "soon": say("owner.soon"),
    "offer": say("owner.if-you-like"),
}
#: What was done to a part.
DONE: Mapping[str, object] = {
    "remade": "owner.connection-made-anew",
    "tightened": "owner.tightened",
    "renewed": "owner.renewed",
    "reset": "owner.reset",
    "switched-on": "owner.switched",
    "cleaned": "owner.cleaned",
    "moved": "owner.wire-put-right-place",
    STAGE_OFF: "owner.left-disconnected",
    STAGE_ON: "owner.connected-again",
    "replaced": "owner.replaced-new-one",
}
_KINDS: Mapping[str, object] = {
    "element": say("owner.heating-element"),
    "sequencer": say("owner.heat-sequencer"),
    "contactor": say("owner.contactor"),
    "relay-ac": say("owner.heat-relay"),
    "relay-dc": say("owner.heat-relay"),
    "relay": say("owner.fan-relay"),
    "limit": say("owner.safety-limit"),
    "link": say("owner.safety-link"),
    "circuit": say("owner.supply"),
    "wire": say("owner.wire"),
}
_FIXED: Mapping[str, object] = {
    "blower": say("owner.fan"),
    "capacitor": say("owner.fans-capacitor"),
    "transformer": say("owner.control-transformer"),
    "control-fuse": say("owner.control-fuse"),
    "airflow": say("owner.filter-air-path"),
    "R": say("owner.control-wiring"),
}


def words(said: object, **values: str) -> str:
    """A text in the language that is spoken, its places filled: a code where it has places."""
    return phrase(said, **values) if isinstance(said, str) else str(said)


def part_name(unit: Unit, component: str) -> str:
    """A part as an owner reads it, its mark on the drawing behind: “heating element E1”."""
    owner = component.removesuffix(".line").removesuffix(".wire").removesuffix(".supply")
    if owner in _FIXED:
        return str(_FIXED[owner])
    kind = _kind(unit, owner)
    if kind is None:
        return component or phrase("owner.unit")
    return f"{kind} {owner}"


def _kind(unit: Unit, owner: str) -> object | None:
    if owner in unit.element_by_id:
        return _KINDS["element"]
    if owner in unit.circuit_by_id or owner.split(".", maxsplit=1)[0] in unit.circuit_by_id:
        return _KINDS["circuit"]
    control = unit.control_by_id.get(owner) or unit.control_of_switch.get(owner)
    if control is not None:
        return _KINDS[control.type]
    if unit.relay is not None and owner.split(".", maxsplit=1)[0] == unit.relay.id:
        return _KINDS["relay"]
    if owner in {limit.id for limit in unit.limits}:
        return _KINDS["limit"]
    return _KINDS["link"] if owner in unit.part_by_id else None


def found_words(unit: Unit, code: FindingCode, component: str, *, surely: bool = True) -> str:
    """A finding as an owner reads it; not ``surely`` where it is only to be watched."""
    if code is FindingCode.WHOLE_UNIT and component in LOOKED:
        return words(POOR if not surely else BURNT, part=str(LOOKED[component]))
    part = part_name(unit, component)
    known = FOUND if surely else {**FOUND, **MAY_BE}
    said = words(known.get(code, OTHERWISE), part=part)
    return said[:1].upper() + said[1:]


def done_words(unit: Unit, event: Event) -> str:
    """What was done, as an owner reads it; empty for what is no work to tell of."""
    if isinstance(event, Replaced):
        verb, part = "replaced", event.component
    elif isinstance(event, Did) and event.verb in DONE:
        verb, part = event.verb, event.part
    else:
        return ""
    said = words(DONE[verb], part=part_name(unit, part))
    return said[:1].upper() + said[1:]
