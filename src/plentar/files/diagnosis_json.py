"""The judge's whole answer as JSON and back, to be kept and shown again as it was."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from pydantic import TypeAdapter, ValidationError

from plentar.core.judgement import Diagnosis
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Visit
from plentar.files.events_json import event_to_json
from plentar.files.unit_json import unit_to_json

#: Raised with every change of what the judge says, so that no answer of an older one is shown.
JUDGE_VERSION = 1
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


def evidence_digest(unit: Unit, visit: Visit) -> str:
    """All that an answer rests on, in a word: two visits of the same evidence have the same."""
    rests_on = [
        JUDGE_VERSION,
        unit_to_json(unit),
        visit.complaint,
        [str(visit.settings.band), visit.settings.altitude_ft, visit.settings.frequencies],
        [event_to_json(event) for event in visit.events],
        [[seen.t_s, seen.item, seen.state] for seen in visit.looked],
        [[a.t_s, a.code, a.component, a.events] for a in visit.answered],
    ]
    return hashlib.sha256(json.dumps(rests_on, sort_keys=True, default=str).encode()).hexdigest()
