"""Help: ten short pages, each text of one in the order in which it stands there."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    # safety
    "help.safety.title": "Safety",
    "help.safety.line-voltage": "DANGER: line volts kill. Only qualified persons with the protective equipment for the task work on them.",
    "help.safety.unit-may": "DANGER: a second breaker can keep parts live. Open, lock and tag every breaker of the unit; there may be three.",
    "help.safety.element-off": "DANGER: an element that is off can shock. One end may stay live to ground. Prove it dead.",
    "help.safety.live-dead": "DANGER: a dead meter shows dead parts. Live, dead, live: prove it on a live source, test every conductor, prove it again.",
    "help.safety.run-capacitors": "WARNING: a run capacitor holds a charge and shocks. Discharge it through a resistor.",
    "help.safety.elements-steel": "CAUTION: elements and the steel near them burn skin for minutes after heat. Let them cool.",
    "help.safety.never-bridge": "WARNING: a bridged limit or link lets heat start a fire. Never bridge one; never leave a test jumper in.",
    "help.safety.breaker-feels": "WARNING: a burning lug trips no breaker and can start a fire. Replace scorched metal with its breaker.",
    "help.safety.work-ahead": "DANGER: ahead of the main nothing switches off. Leave it, new circuits and feeders to a licensed electrician, with a permit.",
    "help.safety.plentar-defers": "NOTICE: local codes, the equipment’s instructions and licensed practice come before Plentar.",
    # drawing
    "help.drawing.title": "The drawing",
    "help.drawing.rails": "The drawing is the unit: L1 is the left rail, L2 the right, and each element has a rung between them.",
    "help.drawing.touch": "Touch a part to read it. Its pad shows the expected range for the calls and breakers as they stand.",
    "help.drawing.element": "Element: the heater. Read amps and volts; ohms only proved dead.",
    "help.drawing.switch": "Switch, pole or contact: drawn open while its device is not called.",
    "help.drawing.limit": "Limit: opens when the air is too hot, closes when it has cooled.",
    "help.drawing.link": "Fusible link: melts once and stays open.",
    "help.drawing.coil": "Coil of a sequencer, contactor or relay: 24 V on it moves the switches of the same mark.",
    "help.drawing.state": "Set calls and breakers as they are on the unit. Every expected value depends on them.",
    "help.drawing.keys": "Keys: the arrows walk over the parts, Enter opens one.",
    # readings
    "help.readings.title": "Readings and marks",
    "help.readings.type": "Type what the meter shows. The mark beside it says how it compares with the expected range.",
    "help.readings.not-zero": "Not measured is never taken for zero.",
    "help.readings.kept": "A reading is kept with the calls, breakers and time of its moment. Volts at the lugs narrow every range of amps.",
    "help.readings.strike": "Strike out a wrong reading with a reason: it stays on record and no longer counts.",
    "help.readings.why": "Why opens the arithmetic: formula, figures, source.",
    # causes
    "help.causes.title": "Possible causes",
    "help.causes.compare": "Plentar works out what every meter would read for each fault, and compares it with what you read.",
    "help.causes.share": "The percentage beside a cause is its probability after all readings.",
    "help.causes.likely": "Likely: at least 95 %. Confirmed: readings at the part itself agree as well. Replace no part before it is confirmed.",
    "help.causes.next": "Next reading: the one that tells most for the least risk and time. Any other reading counts too.",
    "help.causes.again": "A reading that fits badly is read again before a part is condemned.",
    "help.causes.alike": "Causes that no reading tells apart stand on one line.",
    "help.causes.partial": "Partial result: still calculating. Go on working; the card follows.",
    # stops
    "help.stops.title": "Stops",
    "help.stops.what": "A stop is a danger that was found. Do its first act, in large type, before anything else.",
    "help.stops.bars": "While it is open, switches and readings that would feed the danger are barred, and say why.",
    "help.stops.stays": "A later good reading alone does not end it. Its card says what to repair and what to read again, in which state.",
    "help.stops.dead": "Prove dead: cabinet to a known earth first, then meter on a live source, every conductor, meter again.",
    "help.stops.void": "Power on, or a part read live, ends the proof.",
    "help.stops.qualified": "When in doubt leave the breaker open and call a qualified person.",
    # tape
    "help.tape.title": "The tape",
    "help.tape.bracketed-block": "A bracketed block is the window in which a switch is expected to act; green on the way on, gray on the way off.",
    "help.tape.mark-points": "A mark that points down acted in its window; right was late, left early. The word stands beside it.",
    "help.tape.press-when": "Press when you see or hear it: the time counts from when your finger goes down, and is kept without a signal. Keys 1 to 9 press the lanes in order.",
    "help.tape.heater-gets": "A heater that gets less than its rated volts is allowed longer; more volts shorten nothing. Read volts at its coil while it is called.",
    "help.tape.off-time": "An off time counts after five minutes energized; a device called again within a quarter of an hour starts warm.",
    "help.tape.clamp-one": "Clamp one wire alone and keep hands out: timing a stage needs no touch.",
    # relay-bench
    "help.relay-bench.title": "The relay bench",
    "help.relay-bench.contacts": "Contacts: test a blower relay, heat relay, contactor or sequencer at its terminals. Lift the coil’s wires before a bench supply drives it.",
    "help.relay-bench.backwards": "DANGER: 24 V on a wired coil can make line volts through the transformer.",
    "help.relay-bench.wiring": "Wiring: set each wire as it lies. Every set of calls is run through it, and a harmful way is lit.",
    "help.relay-bench.transfer": "Wire transfer: photo first, then label, lift and land one wire at a time. The list says which wire is loose.",
    "help.relay-bench.other": "Another kind of part: what fits, what changes, and what forbids it.",
    # plate
    "help.plate.title": "Unit and plate",
    "help.plate.printed": "Enter what the nameplate says. A blank is not checked, and the page says so.",
    "help.plate.typical": "Typical values of a starting kit are marked. They raise no stop and condemn no part.",
    "help.plate.name": "Enter the name that is printed at a part, and it is called by that name.",
    "help.plate.what-if": "What if puts a fault into the drawing and shows every reading that it would change.",
    "help.plate.circuits": "Circuits: each on its scale of amps, with the breaker and wire that it needs. Local codes decide.",
    # close-out
    "help.close-out.title": "Closing out",
    "help.close-out.recheck": "Recheck: what to read again after a repair, each line with its range.",
    "help.close-out.left-out": "A line that is left out needs a reason, and stands on the sheets.",
    "help.close-out.work": "Work: now, soon, or offered, with the safe way to run until then.",
    "help.close-out.waits": "Leaving a unit in service waits until the newest readings are checked.",
    "help.close-out.sheets": "Two sheets: the owner’s in plain words, the technician’s with every figure. The owner’s link ends after the days you set.",
    "help.close-out.reopen": "A lead can open a closed visit again within a day, with a reason.",
    # shop
    "help.shop.title": "The shop",
    "help.shop.where": "Today: open visits and the route. Board: open work of all units. Search: words, parts, findings, values.",
    "help.shop.people": "A lead adds and deactivates people, and makes the link for a new password.",
    "help.shop.account": "Your account: language, password, where you are signed in. A lead sets tolerances, time zone, measures and sheets there.",
    "help.shop.archive": "Export and import: units and finished visits in one archive of open files.",
    "help.shop.memory": "Parts that the shop has replaced move the shares of causes a little, once there are enough of them.",
}
