"""plentar size FILE [--json]: each circuit's load, and the breaker and wires that would pass."""

from __future__ import annotations

import json

import click

from plentar.cli.command import command, json_option, read_visit, visit_argument
from plentar.core.checks.circuit import circuit_findings
from plentar.core.supply.sizing import feeder_sized, sized
from plentar.core.visit.events import unit_after
from plentar.files.sizing_json import sizing_to_json
from plentar.words import phrase
from plentar.words.numbers import show, show_span


@command("size visit.json --json")
@visit_argument
@json_option
def size(file: str, as_json: bool) -> None:
    """The circuit findings of a visit FILE alone, with what would pass."""
    unit, visit = read_visit(file).to_core()
    unit = unit_after(unit, visit.events)
    found, circuits, feeder = circuit_findings(unit), sized(unit), feeder_sized(unit)
    if as_json:
        click.echo(json.dumps(sizing_to_json(found, circuits, feeder), ensure_ascii=False))
        return
    for one in (*circuits, *([feeder] if feeder else [])):
        least, most = one.breaker_amps
        breaker = (
            phrase("cli.size.none-standard-sizes")
            if least is None or most is None
            else show_span(least, most, "A", 2)
        )
        click.echo(
            phrase(
                "cli.size.load-minimum-breaker-copper",
                one=one.id,
                load_amps=show(one.load_amps, "A"),
                min_circuit_amps=show(one.min_circuit_amps, "A"),
                breaker=breaker,
                value=one.copper_awg or phrase("none"),
                value_2=one.aluminium_awg or phrase("none"),
            )
        )
    for finding in found:
        click.echo(
            phrase(
                "cli.size.at",
                level=finding.level,
                value=finding.code,
                component=finding.component,
                finding=finding.text,
            )
        )
    click.echo(phrase("cli.size.local-code-plate-decide"))
