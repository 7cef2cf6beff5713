"""What bars a unit from being left: asked before a visit is closed, whatever the page showed."""

from __future__ import annotations

from collections.abc import Sequence

from plentar.core.errors import BadInput
from plentar.core.judgement import Finding
from plentar.web.handover.entry import CloseEntry
from plentar.web.handover.view import HandoverView
from plentar.words import phrase


def check_leaving(view: HandoverView, entry: CloseEntry, suspected: Sequence[Finding] | None) -> None:
    """Raise BadInput where the unit may not be left so."""
    bench = view.bench
    if bench.state.lifted:
        raise BadInput("outcome", phrase("handover.leaving.not-while-jumper-thermostat"))
    if bench.state.coils_off:
        raise BadInput(
            "outcome",
            phrase(
                "handover.leaving.not-while-wires-off", coils_off=", ".join(sorted(bench.state.coils_off))
            ),
        )
    if bench.bridges:
        raise BadInput(
            "outcome", phrase("handover.leaving.not-while-bridged-bridge", bridges=", ".join(bench.bridges))
        )
    if entry.outcome == "in-service" and suspected is None:
        raise BadInput("outcome", phrase("handover.leaving.judge-has-not-answered"))
    if entry.outcome == "in-service":
        _check_in_service(view, bool(bench.standing or suspected))
    elif not entry.left_note.strip():
        raise BadInput("left_note", phrase("handover.leaving.note-owner-why-left"))


def _check_in_service(view: HandoverView, stopped: bool) -> None:
    if stopped:
        raise BadInput("outcome", phrase("handover.leaving.not-while-stop-now"))
    if not_through := len(view.not_through):
        raise BadInput("outcome", phrase("handover.leaving.line-retest-not-through", n=not_through))
    undone = [line for line in view.lines if line.open and line.when == "now"]
    if undone:
        raise BadInput("outcome", phrase("handover.leaving.done-now-not-done", undone=undone[0].text))
