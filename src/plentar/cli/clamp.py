"""plentar clamp FILE [--fault ID]... [--at POINT]...: a simulated clamp's log of a visit, as CSV."""

from __future__ import annotations

from collections.abc import Sequence

import click

from plentar.cli.command import command, fault_option, read_visit, refusing, visit_argument
from plentar.core.door import check_faults
from plentar.core.errors import BadInput
from plentar.core.logged.columns import check_columns
from plentar.files.log_csv import write_log_csv
from plentar.stand_ins.heat_call import heat_test, samples
from plentar.stand_ins.logging_clamp import LoggingClamp
from plentar.words import phrase

SAMPLES_AT_MOST = 2_000_000


@command("clamp visit.json --fault S1.2:stuck-open --at C1 --hertz 2")
@visit_argument
@fault_option
@click.option("--at", "points", multiple=True, metavar="POINT", help="Default: the feeds.")
@click.option("--minutes", default=10.0, show_default=True, help="Of heat, without a call.")
@click.option("--hertz", default=2.0, show_default=True, help="Samples a second.")
@click.option("--seed", default="0", show_default=True, help="The unit behind the clamp.")
def clamp(
    file: str, faults: Sequence[str], points: Sequence[str], minutes: float, hertz: float, seed: str
) -> None:
    """A simulated clamp's log of the calls in a visit FILE, as CSV.

    Without a call in the file, heat is called for from 0:10 on and ends after --minutes; the log
    goes on until everything has let go.
    """
    unit, visit = read_visit(file).to_core()
    with refusing(file):
        hidden = check_faults(unit, faults)
        at = points or [circuit.id for circuit in unit.circuits]
        check_columns(unit, at)
        events, until_s = heat_test(unit, visit, 60 * minutes)
        if not 0 < hertz * until_s <= SAMPLES_AT_MOST:
            raise BadInput("--hertz", phrase("cli.clamp.up-samples", samples_at_most=f"{SAMPLES_AT_MOST:,}"))
    simulated = LoggingClamp(unit, hidden, at, seed)
    click.echo(write_log_csv(at, samples(simulated, events, until_s, hertz, seed)), nl=False)
