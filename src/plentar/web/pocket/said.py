"""What the scripts of the bench without signal say, their places unfilled."""

from __future__ import annotations

from plentar.core.expected import Word
from plentar.web.tape.view import WORDS
from plentar.words import unfilled

CODES = (
    "pocket.say.acts-off",
    "pocket.say.acts-on",
    "pocket.say.along",
    "pocket.say.at-most",
    "pocket.say.barred",
    "pocket.say.begun",
    "pocket.say.breakers-off",
    "pocket.say.calls",
    "pocket.say.close-one",
    "pocket.say.closed",
    "pocket.say.into-open-visit",
    "pocket.say.kept-here",
    "pocket.say.leave-out",
    "pocket.say.made-safe",
    "pocket.say.made-safe-how",
    "pocket.say.next-with-signal",
    "pocket.say.no-number",
    "pocket.say.no-tone",
    "pocket.say.not-decided-here",
    "pocket.say.not-read-again",
    "pocket.say.nothing",
    "pocket.say.nothing-along",
    "pocket.say.nothing-due",
    "pocket.say.nothing-to-wait-for",
    "pocket.say.on-board-from",
    "pocket.say.one-wire",
    "pocket.say.open-one",
    "pocket.say.open-pad",
    "pocket.say.photo",
    "pocket.say.planned",
    "pocket.say.power-back",
    "pocket.say.power.off",
    "pocket.say.power.on",
    "pocket.say.power.proved-dead",
    "pocket.say.power.some",
    "pocket.say.provisional",
    "pocket.say.replaced",
    "pocket.say.seen-off",
    "pocket.say.seen-on",
    "pocket.say.should-read",
    "pocket.say.since-call",
    "pocket.say.state.kept",
    "pocket.say.state.late",
    "pocket.say.state.refused",
    "pocket.say.state.stored",
    "pocket.say.stop",
    "pocket.say.sure-leave-out",
    "pocket.say.swap-begin",
    "pocket.say.swap-begun",
    "pocket.say.swap-open",
    "pocket.say.swap-through",
    "pocket.say.tone",
    "pocket.say.touch-part",
    "pocket.say.try-again",
    "pocket.say.unsent-at-leaving",
    "pocket.say.verdict-with-signal",
    "pocket.say.visit-open",
    "pocket.say.was-made-safe",
    "pocket.say.window-after",
    "pocket.say.window-after-end",
    "pocket.say.window-typical",
    "pocket.say.windows-with-signal",
    "pocket.say.wire-back",
    "pocket.say.wire-did-back",
    "pocket.say.wire-did-off",
    "pocket.say.wire-did-on",
    "pocket.say.wire-off",
    "pocket.say.wire-on",
    "pocket.say.wires-dead-first",
    "pocket.say.wires-on",
    "pocket.say.with-signal",
    "pocket.say.without-signal",
)


def pocket_words() -> dict[str, str]:
    """By the names that the scripts know, and what each verdict is called."""
    said = {code.removeprefix("pocket.say."): unfilled(code) for code in CODES}
    timing = {f"timing.{word}": str(words) for word, words in WORDS.items()}
    return said | timing | {f"word.{word}": unfilled(f"word.{word}") for word in Word}
