"""The visit file: one JSON document that carries a unit and, if there was one, a visit."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any, Literal, TypeVar

from pydantic import Field, ValidationError

from plentar.core.errors import BadInput
from plentar.core.unit.unit import Unit
from plentar.core.visit.against_record import with_struck
from plentar.core.visit.events import Visit, check_visit
from plentar.files.events_json import STRUCK_OUT, TAG
from plentar.files.handover_json import MOST_BASE64, MOST_PHOTOS
from plentar.files.refusals import reason_of
from plentar.files.shapes import Strict
from plentar.files.text import read_json
from plentar.files.unit_json import UnitJson
from plentar.files.visit_json import VisitJson
from plentar.words import phrase

FORMAT = "plentar-visit"
VERSION = 1
MAX_BYTES = 2_000_000 + MOST_PHOTOS * MOST_BASE64
#: Up to here a whole number is one in every reader.
_WHOLE = 2.0**53
_M = TypeVar("_M", bound=Strict)


class VisitFile(Strict):
    """A visit file. ``expect`` is the answer due in test cases; readers ignore it."""

    format: Literal["plentar-visit"]
    version: Literal[1]
    unit: UnitJson
    visit: VisitJson = VisitJson()
    expect: Any = Field(default=None, description="Readers ignore this.")

    def to_core(self) -> tuple[Unit, Visit]:
        """The checked unit and visit; raises BadInput with the path in the file."""
        try:
            unit = self.unit.to_core()
        except BadInput as bad:
            raise bad.under("unit") from None
        visit = self.visit.to_core()
        try:
            check_visit(unit, visit)
            for index, struck in enumerate(self.visit.struck):
                _check_struck(unit, struck.event, f"struck[{index}].event")
        except BadInput as bad:
            raise bad.under("visit") from None
        left_out = [one.event.to_core() for one in self.visit.struck]
        return unit, replace(visit, events=with_struck(unit, visit.events, left_out))


def _check_struck(unit: Unit, event: Any, path: str) -> None:
    if event.kind.name not in STRUCK_OUT:
        raise BadInput(
            path, phrase("files.visit-file.only-struck-out", struck_out=", ".join(sorted(STRUCK_OUT)))
        )
    try:
        check_visit(unit, Visit(events=(event.to_core(),)))
    except BadInput as bad:
        raise BadInput(bad.path.replace("events[0]", path, 1), bad.reason) from None


def parse_visit_file(text: str | bytes) -> VisitFile:
    """A visit file from JSON text, checked whole; raises BadInput with path and reason."""
    if len(text) > MAX_BYTES:
        raise BadInput("", phrase("files.visit-file.larger-than-bytes", max_bytes=f"{MAX_BYTES:,}"))
    parsed = parse_model(VisitFile, read_json(text))
    parsed.to_core()
    return parsed


def parse_model(model: type[_M], document: Any) -> _M:
    """A pydantic model from parsed JSON; its first complaint as BadInput."""
    try:
        return model.model_validate(document)
    except ValidationError as error:
        raise bad_input(error) from None


def bad_input(error: ValidationError) -> BadInput:
    """Pydantic's first complaint: a JSON path and a reason."""
    first = error.errors(include_url=False)[0]
    path = ""
    for step in first["loc"]:
        if isinstance(step, int):
            path += f"[{step}]"
        elif step not in _UNION_TAGS and not step.startswith(TAG):
            path += f".{step}" if path else str(step)
    return BadInput(path, reason_of(first))


#: What pydantic puts into a path for the arms of a union.
_UNION_TAGS = frozenset({"ThroughJson", "float", "constrained-float"})


def write_visit_file(unit: dict[str, Any], visit: dict[str, Any]) -> str:
    """The JSON text of a visit file from its two halves, each number in its shortest form: taken in
    and written again it is the same text."""
    document = _shortest({"format": FORMAT, "version": VERSION, "unit": unit, "visit": visit})
    return json.dumps(document, ensure_ascii=False, indent=1) + "\n"


def _shortest(value: Any) -> Any:
    """Whole numbers as such, wherever they stand."""
    if isinstance(value, float) and value.is_integer() and abs(value) < _WHOLE:
        return int(value)
    if isinstance(value, dict):
        return {key: _shortest(each) for key, each in value.items()}
    return [_shortest(each) for each in value] if isinstance(value, list | tuple) else value
