"""Fields that parse what people type before anything else sees it."""

from __future__ import annotations

import math
import uuid
from collections.abc import Mapping
from typing import Any

from flask_wtf import FlaskForm
from wtforms import Field, StringField
from wtforms.fields.choices import SelectChoice
from wtforms.widgets import TextInput

from plentar.core.errors import BadInput
from plentar.core.numerals import parse_reading


class ReadingField(Field):
    """A number off a meter: comma or point, prefixes, OL."""

    widget = TextInput()

    def _value(self) -> str:
        return self.raw_data[0] if self.raw_data else ""

    def process_formdata(self, valuelist: list[str]) -> None:
        """Parse the typed text; the reason of a refusal becomes the field's error."""
        try:
            self.data = parse_reading(valuelist[0] if valuelist else "")
        except BadInput as bad:
            self.data = None
            raise ValueError(bad.reason) from None


class NumberField(ReadingField):
    """A plain number; may be left empty when not required."""

    def __init__(
        self,
        label: str,
        least: float,
        most: float,
        required: bool = True,
        **kw: Any,
    ) -> None:
        super().__init__(label, **kw)
        self.least, self.most, self.required = least, most, required

    def process_formdata(self, valuelist: list[str]) -> None:
        """Parse, and hold against the least and the most."""
        typed = (valuelist[0] if valuelist else "").strip()
        if not typed and not self.required:
            self.data = None
            return
        super().process_formdata([typed])
        if math.isinf(self.data) or not self.least <= self.data <= self.most:
            raise ValueError(f"from {self.least:g} to {self.most:g}")


class UuidField(StringField):
    """An id that the client made."""

    def process_formdata(self, valuelist: list[str]) -> None:
        """Parse; a missing or wrong id is refused."""
        try:
            self.data = uuid.UUID(valuelist[0] if valuelist else "")
        except ValueError:
            raise ValueError("not an id") from None


def first_error(form: FlaskForm) -> str:
    """The first complaint of a form, for a line above it."""
    for errors in form.errors.values():
        if errors:
            return str(errors[0])
    return ""


def choices(said: Mapping[str, str]) -> list[SelectChoice]:
    """Values and what a person reads for them."""
    return [SelectChoice(value, label) for value, label in said.items()]
