"""A scene as a file: the plate, and how the scene is made from it. What is hidden is not written down in it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.files.visit_file import bad_input
from plentar.practice.scene import MOST_FAULTS, THEMES
from plentar.stand_ins.wider.specimen import Plate

MOST_BYTES = 200_000


class SceneFile(BaseModel):
    """Its own version, the unit as a visit file has it, and what is drawn by which word."""

    model_config = ConfigDict(extra="forbid")

    practice_scene: Literal[1]
    unit: UnitJson
    theme: Literal[tuple(THEMES)] = "any"  # type: ignore[valid-type]
    faults: Annotated[int, Field(ge=0, le=MOST_FAULTS)] = 1
    kind: Annotated[str, Field(max_length=40)] = ""
    lesson: Annotated[str, Field(max_length=60)] = ""
    seed: Annotated[str, Field(min_length=1, max_length=20)]

    @property
    def plate(self) -> Plate:
        return unit_to_json(self.unit.to_core())


def scene_file(plate: Plate, made: Mapping[str, Any]) -> str:
    """The file of a scene, by its plate and what made it."""
    kept = {key: made[key] for key in ("theme", "faults", "kind", "lesson", "seed")}
    return json.dumps({"practice_scene": 1, "unit": plate, **kept}, indent=2, ensure_ascii=False) + "\n"


def read_scene_file(content: bytes) -> SceneFile:
    """Raises BadInput at the path in the file."""
    if len(content) > MOST_BYTES:
        raise BadInput("scene", say("practice.scene-too-large"))
    try:
        return SceneFile.model_validate_json(content)
    except ValidationError as error:
        raise bad_input(error) from None
