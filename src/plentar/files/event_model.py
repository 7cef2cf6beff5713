"""What the models of all kinds of event share."""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Callable, Mapping
from typing import Annotated, Any, ClassVar

from pydantic import Field

from plentar.core.visit import events as core
from plentar.files.shapes import Strict

TimeS = Annotated[float, Field(ge=0, le=1e8)]
PartName = Annotated[str, Field(max_length=60)]
Note = Annotated[str, Field(max_length=2000)]


class EventModel(Strict):
    """One event of the file: ``t``, and the keys of its kind."""

    #: The core's class of this kind.
    kind: ClassVar[type[core.Event]]

    t: TimeS
    lead_s: Annotated[float, Field(ge=0, le=3600)] = 0
    clock: (
        Annotated[
            float,
            Field(ge=0, le=1e8, description="The clock's own time, where it had stepped back behind t."),
        ]
        | None
    ) = None

    #: Of a key its name in the core where it has another, how it is read and written where it is not as
    #: it stands, and which are written though they are at their default.
    named: ClassVar[Mapping[str, str]] = {}
    reads: ClassVar[Mapping[str, Callable[[Any], Any]]] = {}
    writes: ClassVar[Mapping[str, Callable[[Any], Any]]] = {}
    always: ClassVar[frozenset[str]] = frozenset()
    #: The keys of the kind, each with its name in the core, and what the core takes where it is left out.
    keys: ClassVar[tuple[tuple[str, str, Any], ...]] = ()

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        defaults = {f.name: f.default for f in dataclasses.fields(cls.kind)}
        own = [f.alias or name for name, f in cls.model_fields.items() if name not in EventModel.model_fields]
        cls.keys = tuple((key, name := cls.named.get(key, key), defaults[name]) for key in own)

    def to_core(self) -> core.Event:
        return self.from_body(self.model_dump(exclude_none=True, by_alias=True))

    @classmethod
    def from_body(cls, body: dict[str, Any], key: str = "") -> core.Event:
        """The core's event from a body of this kind that was checked, as stored ones are."""
        own = {}
        for name, called, _ in cls.keys:
            value = body.get(name)
            if value is not None:
                own[called] = cls.reads[name](value) if name in cls.reads else value
        when = {"t_s": body["t"], "lead_s": body.get("lead_s", 0.0), "clock_s": body.get("clock")}
        return cls.kind(**when, key=key, **own)

    @classmethod
    def write(cls, event: core.Event) -> dict[str, Any]:
        """The keys of the kind; what is at its default is left out."""
        found = {}
        for name, called, default in cls.keys:
            value = getattr(event, called)
            if value != default or name in cls.always:
                found[name] = cls.writes[name](value) if name in cls.writes else value
        return found


def ohms_from_json(value: float | str) -> float:
    return math.inf if value == "OL" else float(value)


def ohms_to_json(value: float) -> float | str:
    return "OL" if math.isinf(value) else value


def given(**values: Any) -> dict[str, Any]:
    """What is not at its default."""
    return {name: value for name, value in values.items() if value}
