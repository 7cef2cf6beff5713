"""Fields that parse what people type before anything else sees it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from wtforms import Field
from wtforms.fields.choices import SelectChoice
from wtforms.widgets import TextInput

from plentar.core.errors import BadInput
from plentar.core.quantity import parse_reading


class NumberField(Field):
    """A number as people type it: comma or point, prefixes; empty when not required."""

    widget = TextInput()

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

    def _value(self) -> str:
        return self.raw_data[0] if self.raw_data else ""

    def process_formdata(self, valuelist: list[str]) -> None:
        """Parse, and hold against the least and the most."""
        typed = (valuelist[0] if valuelist else "").strip()
        if not typed and not self.required:
            self.data = None
            return
        try:
            self.data = parse_reading(typed)
        except BadInput as bad:
            self.data = None
            raise ValueError(bad.reason) from None
        if math.isinf(self.data) or not self.least <= self.data <= self.most:
            raise ValueError(f"from {self.least:g} to {self.most:g}")


def choices(said: Mapping[str, str]) -> list[SelectChoice]:
    """Values and what a person reads for them."""
    return [SelectChoice(value, label) for value, label in said.items()]
