"""The motor's trees on their page: the way so far, the next question, what it came to."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.quantity import Quantity
from plentar.core.relay_bench.motor import Leaf, Question, TreeStep, trunks, walk
from plentar.core.said import say
from plentar.core.visit.events import FEELS
from plentar.web.devices.device import DeviceView

TRUNK_WORDS = {
    "starts-not": say("devices.motor.does-not-start"),
    "stops-not": say("devices.motor.will-not-stop"),
}
ANSWER_WORDS = {
    "none": say("answer.none"),
    "fed": say("devices.motor.line-volts-there"),
    "stalled": say("devices.motor.stalled-hums"),
    "runs": say("devices.motor.runs"),
    "stiff": say("answer.stiff"),
    "play": say("answer.play"),
    "free": say("answer.free"),
    "weak": say("answer.weak"),
    "good": say("answer.good"),
    "yes": say("answer.yes"),
    "no": say("answer.no"),
}


@dataclass(frozen=True, slots=True)
class Node:
    """A question or a leaf of the drawn tree, with the branches below it."""

    words: str
    state: str
    read: str = ""
    href: str = ""
    caution: str = ""
    feels: tuple[tuple[str, str], ...] = ()
    branches: tuple[tuple[str, str, Node], ...] = ()
    leaf: bool = False


class MotorView:
    face = "motor"

    def __init__(self, device: DeviceView) -> None:
        self.device = device

    @property
    def trees(self) -> list[tuple[str, Node]]:
        evidence = self.device.view.evidence
        found = []
        for name, trunk in trunks(evidence.unit).items():
            walked = walk(evidence, trunk)
            answers = {id(step.question): step for step in walked.steps}
            found.append((str(TRUNK_WORDS[name]), self._node(trunk, answers, walked.end, taken=True)))
        return found

    def _node(
        self, at: Question | Leaf, answers: dict[int, TreeStep], end: Question | Leaf, *, taken: bool
    ) -> Node:
        """``taken``: the way leads here."""
        if isinstance(at, Leaf):
            state = "passed" if not taken else "finding" if at.finding else "fine"
            return Node(str(at.text), state, leaf=True)
        step = answers.get(id(at)) if taken else None
        answer, because = (step.answer, step.because) if step else ("", "")
        branches = tuple(
            (
                str(ANSWER_WORDS[word]),
                "taken" if word == answer else "",
                self._node(below, answers, end, taken=taken and word == answer),
            )
            for word, below in at.branches.items()
        )
        asked = taken and at is end
        state = "asked" if asked else "answered" if step else "passed"
        return Node(
            str(at.ask),
            state,
            str(because),
            self._href(at) if taken else "",
            str(at.caution if asked else ""),
            tuple((word, str(FEELS[word])) for word in at.felt) if asked else (),
            branches,
        )

    def _href(self, question: Question) -> str:
        if not question.point:
            return ""
        quantity: Quantity | None = question.quantity
        return f"{self.device.view.link(question.point)}&quantity={quantity}"
