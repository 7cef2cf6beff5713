"""The shop's archive: written to a file and sent; taken in after a look at what it would change."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from typing import IO, cast

from flask import Blueprint, Response, redirect, render_template, request, send_file, url_for
from pydantic import BaseModel

from plentar.core.errors import BadInput
from plentar.store.archive.send import write_archive
from plentar.store.archive.take_in import Taken, read_archive
from plentar.store.units import make_unit
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.entry import parse_entry
from plentar.web.handover.photos import most_photo_bytes
from plentar.web.people import me, signed_in
from plentar.web.shop.first_day import COLUMNS, Complaint, UnitLine, read_units
from plentar.web.shop.room import rooms
from plentar.web.units.entry import KIT_TILES
from plentar.words import phrase

shop = Blueprint("shop", __name__, url_prefix="/shop")


class TakeInEntry(BaseModel):
    """Whether an archive is only looked at."""

    dry: bool = False


@shop.get("/archive")
@signed_in
def show() -> Answer:
    return _page()


@shop.get("/archive.zip")
@signed_in
def send() -> Response:
    kept = cast(IO[bytes], tempfile.TemporaryFile())  # noqa: SIM115 (closed once it is sent)
    try:
        write_archive(database(), me().shop_id, kept)  # type: ignore[arg-type]
    except BaseException:
        kept.close()
        raise
    kept.seek(0)
    answer: Response = send_file(
        kept, "application/zip", as_attachment=True, download_name="plentar-shop.zip", max_age=0
    )
    answer.call_on_close(kept.close)
    return answer


@shop.post("/archive")
@signed_in
def take_in() -> Answer:
    dry = parse_entry(TakeInEntry, request.form).dry
    file = request.files.get("archive")
    try:
        if file is None or not file.filename:
            raise BadInput("archive", phrase("shop.routes.choose-archive"))
        taken = read_archive(database(), me(), file.stream, most_photo_bytes(), dry=dry)  # type: ignore[arg-type]
    except BadInput as bad:
        database().rollback()
        return _page(problem=str(bad)), 422
    return _page(taken, dry=dry)


def _page(taken: Taken | None = None, problem: str = "", *, dry: bool = False) -> str:
    return render_template(
        "shop/archive.html",
        taken=taken,
        problem=problem,
        dry=dry,
        columns=COLUMNS,
        kit=KIT_TILES,
        rooms=rooms(),
    )


@shop.post("/units")
@signed_in
def first_units() -> Answer:
    """Units from a CSV file: looked at first, made when asked for, and only all of them."""
    dry = parse_entry(TakeInEntry, request.form).dry
    file = request.files.get("units")
    try:
        if file is None or not file.filename:
            raise BadInput("", phrase("shop.routes.choose-csv-file"))
        lines, complaints = read_units(file.read())
    except BadInput as bad:
        return _units_page([], [Complaint(1, "", str(bad.reason))]), 422
    if complaints or dry:
        return _units_page(lines, complaints, dry=dry), 422 if complaints else 200
    for line in lines:
        make_unit(database(), me().shop_id, line.unit, line.where, line.key(me().shop_id))
    database().commit()
    return redirect(url_for("lane.show"))


def _units_page(lines: Sequence[UnitLine], complaints: Sequence[Complaint], *, dry: bool = False) -> str:
    return render_template("shop/units.html", lines=lines, complaints=complaints, dry=dry)
