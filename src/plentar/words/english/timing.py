"""Sequences and their times."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "timing.tape.window": "{low}–{high}",
    "timing.tape.switch": "switch",
    "timing.tape.lane": "{title} {mark}",
    "logged.columns.no-reading-point-this": "No reading point “{name}” on this unit.",
    "logged.columns.stages-not-sought-amps": "Stages are not looked for in amps at {name}.",
    "logged.trace.log-ends-before-must": "The log ends at {end_s}, before {part} must be on at {high}: no verdict on {load}. Log for longer.",
    "logged.trace.amps-judged-without-volts": "Amps of {here} are provisional until volts are read at the heater lugs of {circuit}.",
    "timing.moves.let-go-after-energised": "{part} let go after {energised_s} energized; its off time counts from {off_test_s} on. Let it run longer and test again.",
    "timing.tape.blower-switch": "blower switch",
    "timing.tape.auxiliary-switch": "auxiliary switch",
    "timing.tape.call-2": "call",
    "timing.tape.motor": "motor",
    "timing.tape.stage": "stage {n}",
    "timing.tape.due": "{titles} should go {action} {when}",
    "timing.tape.off-test-counts-from": "The off test counts from {full} energized: {left_s} to go.",
    "timing.tape.call": "the call",
    "timing.tape.ended": "{cause} ended",
    "timing.tape.call-behind-ended": "the call behind {cause} ended",
    "timing.tape.between": "between {low} and {high}",
    "timing.tape.after": "{due} after {cause}",
    "timing.tape.after-due": "{took_s} after {cause}, expected with it",
    "timing.tape.typical-not-printed": " (typical, not printed)",
    "timing.tape.due-clamp-shows": "expected {window}; the clamp shows it at {shown_s}",
    "timing.tape.due-2": "expected {window}",
    "timing.tape.due-now": "expected {window}, now",
    "timing.tape.window-over-nobody-saw": "window {window} is over and not seen: clamp it, or read volts across it",
    "timing.tape.took-due": "took {took_s}, expected {window}",
    "timing.tape.rated-volts-v-coil": " (to {high} at rated volts; {coil_volts} V at the coil stretch that {stretch} times)",
    "timing.tape.energised-only-so-tells": "; energized {energised_s} only, so it tells little",
}
