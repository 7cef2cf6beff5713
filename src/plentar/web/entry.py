"""The one way in for every post: what a form sends, as typed values, or what is wrong with it.

Each form is a pydantic model. ``parse_entry`` reads one or raises BadInput whose path is the field;
``Form`` keeps what was typed and that complaint for the page that is shown again.
"""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, TypeVar, get_origin

from flask import Flask, request
from pydantic import BaseModel, BeforeValidator, Field, ValidationError
from werkzeug.datastructures import MultiDict

from plentar.core.errors import BadInput
from plentar.core.quantity import parse_reading
from plentar.core.said import Said
from plentar.core.unit.parts import CALLS
from plentar.files.text import check_text
from plentar.files.visit_file import bad_input
from plentar.words import phrase


def _number(typed: Any) -> float:
    try:
        return parse_reading(str(typed))
    except BadInput as bad:
        raise ValueError(bad.reason) from None


def _maybe(typed: Any) -> float | None:
    return _number(typed) if str(typed).strip() else None


#: Around ``float | None``: a number as people type it, None where nothing was typed.
MAYBE = BeforeValidator(_maybe)


def _calls(typed: Any) -> frozenset[str]:
    texts = [typed] if isinstance(typed, str) else typed
    asked = frozenset(call for text in texts for call in text.split(",") if call)
    if not asked <= set(CALLS):
        raise ValueError(phrase("entry.only", calls=", ".join(CALLS)))
    return asked


def required(complaint: Said) -> BeforeValidator:
    """A text that must say something, with the complaint if it doesn't."""

    def check(typed: Any) -> str:
        if not str(typed).strip():
            raise ValueError(str(complaint))
        return str(typed)

    return BeforeValidator(check)


def _none(typed: Any) -> Any:
    return str(typed).strip() or None


#: Around a type that may be None: nothing typed is None.
empty_as_none = BeforeValidator(_none)


def seconds_of_a_day(typed: str) -> float:
    """Of a query. Raises ValueError where it is no number, or none of a day."""
    seconds = float(typed)
    if not 0 <= seconds <= 86_400:
        raise ValueError(typed)
    return seconds


#: A number as people type it: comma or point, prefixes, ``OL``.
Number = Annotated[float, BeforeValidator(_number)]
#: Terminals, separated by commas.
CallSet = Annotated[frozenset[str], BeforeValidator(_calls)]
PointName = Annotated[str, Field(min_length=1, max_length=90)]


def init_app(app: Flask) -> None:
    """What no page and no database can hold is refused before any form is looked at."""

    @app.before_request
    def _check_texts() -> None:
        for name, typed in request.form.items(multi=True):
            check_text(name, phrase("entry.fields-name"))
            check_text(typed, name)
        for file in request.files.values():
            check_text(file.filename or "", phrase("entry.files-name"))


class Entry(BaseModel):
    """An event; the client makes its id, so that sending it twice stores one."""

    client_id: uuid.UUID


_M = TypeVar("_M", bound=BaseModel)


def parse_entry(kind: type[_M], form: MultiDict[str, str]) -> _M:
    """The form as a typed entry; raises BadInput at the first field that does not fit.

    A field of the model that is a collection takes every value that the form has of its name.
    """
    typed: dict[str, Any] = {}
    for name, known in kind.model_fields.items():
        if name in form:
            many = get_origin(known.annotation) in (frozenset, tuple, list)
            typed[name] = form.getlist(name) if many else form[name]
    try:
        return kind.model_validate(typed)
    except ValidationError as error:
        raise bad_input(error) from None


@dataclass(frozen=True, slots=True)
class Form:
    """What was typed into a form, and the complaint that belongs beside one of its fields."""

    typed: Mapping[str, str] = field(default_factory=dict)
    bad: BadInput | None = None

    def value(self, name: str, otherwise: Any = "") -> str:
        return self.typed.get(name, str(otherwise))

    def error(self, name: str) -> str:
        """The complaint beside a field; empty where it fits."""
        return str(self.bad.reason if self.bad is not None and self.bad.path == name else "")
