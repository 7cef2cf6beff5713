"""A practice that is over, as its page tells it: what was in it, what was named, and the ways through it."""

from __future__ import annotations

from dataclasses import dataclass

from werkzeug.utils import cached_property

from plentar.core.unit.naming import said_of
from plentar.practice.coach import Judge
from plentar.practice.debrief import Path, by_custom, by_the_judge, hidden_in, in_vain, lost_in
from plentar.practice.own_acts import MISSET
from plentar.web.devices.device import end_in_words
from plentar.web.practice.view import PracticeView
from plentar.words import phrase
from plentar.words.numbers import clock


@dataclass(frozen=True, slots=True)
class Way:
    """One way through the scene, in words."""

    who: str
    readings: int
    minutes: int
    decided: str
    unsafe: str


class DebriefView(PracticeView):
    """What is told at the end."""

    @property
    def truth(self) -> list[str]:
        return [str(hidden.words) for hidden in hidden_in(self.bench)]

    @property
    def lost(self) -> list[str]:
        """What was lost at a repair and is still off, or was found again."""
        off = set(self.bench.left)
        return [
            phrase("practice.lost-still" if h.fault in off else "practice.lost-found", words=str(h.words))
            for h in lost_in(self.bench)
        ]

    @property
    def astray(self) -> list[str]:
        """Wires that do not lie where they belong."""
        return [
            phrase(
                "practice.astray",
                part=said_of(self.unit, part),
                end=end_in_words(wire.to),
                at=at or phrase("practice.left-off"),
                right=wire.terminal,
            )
            for part, wire, at in self.bench.astray
        ]

    @property
    def named(self) -> list[str]:
        return [str(said_of(self.unit, part)) for part in self.row.named or []]

    @property
    def in_vain(self) -> list[str]:
        return [str(said_of(self.unit, part)) for part in in_vain(self.bench)]

    @property
    def not_read_again(self) -> list[str]:
        """What the retest asks for after a repair, and was not read."""
        return [str(line.step.title) for line in self.retest]

    @property
    def set_otherwise(self) -> list[str]:
        """Each time that the meter was set otherwise, and what a real one shows then."""
        return [
            f"{clock(act['t'])} {phrase(f'practice.misset.{act[MISSET]}.why')}"
            for act in self.bench.acts
            if MISSET in act
        ]

    @cached_property
    def minutes(self) -> int:
        return round(self.bench.now_s / 60)


def ways(view: DebriefView, judge: Judge) -> list[Way]:
    """Your own, the judge's and the customary one, by the same scene. Raises Busy."""
    scene = view.bench.scene
    own_harms = tuple(harm.code for harm in view.bench.harms)
    own = Path(view.bench.readings, view.minutes, own_harms, view.right)
    found = [("yours", own), ("judge", by_the_judge(scene, judge)), ("custom", by_custom(scene, judge))]
    return [_in_words(code, path) for code, path in found]


def _in_words(code: str, path: Path) -> Way:
    if code == "yours":
        decided = phrase("practice.way.found" if path.decided else "practice.way.missed")
    else:
        decided = phrase("practice.way.decided" if path.decided else "practice.way.open")
    unsafe = phrase("practice.way.unsafe", n=len(path.harms)) if path.harms else phrase("practice.way.safe")
    return Way(phrase(f"practice.way.{code}"), path.readings, path.minutes, decided, unsafe)
