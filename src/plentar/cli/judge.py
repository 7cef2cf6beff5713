"""plentar judge FILE [--json]: judge a visit file; ``-`` reads one document a line."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from plentar.core.errors import BadInput
from plentar.core.judge import judge
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
        judgement = _judge(read_text(args.file))
    except BadInput as bad:
        print(f"{args.file}: {bad.path or '$'}: {bad.reason}", file=sys.stderr)
        return 2
    if args.json:
        print(json.dumps(judgement_to_json(judgement), ensure_ascii=False))
    else:
        _print(judgement)
    return 0


def read_text(name: str) -> bytes:
    """A file's bytes; raises BadInput if it can't be read."""
    try:
        return Path(name).read_bytes()
    except OSError as error:
        raise BadInput("", error.strerror or "can't be read") from None


def _judge(text: str | bytes) -> Judgement:
    return judge(*parse_visit_file(text).to_core())


def _stream() -> int:
    for line in sys.stdin.buffer:
        if not line.strip():
            continue
        try:
            answer = judgement_to_json(_judge(line))
        except BadInput as bad:
            answer = {"error": {"path": bad.path or "$", "reason": bad.reason}}
        print(json.dumps(answer, ensure_ascii=False), flush=True)
    return 0


def _print(judgement: Judgement) -> None:
    for element in judgement.elements:
        due = f"{show(element.expected_amps.low)} … {show(element.expected_amps.high, 'A')}"
        mark = " (provisional)" if element.provisional else ""
        print(f"{element.id}: {show(element.measured_amps, 'A')}, due {due}: {element.word}{mark}")
    for finding in judgement.findings:
        print(f"{finding.level}: {finding.code} at {finding.component}: {finding.text}")
    for slip in judgement.slips:
        print(f"slip: {slip.code} at {slip.at}: {slip.text}")
