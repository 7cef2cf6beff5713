"""plentar predict and plentar netlist FILE [--fault ID]... --t SECONDS: the unit as a circuit."""

from __future__ import annotations

import json
from collections.abc import Sequence

import click

from plentar.cli.command import command, fault_option, read_visit, refusing, visit_argument
from plentar.core.circuit.predict import Prediction
from plentar.core.door import check_faults, prediction_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import unit_after
from plentar.files.prediction_json import prediction_to_json
from plentar.files.spice import netlist as deck

time_option = click.option("--t", "t_s", type=float, required=True, metavar="SECONDS", help="Of the visit.")


@command("predict visit.json --fault S1.2:stuck-open --t 310")
@visit_argument
@fault_option
@time_option
def predict(file: str, faults: Sequence[str], t_s: float) -> None:
    """Every meter's reading on the nominal unit of a visit FILE, in the state at a time."""
    _, prediction = _predicted(file, faults, t_s)
    click.echo(json.dumps(prediction_to_json(prediction), ensure_ascii=False))


@command("netlist visit.json --fault S1.2:stuck-open --t 310")
@visit_argument
@fault_option
@time_option
def netlist(file: str, faults: Sequence[str], t_s: float) -> None:
    """The circuit of a visit FILE, in the state at a time, as a deck that ngspice runs."""
    unit, prediction = _predicted(file, faults, t_s)
    names = "+".join(faults) or "none"
    title = f"{unit.label or unit.id}, {names}, t = {t_s:g} s"
    click.echo(deck(title, prediction.moment.solution), nl=False)


def _predicted(file: str, faults: Sequence[str], t_s: float) -> tuple[Unit, Prediction]:
    unit, visit = read_visit(file).to_core()
    unit = unit_after(unit, (event for event in visit.events if event.t_s <= t_s))
    with refusing(file):
        return unit, prediction_of(unit, visit.events, t_s, check_faults(unit, faults))
