"""Where a unit is, and the label that opens its page."""

from __future__ import annotations

import uuid
from typing import Annotated

from flask import Blueprint, redirect, render_template, request, url_for
from pydantic import BaseModel, BeforeValidator, Field

from plentar.core.errors import BadInput
from plentar.files.shop_json import MOST_DOOR, MOST_TAGS, Tag
from plentar.store.units import Whereabouts, find_unit, move_unit
from plentar.web.answer import Answer
from plentar.web.code import code_of
from plentar.web.database import database
from plentar.web.entry import Form, empty_as_none, parse_entry
from plentar.web.people import me, signed_in
from plentar.web.units.routes import unit_page

places = Blueprint("places", __name__, url_prefix="/units")


def _tags(typed: list[str] | str) -> tuple[str, ...]:
    line = typed if isinstance(typed, str) else ",".join(typed)
    words = (word.strip() for word in line.split(","))
    return tuple(dict.fromkeys(word for word in words if word))


class WhereEntry(BaseModel):
    """Where a unit is; tags are separated by commas."""

    place: Annotated[str, Field(max_length=200)] = ""
    door: Annotated[Annotated[int, Field(ge=0, le=MOST_DOOR)] | None, empty_as_none] = None
    on_site: Annotated[str, Field(max_length=120)] = ""
    tags: Annotated[tuple[Tag, ...], BeforeValidator(_tags), Field(max_length=MOST_TAGS)] = ()
    note: Annotated[str, Field(max_length=4000)] = ""

    def where(self) -> Whereabouts:
        """The same for the store."""
        return Whereabouts(self.place.strip(), self.door, self.on_site.strip(), self.tags, self.note.strip())


@places.post("/<uuid:unit_id>/where")
@signed_in
def move(unit_id: uuid.UUID) -> Answer:
    """Say where a unit is."""
    record = find_unit(database(), me().shop_id, unit_id)
    try:
        entry = parse_entry(WhereEntry, request.form)
    except BadInput as bad:
        field = bad.path.split(".")[0].split("[")[0]  # of tags the one that does not fit
        return unit_page(record, None, Form(request.form, BadInput(field, bad.reason))), 422
    move_unit(database(), record, entry.where())
    database().commit()
    return redirect(url_for("units.show", unit_id=unit_id))


@places.get("/<uuid:unit_id>/label")
@signed_in
def label(unit_id: uuid.UUID) -> str:
    """A label to print and stick on the unit; its code holds the address of the unit's page."""
    record = find_unit(database(), me().shop_id, unit_id)
    address = url_for("units.show", unit_id=unit_id, _external=True)
    return render_template("units/label.html", record=record, address=address, code=code_of(address))
