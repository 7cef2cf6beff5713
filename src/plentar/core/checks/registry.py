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
        results = tuple(self.rule(evidence))
        return Outcome(
            self.name,
            tuple(r for r in results if isinstance(r, Finding)),
            tuple(r for r in results if isinstance(r, Clear)),
            tuple(r for r in results if isinstance(r, NotJudged)),
        )


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
