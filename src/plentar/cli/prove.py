"""plentar prove FILE [--json]: the blower relay's wiring, proved by running it."""

from __future__ import annotations

import json

import click

from plentar.cli.command import command, json_option, read_visit, refusing, visit_argument
from plentar.core.relay_bench.proof import Proof
from plentar.core.relay_bench.proof import prove as prove_relay
from plentar.core.said import figure
from plentar.files.sizing_json import proof_to_json
from plentar.words import phrase


@command("prove visit.json --json")
@visit_argument
@json_option
def prove(file: str, as_json: bool) -> None:
    """What the blower relay of a visit FILE does as it is wired, for no call, G, W1, and both."""
    unit, _ = read_visit(file).to_core()
    with refusing(file):
        proof = prove_relay(unit)
    if as_json:
        click.echo(json.dumps(proof_to_json(proof)))
    else:
        _print(proof)


def _print(proof: Proof) -> None:
    for case in proof.cases:
        calls = " + ".join(sorted(case.calls)) or "nothing"
        if case.blower is None:
            click.echo(phrase("cli.prove.short-l1-meets-l2", calls=calls))
            continue
        runs = phrase(
            "cli.prove.blower",
            how=phrase("cli.prove.runs") if case.blower else phrase("cli.prove.stands"),
            how_2=phrase("cli.prove.heat") if case.heat else phrase("cli.prove.no-heat"),
        )
        amps = str(figure(case.through_relay_amps, "A"))
        click.echo(phrase("cli.prove.most-through-contact", calls=calls, runs=runs, amps=amps))
    wrong = ", ".join(proof.wrong)
    click.echo(phrase("cli.prove.wrong-breakers-off-before", wrong=wrong) if wrong else "right")
