"""What the models of all kinds of event share."""

from __future__ import annotations

from abc import abstractmethod
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

    @classmethod
    @abstractmethod
    def read(cls, body: dict[str, Any], when: dict[str, Any]) -> core.Event:
        """The core's event from a checked body; ``when`` holds its time, lead and key."""

    @classmethod
    @abstractmethod
    def write(cls, event: Any) -> dict[str, Any]:
        """The keys of the kind; what is at its default is left out."""

    def to_core(self) -> core.Event:
        return self.from_body(self.model_dump(exclude_none=True, by_alias=True))

    @classmethod
    def from_body(cls, body: dict[str, Any], key: str = "") -> core.Event:
        """The core's event from a body of this kind that was checked, as stored ones are."""
        when = {"t_s": body["t"], "lead_s": body.get("lead_s", 0.0), "key": key}
        return cls.read(body, when | {"clock_s": body.get("clock")})


def given(**values: Any) -> dict[str, Any]:
    """What is not at its default."""
    return {name: value for name, value in values.items() if value}
