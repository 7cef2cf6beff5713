"""What each fault is called, what to do about it, and what to look at around it."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.circuit.faults import Fault


@dataclass(frozen=True, slots=True)
class Words:
    """``is_so`` follows the part's name; ``do`` and ``around`` are whole sentences."""

    is_so: str
    do: str
    around: str


_LOOK_JOINTS = "Look at the spades and insulation beside it; scorched metal goes, wire and all."
_WHY_HOT = "Ask what got it hot: filter, coil, wheel, blower, a limit that never opened."
_SWITCH = "Replace the device: the same number of switches and the same windows, wire by wire."
_COIL = "Replace the device like for like."
_SHORT = "Find the short before a new fuse goes in; ohms with the wires lifted, proved dead."
_AIR = "Filter, coil, wheel, speed tap, capacitor, motor, duct: the air before the limit."
_FEED = "Breakers, lugs and feeders off and proved dead before a hand goes in; local code decides."
_ALWAYS = (
    "Lift the wire off that terminal at the board. 24 V gone from it: the thermostat or its wire"
    " feeds it. Still there: the unit does."
)
_RELAY = (
    "Replace the relay by one with the same contacts and coil; the motor goes on common, and no"
    " element's current through it."
)
_THERMOSTAT = "Jumper R to the terminal at the board, thermostat wires lifted: does it follow?"

_BY_MODE = {
    "stuck-open": Words("does not close", _SWITCH, _LOOK_JOINTS),
    "stuck-closed": Words("is welded closed", _SWITCH, _LOOK_JOINTS),
    "burnt": Words("has burnt contacts", _SWITCH, _LOOK_JOINTS),
    "slow": Words("acts late", _SWITCH, "Check its coil volts; a cold attic slows it too."),
    "coil-open": Words("has an open coil", _COIL, "Check the plug and its spades."),
    "coil-shorted": Words("has a shorted coil", _COIL, _SHORT),
    "no-rectifier-output": Words("gets no DC from its rectifier", _COIL, "Check its plug."),
    "high-resistance": Words("draws too little", "Replace the element.", _LOOK_JOINTS),
    "low-resistance": Words(
        "draws too much",
        "Replace the element by one of the plate's rating.",
        "Check the wire and breaker for what it drew.",
    ),
    "grounded": Words(
        "is shorted to ground (the cabinet)",
        "Leave its breaker off; replace the element.",
        "Look for a sagging coil and broken insulators.",
    ),
    "weak": Words("opens too soon", "Replace the limit by one of the same mark.", _AIR),
    "low": Words("is low", _AIR, "Read the temperature rise again after it."),
    "no-supply": Words(
        "has no supply",
        "Trace it back: disconnect, breaker, panel. Ahead of the main it is the"
        " utility's or an electrician's.",
        "Ask why it went off before it goes on.",
    ),
    "loose": Words("has a burnt or loose joint", _FEED, _LOOK_JOINTS),
    "low-volts": Words(
        "has low volts", "Refer to the utility or an electrician.", "Read it with heat off and on."
    ),
    "wrong-tap": Words(
        "is on its tap for the higher service",
        "Move the primary to the tap of the service, its breaker off and proved dead.",
        "Read R to C again; slow stages may follow from it.",
    ),
    "dead": Words("gives nothing", "Replace the transformer.", _SHORT),
    "no-call": Words("gets no call", _THERMOSTAT, "Check the wire, splices and its settings."),
    "always": Words(
        "has 24 V with nobody calling", _ALWAYS, "Look for shorted or misplaced wires, Y tied to W."
    ),
    "with-Y": Words(
        "is called whenever Y is: wires crossed or joined",
        "Put the thermostat’s wires right, Y and W apart, the power off.",
        "Call Y alone once more, five minutes between compressor starts: no heat.",
    ),
    "with-G": Words(
        "is called whenever G is: wires crossed or joined",
        "Put the thermostat’s wires right, G and W apart, the power off.",
        "Call G alone once more: no heat.",
    ),
    "bridged": Words(
        "is bridged: it never opens", "Take the bridge off, the power off; replace the limit.", _AIR
    ),
    "to-ground": Words(
        "is shorted to ground (the cabinet)", "Replace or reroute the thermostat wire.", _SHORT
    ),
    "no-stuck-open": Words("does not make on its call", _RELAY, _LOOK_JOINTS),
    "no-welded": Words(
        "has its normally-open set welded",
        _RELAY,
        "Its set was made for motor current only: check what it carried.",
    ),
    "nc-stuck-open": Words(
        "has its normally-closed contact burnt open: heat won't start the blower", _RELAY, _LOOK_JOINTS
    ),
    "nc-welded": Words(
        "has its normally-closed set welded",
        _RELAY,
        "It fed an element through a motor contact: look at every wire of that path.",
    ),
    "locked": Words(
        "hums and does not turn",
        "Breakers off, locked and proved dead, the capacitor"
        " discharged: then free the wheel, test the capacitor, then the motor.",
        "Turn it by hand before any power goes back on.",
    ),
    "weak-capacitor": Words(
        "has a weak capacitor",
        "Replace the capacitor by its marking.",
        "Discharge it through a resistor first.",
    ),
}
#: Where the part says more than the mode.
_BY_PART = {
    ("device", "stuck-open"): Words("closes none of its switches", _SWITCH, _LOOK_JOINTS),
    ("device", "stuck-closed"): Words("holds all its switches closed", _SWITCH, _LOOK_JOINTS),
    ("tie", "open"): Words(
        "is off or broken: heat won't start the blower",
        "Land or renew the wire from the tap to the normally-closed contact, the power off.",
        "Then heat alone, the blower watched, a hand on the disconnect.",
    ),
    ("link", "open"): Words("has melted", "Replace the link; never bridge it.", _WHY_HOT),
    ("limit", "open"): Words("stays open", "Replace the limit; never bridge it.", _WHY_HOT),
    ("element", "open"): Words("is broken", "Replace the element.", _LOOK_JOINTS),
    ("wire", "open"): Words(
        "has an open wire", "Find the joint, crimp it new with the right wire.", _LOOK_JOINTS
    ),
    ("fuse", "open"): Words("is open", _SHORT, "Call each terminal in turn with a clamp on R."),
    ("blower", "open"): Words(
        "is dead",
        "Check its plug and thermal protector, then replace the motor.",
        "Heat stays off without it.",
    ),
    ("circuit", "open"): Words("is open between breaker and lugs", _FEED, _LOOK_JOINTS),
    ("transformer", "weak"): Words("is weak", "Replace the transformer.", "Add up what hangs on it."),
}


def words_of(fault: Fault) -> Words:
    return _BY_PART.get((fault.kind.of, fault.mode)) or _BY_MODE[fault.mode]


def name_of(fault: Fault) -> str:
    part = fault.component
    return {
        "airflow": "the airflow",
        "blower": "the blower",
        "transformer": "the transformer",
        "control-fuse": "the control fuse",
        "tie.wire": "the wire of the tie",
    }.get(part, f"the rung of {part.removesuffix('.wire')}" if part.endswith(".wire") else part)


def sentence(fault: Fault) -> str:
    """The fault in words: “S1.2 does not close”."""
    return f"{name_of(fault)} {words_of(fault).is_so}"
