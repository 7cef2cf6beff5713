"""What is done with hands, as a phone takes it along: each device's wires with where they go on a part of the same
kind, and what is read again after each part has been replaced."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from plentar.core.guided.retest import retest_lines
from plentar.core.guided.retest_line import Line
from plentar.core.relay_bench.fitted import fitted
from plentar.core.relay_bench.sheet import plan
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import PROVED_DEAD, Replaced
from plentar.core.visit.evidence import Evidence
from plentar.web.devices.device import end_in_words


def retest_after(evidence: Evidence, now_s: float) -> dict[str, Any]:
    """The lines of the retest, each once: those of the work that is logged, and by part those that its
    replacement would ask for."""
    lines: dict[str, dict[str, Any]] = {}

    def numbers(found: tuple[Line, ...]) -> list[int]:
        for line in found:
            lines.setdefault(line.key, _line(line))
        return [list(lines).index(line.key) for line in found]

    logged = numbers(retest_lines(evidence, now_s))
    of_part = {}
    for part in sorted(evidence.unit.components):
        done = Replaced(t_s=now_s, component=part)
        events = (*evidence.visit.events, done)
        after = Evidence(evidence.unit, replace(evidence.visit, events=events))
        of_part[part] = numbers(retest_lines(after, now_s))
    return {"lines": list(lines.values()), "logged": logged, "of_part": of_part}


def _line(line: Line) -> dict[str, Any]:
    step = line.step
    # What is gone to under guard, driven, watched or timed is led by the program.
    led = step.watched or step.timed or step.setting.driven or step.setting.guard is not None
    due = str(step.due.text()) or str(step.due.absent)
    return {
        "title": str(step.title),
        "because": str(line.because),
        "under": str(line.under),
        "due": due,
        "at": step.at,
        "quantity": None if led else step.quantity,
        "calls": sorted(line.calls),
        "free": sorted(line.free),
        "dead": step.setting.power == PROVED_DEAD,
        "after_s": step.setting.after_s or 0.0,
    }


def wires_of_devices(unit: Unit) -> list[dict[str, Any]]:
    """Each device with its wires, as a sheet of a part of its own kind lays them out."""
    found = []
    for device in unit.device_by_id.values():
        kind = fitted(unit, device)
        sheet = [
            {"id": w.id, "old": w.old, "new": w.new, "to": w.to, "said": end_in_words(w.to)}
            for w in plan(unit, device.id, kind)
        ]
        if sheet:
            found.append({"device": device.id, "title": str(kind.title), "part": kind.name, "sheet": sheet})
    return found
