"""The judge's whole answer as JSON and back, to be kept and shown again as it was."""

from __future__ import annotations

import hashlib
import json
from functools import cache
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from plentar import core
from plentar.core.judgement import Diagnosis
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Visit
from plentar.files.events_json import event_to_json
from plentar.files.unit_json import unit_to_json

CORE = Path(core.__file__).parent
_DIAGNOSIS: TypeAdapter[Diagnosis] = TypeAdapter(Diagnosis)


def diagnosis_to_json(diagnosis: Diagnosis) -> dict[str, Any]:
    """Plain values."""
    plain: dict[str, Any] = json.loads(_DIAGNOSIS.dump_json(diagnosis))
    return plain


def diagnosis_from_json(body: dict[str, Any]) -> Diagnosis | None:
    """As it was; None where it is none of this program's."""
    try:
        return _DIAGNOSIS.validate_json(json.dumps(body))
    except ValidationError:
        return None


@cache
def _judge() -> str:
    """The program that answers, by its own sources: no answer of another one is shown."""
    sources = sorted(CORE.rglob("*.py"))
    return hashlib.sha256(b"".join(source.read_bytes() for source in sources)).hexdigest()


def evidence_digest(unit: Unit, visit: Visit) -> str:
    """All that an answer rests on, in a word: two visits of the same evidence have the same."""
    rests_on = [
        _judge(),
        unit_to_json(unit),
        visit.complaint,
        [str(visit.settings.band), visit.settings.altitude_ft, visit.settings.frequencies],
        [event_to_json(event) for event in visit.events],
        [[seen.t_s, seen.item, seen.state] for seen in visit.looked],
        [[a.t_s, a.code, a.component, a.events] for a in visit.answered],
    ]
    return hashlib.sha256(json.dumps(rests_on, sort_keys=True, default=str).encode()).hexdigest()
