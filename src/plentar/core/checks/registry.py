"""What a check is, and all of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from plentar.core.evidence import Evidence
from plentar.core.judgement import Clear, Finding, FindingCode, NotJudged, Outcome

Result = Finding | Clear | NotJudged
Rule = Callable[[Evidence], Iterable[Result]]


@dataclass(frozen=True, slots=True)
class Check:
    """One question to the evidence, component by component, with the codes that it may find."""

    name: str
    codes: frozenset[FindingCode]
    rule: Rule

    def outcome(self, evidence: Evidence) -> Outcome:
        """Its three kinds of answer, sorted out."""
        found: list[Finding] = []
        clear: list[Clear] = []
        not_judged: list[NotJudged] = []
        for result in self.rule(evidence):
            match result:
                case Finding():
                    found.append(result)
                case Clear():
                    clear.append(result)
                case NotJudged():
                    not_judged.append(result)
        return Outcome(self.name, tuple(found), tuple(clear), tuple(not_judged))


CHECKS: list[Check] = []


def check(name: str, *codes: FindingCode) -> Callable[[Rule], Rule]:
    """Registers a rule. It yields a result for everything that it looks at, and never nothing."""

    def register(rule: Rule) -> Rule:
        CHECKS.append(Check(name, frozenset(codes), rule))
        return rule

    return register


def outcomes(evidence: Evidence) -> tuple[Outcome, ...]:
    """Every check over one visit."""
    return tuple(each.outcome(evidence) for each in CHECKS)
