"""What a bench's forms send, as typed values. Pydantic rather than WTForms: these are parsed on
every reading, have no widgets, and are refused with one reason beside the field."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Annotated, Any, Literal, TypeVar

from pydantic import BaseModel, BeforeValidator, Field, ValidationError

from plentar.core.errors import BadInput
from plentar.core.parts import CALLS
from plentar.core.quantity import Quantity, parse_reading
from plentar.files.visit_file import bad_input


def _number(typed: Any) -> float:
    try:
        return parse_reading(str(typed))
    except BadInput as bad:
        raise ValueError(bad.reason) from None


class Entry(BaseModel):
    """An event; the client makes its id, so that sending it twice stores one."""

    client_id: uuid.UUID


class ReadingEntry(Entry):
    """One reading off the meter."""

    value: Annotated[float, BeforeValidator(_number)]
    at: Annotated[str, Field(min_length=1, max_length=90)]
    quantity: Quantity
    driven: bool = False
    note: Annotated[str, Field(max_length=2000)] = ""


def _calls(typed: Any) -> frozenset[str]:
    asked = frozenset(filter(None, str(typed).split(",")))
    if not asked <= set(CALLS):
        raise ValueError(f"only {', '.join(CALLS)}")
    return asked


class TakeEntry(Entry):
    """A proposal taken up: the point, and the state to bring the unit into before."""

    at: Annotated[str, Field(min_length=1, max_length=90)]
    quantity: str = ""
    power: Literal["on", "proved-dead"] | None = None
    calls: Annotated[frozenset[str], BeforeValidator(_calls)] | None = None
    lifted: bool = False
    fresh: bool = False
    driven: bool = False
    after_s: Annotated[float, Field(ge=0, le=86400)] = 0.0
    observe: Literal["cycling", "steady"] | None = None


_E = TypeVar("_E", bound=Entry)


def parse_entry(kind: type[_E], form: Mapping[str, str]) -> _E:
    """The form as a typed entry; raises BadInput at the first field that does not fit."""
    try:
        return kind.model_validate(dict(form))
    except ValidationError as error:
        raise bad_input(error) from None
