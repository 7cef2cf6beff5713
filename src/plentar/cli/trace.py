"""plentar trace FILE.csv --unit FILE.json [--json]: stages and cycles in a logged current."""

from __future__ import annotations

import json
from dataclasses import replace

import click

from plentar.cli.command import command, json_option, read_bytes, read_visit, refusing
from plentar.core.errors import BadInput
from plentar.core.logged.trace import Stage, Trace, read_log
from plentar.core.timing.moves import Move
from plentar.core.timing.tape import said
from plentar.core.unit.parts import CALLS
from plentar.core.visit.events import Calls, Event, Visit
from plentar.files.log_csv import read_log_csv
from plentar.files.trace_json import trace_to_json
from plentar.words import phrase
from plentar.words.numbers import clock, show, show_span


@command("trace log.csv --unit visit.json --call W1@0 --ended 900")
@click.argument("file", metavar="FILE.csv")
@click.option("--unit", "unit_file", required=True, metavar="FILE.json", help="A visit file.")
@click.option("--call", metavar="TERMINALS@SECONDS", help="W1@0 or W1,W2@12.5: a call not in the file.")
@click.option("--ended", "ended_s", type=float, metavar="SECONDS", help="When that call ended.")
@json_option
def trace(file: str, unit_file: str, call: str | None, ended_s: float | None, as_json: bool) -> None:
    """Stages, times and cycles in a logged current: seconds or time, then amps at points."""
    visit_file = read_visit(unit_file)
    unit, visit = visit_file.to_core()
    with refusing(unit_file):
        visit = _called(visit, call, ended_s)
    with refusing(file):
        log = read_log_csv(read_bytes(file), unit, visit_file.visit.started)
        found = read_log(unit, visit, log)
    if as_json:
        click.echo(json.dumps(trace_to_json(found), ensure_ascii=False))
    else:
        _print(found)


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
        raise BadInput("--call", phrase("cli.trace.terminals-seconds-like-w1"))
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
            phrase(
                "cli.trace.cycles-times-every-lost",
                load=cycle.load,
                at=cycle.at,
                count=cycle.count,
                period_s=clock(cycle.period_s),
                duty=f"{cycle.duty:.0%}",
                lost_kw=show(cycle.lost_kw, "kW"),
            )
        )
    for slip in trace.slips:
        print(phrase("cli.trace.slip", value=slip.code, at=slip.at, slip=slip.text))
    if not trace.stages:
        print(phrase("cli.trace.no-stage-found"))


def _stage_line(stage: Stage) -> str:
    on = (
        phrase("cli.trace.before-log")
        if stage.on_s is None
        else phrase("cli.trace.on", on_s=clock(stage.on_s))
    )
    off = (
        phrase("cli.trace.still-end")
        if stage.off_s is None
        else phrase("cli.trace.off", off_s=clock(stage.off_s))
    )
    either = phrase("cli.trace.or", or_else=", ".join(stage.or_else)) if stage.or_else else ""
    due = show_span(stage.due_amps.low, stage.due_amps.high, "A")
    return phrase(
        "cli.trace.due",
        load=stage.load,
        either=either,
        at=stage.at,
        on=on,
        off=off,
        amps=show(stage.amps, "A"),
        due=due,
    )


def _move_line(move: Move) -> str:
    seen_s = move.seen_s if move.seen_s is not None else 0.0
    return f"{move.part} {move.action}: {move.word(seen_s)}, {said(move, seen_s)}"
