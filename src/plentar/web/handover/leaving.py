"""What bars a unit from being left: asked before a visit is closed, whatever the page showed."""

from __future__ import annotations

from collections.abc import Sequence

from plentar.core.errors import BadInput
from plentar.core.judgement import Finding
from plentar.web.handover.entry import CloseEntry
from plentar.web.handover.view import HandoverView


def check_leaving(view: HandoverView, entry: CloseEntry, suspected: Sequence[Finding] | None) -> None:
    """Raise BadInput where the unit may not be left so."""
    bench = view.bench
    if bench.state.lifted:
        raise BadInput("outcome", "not while a jumper is in and thermostat wires are lifted")
    if bench.state.coils_off:
        raise BadInput(
            "outcome", f"not while the wires of {', '.join(sorted(bench.state.coils_off))} are off"
        )
    if bench.bridges:
        raise BadInput(
            "outcome", f"not while {', '.join(bench.bridges)} is bridged: the bridge out, power off"
        )
    if entry.outcome == "in-service" and suspected is None:
        raise BadInput(
            "outcome",
            "the judge has not answered to the newest readings yet, and nothing goes in service without it: it"
            " is asked again by itself",
        )
    if entry.outcome == "in-service":
        _check_in_service(view, bool(bench.standing or suspected))
    elif not entry.left_note.strip():
        raise BadInput("left_note", "a note for the owner: why it is left so")


def _check_in_service(view: HandoverView, stopped: bool) -> None:
    if stopped:
        raise BadInput(
            "outcome",
            "not while a stop-now finding stands: it ends by the repair and a reading as expected, or leave"
            " it off",
        )
    if not_through := len(view.not_through):
        raise BadInput(
            "outcome",
            f"{not_through} line{'s' if not_through > 1 else ''} of the retest not through: read"
            " what is open, mend what fails, or say why it stays so",
        )
    undone = [line for line in view.lines if line.open and line.when == "now"]
    if undone:
        raise BadInput(
            "outcome",
            f"to be done now and not done: “{undone[0].text}”. Done, not wanted by the owner, or for soon?",
        )
