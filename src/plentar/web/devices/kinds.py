"""The drawer of part kinds: those that ship, and the shop's own, laid out in a grid."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from flask import Blueprint, redirect, render_template, request, url_for
from markupsafe import Markup

from plentar.core.errors import BadInput
from plentar.core.quantity import parse_reading
from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.parts import CONTROL_KINDS, RELAY_KINDS
from plentar.core.unit.terminals import PartKind
from plentar.drawing.part import part_figure
from plentar.files.part_kind_json import PartKindJson
from plentar.files.visit_file import parse_model
from plentar.store.part_kinds import drop_part_kind, keep_part_kind, part_kinds_of
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.devices.entry import KindEntry
from plentar.web.entry import Form, parse_entry
from plentar.web.people import me, signed_in
from plentar.words import phrase

kinds = Blueprint("kinds", __name__, url_prefix="/parts")
COLUMNS, ROWS, SETS = 4, 6, 6
ACTS = {name: kind.title for name, kind in (CONTROL_KINDS | RELAY_KINDS).items()}
_PAIR = re.compile(r"\s*[,;…]\s*|\s+")


def _words(typed: str) -> list[str]:
    return [word for word in _PAIR.split(typed.strip()) if word]


def _two(typed: str, field: str) -> list[str]:
    words = _words(typed)
    if len(words) != 2:
        raise BadInput(field, phrase("devices.kinds.name-two-such-b"))
    return words


def _sets(entry: KindEntry) -> Iterator[dict[str, Any]]:
    role = "blower" if entry.device in RELAY_KINDS else "element"
    for number, typed in enumerate(entry.sets, 1):
        words = _words(typed)
        if not words:
            continue
        if not 2 <= len(words) <= 3:
            raise BadInput("sets", phrase("devices.kinds.set-common-normally-open"))
        no, nc = words[1], words[2] if len(words) > 2 else "-"
        ends = {key: end for key, end in (("no", no), ("nc", nc)) if end not in ("-", "–")}
        windows = _windows(entry.windows[number - 1]) if number <= len(entry.windows) else {}
        yield {"name": str(number), "common": words[0], "role": role, **ends, **windows}


def _windows(typed: str) -> dict[str, list[float]]:
    """Printed windows of a set: on from, to, off from, to, s; nothing where none is printed."""
    words = _words(typed)
    if not words:
        return {}
    if len(words) not in (2, 4):
        raise BadInput("windows", phrase("devices.kinds.from-off-from-seconds"))
    numbers = [_number(word) for word in words]
    off = {"off_s": numbers[2:]} if numbers[2:] else {}
    return {"on_s": numbers[:2], **off}


def _coil_ohms(typed: str) -> dict[str, list[float]]:
    if not typed.strip():
        return {}
    return {"coil_ohms": [_number(word, "coil_ohms") for word in _two(typed, "coil_ohms")]}


def _number(word: str, field: str = "windows") -> float:
    try:
        return parse_reading(word)
    except BadInput as bad:
        raise BadInput(field, bad.reason) from None


def kind_from(entry: KindEntry) -> PartKind:
    """The kind that a form lays out; raises BadInput at its field."""
    terminals = []
    for at, typed in enumerate(entry.grid):
        name = typed.strip()
        if name:
            dummy = name.endswith("*")
            terminals.append(
                {
                    "name": name.rstrip("*"),
                    "column": at % COLUMNS,
                    "row": at // COLUMNS,
                    "blade": entry.blade,
                    **({"dummy": True} if dummy else {}),
                }
            )
    given = {
        name: value
        for name in ("resistive_amps", "motor_amps", "coil_va")
        if (value := getattr(entry, name)) is not None
    }
    slug = re.sub(r"[^a-z0-9]+", "-", entry.title.lower()).strip("-")[:36]
    if not slug:
        raise BadInput("title", phrase("devices.kinds.title-has-letters-or"))
    body = {
        "name": f"own-{slug}"[:40].rstrip("-"),
        "title": entry.title.strip(),
        "device": entry.device,
        "terminals": terminals,
        "coil": _two(entry.coil, "coil"),
        "sets": list(_sets(entry)),
        "coil_volts": entry.coil_volts,
        **given,
        **({"tied": [_two(entry.tied, "tied")]} if entry.tied.strip() else {}),
        **_coil_ohms(entry.coil_ohms),
    }
    return parse_model(PartKindJson, body).to_core()


@kinds.get("")
@signed_in
def drawer() -> Answer:
    return _drawer(Form())


@kinds.post("")
@signed_in
def lay_out() -> Answer:
    try:
        kind = kind_from(parse_entry(KindEntry, request.form))
    except BadInput as bad:
        return _drawer(Form(request.form, bad), 422)
    keep_part_kind(database(), me().shop_id, kind)
    database().commit()
    return redirect(url_for("kinds.drawer") + f"#{kind.name}")


@kinds.post("/<name>/remove")
@signed_in
def remove(name: str) -> Answer:
    drop_part_kind(database(), me().shop_id, name)
    database().commit()
    return redirect(url_for("kinds.drawer"))


def _drawer(form: Form, status: int = 200) -> Answer:
    own = part_kinds_of(database(), me().shop_id)
    shown = [
        (kind, Markup(part_figure(kind, {})), kind.name in own)
        for kind in (*own.values(), *PART_KINDS.values())
    ]
    page = render_template(
        "devices/drawer.html",
        shown=shown,
        form=form,
        acts=ACTS,
        cells=range(COLUMNS * ROWS),
        grid=request.form.getlist("grid"),
        sets=request.form.getlist("sets"),
        windows=request.form.getlist("windows"),
        set_lines=range(SETS),
    )
    return page, status
