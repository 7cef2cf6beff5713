"""What an owner reads: parts, findings, work and how the unit is left, in plain words that a
catalogue translates. A finding that has no words of its own here says so in general ones."""

from __future__ import annotations

from collections.abc import Mapping

from flask_babel import gettext
from flask_babel import lazy_gettext as _

from plentar.core.judgement import FindingCode, Level
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import STAGE_OFF, STAGE_ON, Did, Event, Replaced

#: How the unit is left.
LEFT: Mapping[str, object] = {
    "in-service": _("The unit is in service."),
    "left-off": _("The unit is switched off at its breaker. Please leave it off."),
    "heat-disabled": _("The electric heat is disabled. What else the unit does may be used."),
}
#: Why somebody came.
CAME: Mapping[str, object] = {
    "not-enough-heat": _("Not enough heat"),
    "no-heat": _("No heat at all"),
    "heat-will-not-stop": _("The heat would not stop"),
    "heat-in-cooling": _("Heat while cooling, or a high bill"),
    "blower-will-not-run": _("The fan would not run"),
    "blower-will-not-stop": _("The fan would not stop"),
    "control-fuse-blows": _("A fuse that blows, or a thermostat that restarts"),
    "breaker-trips-or-burnt": _("A breaker that trips, a smell, or a melted wire"),
    "clicking": _("Clicking while heating"),
    "slow-to-start": _("Heat that starts very slowly"),
    "no-power": _("No power"),
    "check-up": _("A check before the season"),
}
#: What was found, by its code. ``{part}`` is the part as below.
FOUND: Mapping[FindingCode, object] = {
    FindingCode.SUPPLY_OUT_OF_RANGE: _("The voltage that feeds the unit is outside its usual range."),
    FindingCode.SUPPLY_SAG: _(
        "The voltage drops too far when the heat comes on: a connection in the supply is to be looked at."
    ),
    FindingCode.LEG_UNBALANCE: _("The two halves of the supply stand at unequal voltages to ground."),
    FindingCode.LIVE_WHEN_OFF: _(
        "A part of the unit was live although its breaker was taken for switched off. That is a danger."
    ),
    FindingCode.GROUND_CURRENT: _("Current leaks through the unit’s metal. That is a danger."),
    FindingCode.LIMIT_BRIDGED: _("A safety switch was bridged: it cannot switch the heat off."),
    FindingCode.JOINT_HEAT: _(
        "A wire connection at {part} gets warm under load. Such a connection gets worse and can burn."
    ),
    FindingCode.BREAKER_OVER_PLATE: _("The breaker of {part} is larger than the unit allows."),
    FindingCode.BREAKER_OVER_CONDUCTOR: _(
        "The breaker of {part} is too large for its wire, so that the wire is not protected."
    ),
    FindingCode.BREAKER_UNDER_LOAD: _("The breaker of {part} is too small for what it feeds."),
    FindingCode.CONDUCTOR_UNDER_LOAD: _("The wire of {part} is too small for what it feeds."),
    FindingCode.ELEMENTS_OVER_48: _("So much heat has to be fed by more than one circuit."),
    FindingCode.OVER_80_PERCENT: _("The breaker of {part} is loaded close to what it is made for."),
    FindingCode.VOLTAGE_DROP: _("The supply wire is long or thin: some of the voltage is lost on it."),
    FindingCode.NO_BLOWER_TIE: _(
        "Nothing makes the fan run when the heat is on. Heat without air flow is a danger."
    ),
    FindingCode.RUN_ON_SHORT: _("The fan stops before the heat is off. Heat without air flow is a danger."),
    FindingCode.OVER_VOLTS: _("The voltage is higher than the heating elements are made for."),
    FindingCode.PRIMARY_TAP: _("The control transformer is wired for another voltage."),
    FindingCode.HEAT_WITHOUT_BLOWER: _("The heat ran while the fan stood still. That is a danger."),
    FindingCode.DRAW_WITHOUT_CALL: _("{part} heated although the thermostat did not ask for it."),
    FindingCode.ELEMENT_TO_GROUND: _("{part} leaks current to the cabinet. That is a danger."),
    FindingCode.ELEMENT_LOW: _("{part} gives less heat than it should."),
    FindingCode.ELEMENT_HIGH: _("{part} draws more current than it should."),
    FindingCode.ELEMENT_DEAD: _("{part} gave no heat."),
    FindingCode.SLOW_STAGE: _("{part} came on late."),
    FindingCode.SLOW_OFF: _("{part} went off late."),
    FindingCode.HOUSE_TIME: _("{part} takes its time."),
    FindingCode.LIMIT_CYCLING: _(
        "The heat was cut off again and again by its safety limit: it gets too hot, mostly for want of air."
    ),
    FindingCode.LOW_AIRFLOW: _("Too little air passes through the unit."),
    FindingCode.HIGH_LEAVING_AIR: _("The air that leaves the unit is too hot."),
    FindingCode.CONTROL_VOLTS_LOW: _("The control voltage is low."),
    FindingCode.CONTROL_OVERLOAD: _("The control transformer or its fuse is overloaded."),
    FindingCode.COIL_OHMS: _("The coil of {part} is not as it should be."),
    FindingCode.CONTACT_RATING: _("The contacts of {part} are too small for what they switch."),
    FindingCode.CONTACT_SET: _("A contact of {part} is bad."),
    FindingCode.ERRATIC_START: _("{part} does not start every time."),
    FindingCode.RELAY_WIRING: _("{part} is wired wrongly."),
    FindingCode.BLOWER_MOTOR: _("The fan’s motor is not as it should be."),
    FindingCode.CAPACITOR_WEAK: _("The capacitor of the fan’s motor is weak."),
    FindingCode.BLOWER_AMPS_HIGH: _("The fan’s motor draws more current than it should."),
    FindingCode.WHOLE_UNIT: _("Something about the unit needs attention: see the notes of the technician."),
}
#: The same where it is only to be watched: it may be so.
MAY_BE: Mapping[FindingCode, object] = {
    FindingCode.RUN_ON_SHORT: _("The fan may stop a little before the heat is off: to be checked."),
    FindingCode.ELEMENTS_OVER_48: _("Whether so much heat needs more than one circuit is to be checked."),
    FindingCode.SUPPLY_SAG: _("The voltage drops somewhat when the heat comes on."),
    FindingCode.HIGH_LEAVING_AIR: _("The air that leaves the unit is rather hot."),
}
#: What the look at the whole unit goes over.
LOOKED: Mapping[str, object] = {
    "filter": _("Filter"),
    "indoor-coil": _("Indoor coil"),
    "wheel": _("Fan wheel"),
    "speed-tap": _("Fan speed"),
    "capacitor": _("Fan capacitor"),
    "strands": _("Loose wire strands"),
    "insulation": _("Wire insulation"),
    "spades": _("Wire connectors"),
    "lugs": _("Main terminals"),
    "panel": _("Electric panel and disconnect"),
}
POOR, BURNT = _("{part}: needs attention."), _("{part}: burnt or melted. That is a danger.")
OTHERWISE = _("Something at {part} needs attention.")
#: How pressing a finding is.
PRESSING: Mapping[Level, object] = {
    Level.STOP_NOW: _("Danger"),
    Level.REPAIR: _("To repair"),
    Level.WATCH: _("To watch"),
    Level.OK: _("In order"),
}
#: What a careful round would still read.
UNREAD: Mapping[str, object] = {
    "off": _("whether the heat switches off"),
    "to-ground": _("whether a heating element leaks current to the cabinet"),
    "tie": _("whether the fan comes on with the heat"),
    "joint": _("the connections of the supply wire"),
}
WHEN: Mapping[str, object] = {"now": _("Now"), "soon": _("Soon"), "offer": _("If you like")}
#: What was done to a part.
DONE: Mapping[str, object] = {
    "remade": _("{part}: connection made anew"),
    "tightened": _("{part}: tightened"),
    "renewed": _("{part}: renewed"),
    "reset": _("{part}: reset"),
    "switched-on": _("{part}: switched on"),
    "cleaned": _("{part}: cleaned"),
    "moved": _("{part}: wire put in its right place"),
    STAGE_OFF: _("{part}: left disconnected"),
    STAGE_ON: _("{part}: connected again"),
    "replaced": _("{part}: replaced by a new one"),
}
_KINDS: Mapping[str, object] = {
    "element": _("heating element"),
    "sequencer": _("heat sequencer"),
    "contactor": _("contactor"),
    "relay-ac": _("heat relay"),
    "relay-dc": _("heat relay"),
    "relay": _("fan relay"),
    "limit": _("safety limit"),
    "link": _("safety link"),
    "circuit": _("supply"),
    "wire": _("wire"),
}
_FIXED: Mapping[str, object] = {
    "blower": _("the fan"),
    "capacitor": _("the fan’s capacitor"),
    "transformer": _("the control transformer"),
    "control-fuse": _("the control fuse"),
    "airflow": _("filter and air path"),
    "R": _("the control wiring"),
}


def words(said: object, **values: str) -> str:
    """A text of the catalogue in the language that stands, its places filled."""
    return str(said).format(**values)


def part_name(unit: Unit, component: str) -> str:
    """A part as an owner reads it, its mark on the drawing behind: “heating element E1”."""
    owner = component.removesuffix(".line").removesuffix(".wire").removesuffix(".supply")
    if owner in _FIXED:
        return str(_FIXED[owner])
    kind = _kind(unit, owner)
    if kind is None:
        return component or gettext("the unit")
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
