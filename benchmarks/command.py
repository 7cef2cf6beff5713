"""plentar bench [WHAT]...: measure what the project promises of speed, as ratios in one run."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from importlib import import_module

import click

from benchmarks.server import fresh_database
from plentar.cli.command import command

MEASURED = {
    "reading": "reading post: validate, insert, commit, judge again, draw the fragment",
    "circuit": "circuit: the unit solved as a network",
    "judging": "judging: suspects and next readings again after one more reading",
    "wiring": "wiring: every way to wire a relay, classified by running it",
    "trace": "trace: stages found in logged currents",
    "safety": "safety: the judge followed through dangerous faults, every step watched",
    "attack": "attack: bent requests, races at every gate, blows while people write",
    "calls": "calls: eighteen kinds of call in a browser, desk and phone by turns, every touch counted",
    "retest": "retest: every fault of the demo plates, its list read with the fault still in and without",
    "memory": "memory: every page that remembers, with 200,000 visits and with 2,000 (lays them in first)",
    "sound": "sound: two hundred sound units read everywhere, every false alarm counted",
    "seconds": "seconds: hand-over page, sheets, calls and breakers beside a judge at work",
    "start": "start: everything killed, and served again",
    "outbox": "outbox: a thousand schedules of cuts and crashes; what a phone takes along; a first load without signal",
    "practice": "practice: a touch of the simulated meter beside a reading's post",
    "load": "load: twenty people at once beside one, and memory over many units",
    "episodes": "episodes: hidden faults found by following the judge (some minutes)",
    "wider": "the judge in a wider world than its own (some half an hour)",
    "wider-quick": "the same by 150 episodes, for the desk",
}


@command("bench circuit judging")
@click.argument("what", nargs=-1, type=click.Choice(list(MEASURED)))
def bench(what: Sequence[str]) -> None:
    """Measure speed against floors in the same run, and what the judge finds; all if none named."""
    for name in what or MEASURED:
        click.echo(MEASURED[name])
        for line in _lines(name):
            click.echo(f"  {line}")


def _lines(name: str) -> Iterable[str]:
    if name == "reading":
        url = fresh_database("bench")
        found: Iterable[str] = import_module("benchmarks.reading_post").measure(url)
    elif name == "wider-quick":
        found = import_module("benchmarks.wider").measure(quick=True)
    else:
        found = import_module(f"benchmarks.{name}").measure()
    return found
