"""What pieces of pages say that several show."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "page.macros.card.comes-goes": "Comes and goes",
    "page.macros.card.steady-ten-minutes": "Steady ten minutes",
    "page.macros.card.what-reading-tells": "What the reading tells",
    "page.macros.card.it": "{why}",
    "page.macros.card.time-tape": "Time on tape",
    "page.macros.card.set-up-read": "Set up, read",
    "page.macros.circuit.would-pass": "Would pass:",
    "page.macros.log.due": "should read {due}",
    "page.macros.log.struck-out": "struck out: {reason}",
    "page.macros.log.strike-out": "strike out",
    "page.macros.page.follow-up": "Follow-up:",
    "page.macros.stop.repaired-not-proved-yet": "Repaired, not proved yet.",
    "page.macros.stop.stop-now": "Stop now.",
    "page.macros.stop.end-call": "End the call: {ends}",
    "page.macros.stop.breaker-off": "Breaker {circuit} is off",
    "page.macros.stop.does-still-draw-thermostat": "Does it still draw with the thermostat wires off?",
    "page.macros.stop.once-before-any-repair": "Once, before any repair: this tells the thermostat and its wires from a welded contact. {words}",
    "page.macros.stop.prove-dead": "Prove dead",
    "page.macros.stop.thermostat-wires-off": "Thermostat wires are off",
    "page.macros.stop.power-read": "Power on, read {at}",
    "page.macros.stop.show-stop": "Show the stop",
    "page.macros.stop.prove": "Prove it",
    "page.macros.stop.make-safe": "Make it safe",
    "page.macros.stop.before-you-go": "Before you go on: {before}",
    "page.macros.stop.made-safe-how": "How it was made safe",
    "page.macros.stop.breaker-off-locked-wire": "breaker off and locked, wire cut back, …",
    "page.macros.stop.record": "Log it",
}
