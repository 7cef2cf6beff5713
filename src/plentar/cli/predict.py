"""plentar predict and plentar netlist FILE [--fault ID]... --t SECONDS: the unit as a circuit."""

from __future__ import annotations

import argparse
import json
import sys

from plentar.cli.judge import read_text
from plentar.core.errors import BadInput
from plentar.core.faults import find_faults
from plentar.core.predict import predict
from plentar.files.prediction_json import prediction_to_json
from plentar.files.spice import netlist
from plentar.files.visit_file import parse_visit_file

EXAMPLE = "plentar predict visit.json --fault S1.2:stuck-open --t 310"


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Declare both commands."""
    said = {
        "predict": "what every meter would read, as JSON",
        "netlist": "the same circuit as a SPICE deck",
    }
    for name, text in said.items():
        parser = commands.add_parser(
            name, help=text, description=__doc__,
            epilog=f"example: {EXAMPLE.replace('predict', name)}",
        )  # fmt: skip
        parser.add_argument("file", help="a visit file; its events up to the time set the state")
        parser.add_argument("--fault", action="append", default=[], metavar="ID")
        parser.add_argument("--t", type=float, required=True, metavar="SECONDS")
        parser.set_defaults(run=run, deck=name == "netlist")


def run(args: argparse.Namespace) -> int:
    """Exit 0 when answered, 2 when the input is bad."""
    try:
        unit, visit = parse_visit_file(read_text(args.file)).to_core()
        faults = find_faults(unit, args.fault)
    except BadInput as bad:
        print(f"{args.file}: {bad.path or '$'}: {bad.reason}", file=sys.stderr)
        return 2
    prediction = predict(unit, faults, visit.events, args.t)
    if args.deck:
        names = "+".join(f.id for f in faults) or "none"
        title = f"{unit.label or unit.id}, {names}, t = {args.t:g} s"
        sys.stdout.write(netlist(title, prediction.moment.solution))
    else:
        print(json.dumps(prediction_to_json(prediction), ensure_ascii=False))
    return 0
