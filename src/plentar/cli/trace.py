"""plentar trace FILE.csv --unit FILE.json [--json]: stages and cycles in a logged current."""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import replace

from plentar.cli.judge import read_text
from plentar.core.errors import BadInput
from plentar.core.events import Calls, Event, Visit
from plentar.core.logged.trace import Stage, Trace
from plentar.core.numerals import minutes, show
from plentar.core.parts import CALLS
from plentar.core.timing.moves import Move
from plentar.core.timing.tape import said
from plentar.files.trace_json import trace_to_json
from plentar.files.visit_file import parse_visit_file

EXAMPLE = "plentar trace log.csv --unit visit.json --call W1@0 --ended 900"


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Declare the command."""
    parser = commands.add_parser(
        "trace", help="find the stages in a logged current", description=__doc__,
        epilog=f"example: {EXAMPLE}",
    )  # fmt: skip
    parser.add_argument("file", help="CSV: seconds or time, then amps at points of the unit")
    parser.add_argument("--unit", required=True, metavar="FILE.json", help="a visit file")
    parser.add_argument(
        "--call", metavar="TERMINALS@SECONDS", help="W1 or W1,W2: a call not in the file"
    )
    parser.add_argument("--ended", type=float, metavar="SECONDS", help="when that call ended")
    parser.add_argument("--json", action="store_true", help="print it as JSON")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Exit 0 when answered, 2 when the input is bad."""
    from plentar.core.logged.trace import read_log  # noqa: PLC0415  (pandas is slow to load)
    from plentar.files.log_csv import read_log_csv  # noqa: PLC0415

    name = args.unit
    try:
        file = parse_visit_file(read_text(name))
        unit, visit = file.to_core()
        visit = _called(visit, args.call, args.ended)
        name = args.file
        log = read_log_csv(read_text(name), unit, file.visit.started)
        trace = read_log(unit, visit, log)
    except BadInput as bad:
        print(f"{name}: {bad.path or '$'}: {bad.reason}", file=sys.stderr)
        return 2
    if args.json:
        print(json.dumps(trace_to_json(trace), ensure_ascii=False))
    else:
        _print(trace)
    return 0


def _called(visit: Visit, call: str | None, ended_s: float | None) -> Visit:
    """The visit with a call that its file does not tell of."""
    if call is None:
        return visit
    names, _, began = call.partition("@")
    asked = frozenset(names.split(","))
    try:
        began_s = float(began or "nan")
    except ValueError:
        began_s = float("nan")
    if not asked <= set(CALLS) or not began_s >= 0:
        raise BadInput("--call", "terminals and seconds, like W1@0 or W1,W2@12.5")
    more: list[Event] = [Calls(t_s=began_s, calls=asked)]
    if ended_s is not None:
        more.append(Calls(t_s=ended_s, calls=frozenset()))
    events = sorted([*visit.events, *more], key=lambda event: event.t_s)
    return replace(visit, events=tuple(events))


def _print(trace: Trace) -> None:
    for stage in trace.stages:
        print(_stage_line(stage))
        for move in (stage.on, stage.off):
            if move is not None and move.seen_s is not None:
                print(f"    {_move_line(move)}")
    for cycle in trace.cycles:
        print(
            f"{cycle.load} at {cycle.at} cycles: {cycle.count} times, every"
            f" {minutes(cycle.period_s)}, {cycle.duty:.0%} on, {show(cycle.lost_kw, 'kW')} lost"
        )
    for slip in trace.slips:
        print(f"slip: {slip.code} at {slip.at}: {slip.text}")
    if not trace.stages:
        print("no stage found")


def _stage_line(stage: Stage) -> str:
    on = "on before the log" if stage.on_s is None else f"on {minutes(stage.on_s)}"
    off = "still on at its end" if stage.off_s is None else f"off {minutes(stage.off_s)}"
    either = f" (or {', '.join(stage.or_else)})" if stage.or_else else ""
    due = f"{show(stage.due_amps.low)} … {show(stage.due_amps.high, 'A')}"
    return f"{stage.load}{either} at {stage.at}: {on}, {off}, {show(stage.amps, 'A')}, due {due}"


def _move_line(move: Move) -> str:
    seen_s = move.seen_s if move.seen_s is not None else 0.0
    return f"{move.part} {move.action}: {move.word(seen_s)}, {said(move, seen_s)}"
