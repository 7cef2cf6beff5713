"""plentar judge FILE [--json]: judge a visit file; ``-`` reads one document a line."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from pathlib import Path

from plentar.core.errors import BadInput
from plentar.core.judge import diagnose, judge, what_else
from plentar.core.judge.diagnosis import Diagnosis, NextReading, WhatElse
from plentar.core.judgement import Judgement
from plentar.core.numerals import show
from plentar.files.judgement_json import judgement_to_json
from plentar.files.visit_file import parse_visit_file

EXAMPLE = "plentar judge visit.json --json"


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Declare the command."""
    parser = commands.add_parser(
        "judge", help="judge a visit file", description=__doc__, epilog=f"example: {EXAMPLE}"
    )
    parser.add_argument("file", help="a visit file, or - for one JSON document a line")
    parser.add_argument("--json", action="store_true", help="print the judgement as JSON")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Exit 0 when answered, 2 when the input is bad."""
    if args.file == "-":
        return _stream()
    try:
        judgement, diagnosis = _judge(read_text(args.file))
    except BadInput as bad:
        print(f"{args.file}: {bad.path or '$'}: {bad.reason}", file=sys.stderr)
        return 2
    if args.json:
        print(json.dumps(judgement_to_json(judgement, diagnosis), ensure_ascii=False))
    else:
        _print(judgement, diagnosis)
    return 0


def read_text(name: str) -> bytes:
    """A file's bytes; raises BadInput if it can't be read."""
    try:
        return Path(name).read_bytes()
    except OSError as error:
        raise BadInput("", error.strerror or "can't be read") from None


def _judge(text: str | bytes) -> tuple[Judgement, Diagnosis]:
    judgement = judge(*parse_visit_file(text).to_core())
    return judgement, diagnose(judgement.evidence)


def _stream() -> int:
    for line in sys.stdin.buffer:
        if not line.strip():
            continue
        try:
            answer = judgement_to_json(*_judge(line))
        except BadInput as bad:
            answer = {"error": {"path": bad.path or "$", "reason": bad.reason}}
        print(json.dumps(answer, ensure_ascii=False), flush=True)
    return 0


def _print(judgement: Judgement, diagnosis: Diagnosis) -> None:
    for element in judgement.elements:
        due = f"{show(element.expected_amps.low)} … {show(element.expected_amps.high, 'A')}"
        mark = " (provisional)" if element.provisional else ""
        print(f"{element.id}: {show(element.measured_amps, 'A')}, due {due}: {element.word}{mark}")
    for suspect in diagnosis.suspects:
        print(f"{100 * suspect.probability:5.1f} % {suspect.fault}: {suspect.words}")
        for reason in suspect.because[:1]:
            print(f"        {reason}")
    _print_readings("next", diagnosis.next)
    for line in diagnosis.advice:
        print(f"do: {line}")
    if diagnosis.decision:
        _print_more(what_else(judgement.evidence))
    for finding in (*judgement.findings, *diagnosis.contradictions):
        print(f"{finding.level}: {finding.code} at {finding.component}: {finding.text}")
    for slip in judgement.slips:
        print(f"slip: {slip.code} at {slip.at}: {slip.text}")


def _print_more(more: WhatElse) -> None:
    _print_readings("also", more.next)
    for words in more.hidden:
        print(f"not to be told as it stands: {words}")


def _print_readings(name: str, readings: Sequence[NextReading]) -> None:
    for number, reading in enumerate(readings, start=1):
        proposal = reading.proposal
        what = proposal.observe or str(proposal.quantity)
        print(f"{name} {number}: {what} at {proposal.at} {proposal.setting or ''}: {reading.why}")
