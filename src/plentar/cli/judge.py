"""plentar judge FILE [--json]: judge a visit file; ``-`` reads one document a line."""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence

import click

from plentar.cli.command import command, json_option, read_visit, visit_argument
from plentar.core import door
from plentar.core.errors import BadInput
from plentar.core.judge.diagnosis import diagnose, what_else
from plentar.core.judgement import Diagnosis, Judgement, NextReading, WhatElse
from plentar.core.said import figure
from plentar.files.judgement_json import judgement_to_json, setting_to_json
from plentar.files.visit_file import VisitFile, parse_visit_file
from plentar.words import phrase
from plentar.words.numbers import show_span


@command("judge visit.json --json")
@visit_argument
@json_option
def judge(file: str, as_json: bool) -> None:
    """Judge a visit FILE: verdicts, suspects, what to read next, findings, slips.

    With - for FILE, one JSON document a line is read and one line printed for each.
    """
    if file == "-":
        _stream()
        return
    judgement, diagnosis = _judged(read_visit(file))
    if as_json:
        click.echo(json.dumps(judgement_to_json(judgement, diagnosis), ensure_ascii=False))
    else:
        _print(judgement, diagnosis)


def _judged(file: VisitFile) -> tuple[Judgement, Diagnosis]:
    judgement = door.judge(*file.to_core())
    return judgement, diagnose(judgement.evidence)


def _stream() -> None:
    for line in sys.stdin.buffer:
        if not line.strip():
            continue
        try:
            answer = judgement_to_json(*_judged(parse_visit_file(line)))
        except BadInput as bad:
            answer = {"error": {"path": bad.path or "$", "reason": str(bad.reason)}}
        print(json.dumps(answer, ensure_ascii=False), flush=True)


def _print(judgement: Judgement, diagnosis: Diagnosis) -> None:
    for element in judgement.elements:
        due = show_span(element.expected_amps.low, element.expected_amps.high, "A")
        mark = " (provisional)" if element.provisional else ""
        print(
            phrase(
                "cli.judge.due",
                element=element.id,
                measured_amps=figure(element.measured_amps, "A"),
                due=due,
                word=element.word,
                mark=mark,
            )
        )
    for suspect in diagnosis.suspects:
        print(f"{100 * suspect.probability:5.1f} % {suspect.fault}: {suspect.words}")
        for reason in suspect.because[:1]:
            print(f"        {reason}")
    _print_readings("next", diagnosis.next)
    for line in diagnosis.advice:
        print(phrase("cli.judge.do", line=line))
    if diagnosis.decision:
        _print_more(what_else(judgement.evidence))
    stops = door.suspected_stops(judgement, diagnosis)
    for finding in (*stops, *judgement.findings, *diagnosis.contradictions):
        said = door.with_acts(judgement, finding).text
        print(
            phrase(
                "cli.judge.at",
                level=finding.level,
                value=finding.code,
                component=finding.component,
                said=said,
            )
        )
    for slip in judgement.slips:
        print(phrase("cli.judge.slip", value=slip.code, at=slip.at, slip=slip.text))
    for missing in judgement.not_judged:
        print(
            phrase(
                "cli.judge.not-judged",
                check=missing.check,
                component=missing.component,
                because=missing.because,
            )
        )


def _print_more(more: WhatElse) -> None:
    _print_readings("also", more.next)
    for words in more.hidden:
        print(phrase("cli.judge.hidden-until-this-fixed", words=words))


def _print_readings(name: str, readings: Sequence[NextReading]) -> None:
    for number, reading in enumerate(readings, start=1):
        what = reading.observe or str(reading.quantity)
        setting = setting_to_json(reading.setting) or ""
        print(
            phrase(
                "cli.judge.at-2",
                name=name,
                number=number,
                what=what,
                at=reading.at,
                setting=setting,
                why=reading.why,
            )
        )
