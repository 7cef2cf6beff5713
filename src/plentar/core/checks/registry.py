"""What a check is, and all of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from plentar.core.judgement import Clear, Finding, FindingCode, NotJudged, Outcome
from plentar.core.said import Said
from plentar.core.unit.of_plate import of_plate
from plentar.core.unit.unit import Unit
from plentar.core.visit.evidence import Evidence

Result = Finding | Clear | NotJudged
Rule = Callable[[Evidence], Iterable[Result]]
PlateRule = Callable[[Unit], Iterable[Result]]


@dataclass(frozen=True, slots=True)
class Check:
    """One question to the evidence, component by component, with the codes that it may find."""

    name: Said
    codes: frozenset[FindingCode]
    outcome: Callable[[Evidence], Outcome]


CHECKS: list[Check] = []


def check(name: Said, *codes: FindingCode) -> Callable[[Rule], Rule]:
    """Registers a rule. It yields a result for everything that it looks at, and never nothing."""

    def register(rule: Rule) -> Rule:
        CHECKS.append(Check(name, frozenset(codes), lambda e: sorted_out(name, rule(e))))
        return rule

    return register


def plate_check(name: Said, *codes: FindingCode) -> Callable[[PlateRule], PlateRule]:
    """The same for a rule that asks the plate alone: its outcome is worked out once for a unit."""

    def register(rule: PlateRule) -> PlateRule:
        def outcome(evidence: Evidence) -> Outcome:
            unit = evidence.unit
            return of_plate(unit, name.code, lambda: sorted_out(name, rule(unit)))

        CHECKS.append(Check(name, frozenset(codes), outcome))
        return rule

    return register


def sorted_out(name: Said, results: Iterable[Result]) -> Outcome:
    found: list[Finding] = []
    clear: list[Clear] = []
    not_judged: list[NotJudged] = []
    for result in results:
        match result:
            case Finding():
                found.append(result)
            case Clear():
                clear.append(result)
            case NotJudged():
                not_judged.append(result)
    return Outcome(name, tuple(found), tuple(clear), tuple(not_judged))


def outcomes(evidence: Evidence) -> tuple[Outcome, ...]:
    return tuple(each.outcome(evidence) for each in CHECKS)
