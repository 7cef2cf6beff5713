"""Pages that stand still: figures, help, what is where."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "page.pages.help.help": "Help",
    "page.pages.help.value": "value",
    "page.pages.help.tape": "The tape",
    "page.pages.help.help-safety": "Help and safety",
    "page.pages.help.always": "Always",
    "page.pages.help.line-voltage-work-qualified": "DANGER: line volts kill. Only qualified persons with the protective equipment for the task work on them.",
    "page.pages.help.unit-may-fed-two": "DANGER: a second breaker can keep parts live. Open, lock and tag every breaker of the unit; there may be three.",
    "page.pages.help.element-off-not-dead": "DANGER: an element that is off can shock. One end may stay live to ground. Prove it dead.",
    "page.pages.help.live-dead-live-prove": "DANGER: a dead meter shows dead parts. Live, dead, live: prove it on a live source, test every conductor, prove it again.",
    "page.pages.help.run-capacitors-hold-charge": "WARNING: a run capacitor holds a charge and shocks. Discharge it through a resistor.",
    "page.pages.help.elements-steel-near-them": "CAUTION: elements and the steel near them burn skin for minutes after heat. Let them cool.",
    "page.pages.help.never-bridge-limit-or": "WARNING: a bridged limit or link lets heat start a fire. Never bridge one; never leave a test jumper in.",
    "page.pages.help.breaker-feels-nothing-burning": "WARNING: a burning lug trips no breaker and can start a fire. Replace scorched metal with its breaker.",
    "page.pages.help.work-ahead-main-new": "DANGER: ahead of the main nothing switches off. Leave it, new circuits and feeders to a licensed electrician, with a permit.",
    "page.pages.help.plentar-defers-local-codes": "NOTICE: local codes, the equipment’s instructions and licensed practice come before Plentar.",
    "page.pages.help.what-marks-mean": "What the marks mean",
    "page.pages.help.bracketed-block-window-which": "A bracketed block is the window in which a switch is expected to act; green on the way on, gray on the way off.",
    "page.pages.help.mark-points-down-acted": "A mark that points down acted in its window; right was late, left early. The word stands beside it.",
    "page.pages.help.press-when-you-see": "Press when you see or hear it: the time counts from when your finger goes down, and is kept without a signal. Keys 1 to 9 press the lanes in order.",
    "page.pages.help.heater-gets-less-than": "A heater that gets less than its rated volts is allowed longer; more volts shorten nothing. Read volts at its coil while it is called.",
    "page.pages.help.off-time-counts-after": "An off time counts after five minutes energized; a device called again within a quarter of an hour starts warm.",
    "page.pages.help.clamp-one-wire-alone": "Clamp one wire alone and keep hands out: timing a stage needs no touch.",
    "page.pages.help.figures-behind-verdicts": "The figures behind the verdicts",
    "page.pages.help.thresholds": "Thresholds",
    "page.pages.help.figure": "figure",
    "page.pages.help.what": "what for",
    "page.pages.help.source": "source",
}
