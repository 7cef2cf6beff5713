"""plentar prove FILE [--json]: the blower relay's wiring, proved by running it."""

from __future__ import annotations

import json

import click

from plentar.cli.command import command, json_option, read_visit, refusing, visit_argument
from plentar.core.relay_bench.proof import Proof
from plentar.core.relay_bench.proof import prove as prove_relay
from plentar.core.said import figure
from plentar.files.sizing_json import proof_to_json


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
            click.echo(f"{calls}: SHORT, L1 meets L2 with no load between")
            continue
        runs = f"blower {'runs' if case.blower else 'stands'}, {'heat' if case.heat else 'no heat'}"
        amps = str(figure(case.through_relay_amps, "A"))
        click.echo(f"{calls}: {runs}, {amps} at most through a contact")
    wrong = ", ".join(proof.wrong)
    click.echo(f"wrong: {wrong}. Breakers off before a wire is moved." if wrong else "right")
