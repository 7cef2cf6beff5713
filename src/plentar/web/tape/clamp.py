"""The simulated clamp on a visit: live, as server-sent events, and as a log so far.

It plays a made-up unit of the same plate, with a fault to choose, through the visit's own calls:
the tape can be practised without a meter. It never writes to the visit.
"""

from __future__ import annotations

import json
import time
import uuid
from collections.abc import Callable, Iterator, Sequence

import numpy as np
from flask import Blueprint, Response, current_app, render_template, request, url_for

from plentar.core.door import check_faults
from plentar.core.errors import BadInput
from plentar.core.logged.columns import check_columns
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event, Visit
from plentar.core.visit.state import as_it_was
from plentar.drawing.live import LiveCurves
from plentar.files.log_csv import write_log_csv
from plentar.stand_ins.heat_call import heat_test, samples
from plentar.stand_ins.logging_clamp import LoggingClamp
from plentar.store.errors import NotFound
from plentar.store.units import find_unit
from plentar.store.visits import find_visit
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.people import me, signed_in
from plentar.web.tape.streams import Streams
from plentar.words import phrase

clamps = Blueprint("clamps", __name__)
#: How long a stream plays before the browser must ask again.
STREAM_S = 600.0
SAMPLE_S = 0.5
HEAT_MINUTES, LOG_HERTZ, MOST_MINUTES = 10.0, 2.0, 120.0
_streams = Streams()


@clamps.get("/visits/<uuid:visit_id>/clamp")
@signed_in
def visit_stream(visit_id: uuid.UUID) -> Response:
    """Amps now, twice a second, as the visit's calls stand."""
    shop_id = me().shop_id
    record = find_visit(database(), shop_id, visit_id)
    sessions = current_app.extensions["plentar_sessions"]

    def now() -> tuple[Sequence[Event], float]:
        with sessions() as session:
            fresh = find_visit(session, shop_id, visit_id)
        return list(as_it_was(fresh.core().events)), fresh.elapsed_s

    return _played(_clamp(record.unit, str(visit_id)), now)


@clamps.get("/visits/<uuid:visit_id>/clamp/live")
@signed_in
def live(visit_id: uuid.UUID) -> Answer:
    """The place on the tape that plays the stream; without a fault named, it stops."""
    find_visit(database(), me().shop_id, visit_id)
    if "fault" not in request.args:
        return ""
    stream = url_for("clamps.visit_stream", visit_id=visit_id, fault=request.args["fault"])
    stop = url_for("clamps.live", visit_id=visit_id)
    return render_template("tape/_live.html", stream=stream, stop=stop)


@clamps.get("/units/<uuid:unit_id>/clamp")
@signed_in
def unit_stream(unit_id: uuid.UUID) -> Response:
    """A test call on a unit of the shop, from when the stream is opened."""
    unit = find_unit(database(), me().shop_id, unit_id).unit
    events, _ = heat_test(unit, Visit(), 60 * HEAT_MINUTES)
    began = time.monotonic()
    return _played(_clamp(unit, str(unit_id)), lambda: (events, time.monotonic() - began))


def _played(clamp: LoggingClamp, now: Callable[[], tuple[Sequence[Event], float]]) -> Response:
    """The clamp as server-sent events, until the browser goes or must ask again."""
    end = _streams.begin(me().id, me().shop_id)

    def play() -> Iterator[str]:
        random, curves = np.random.default_rng(), LiveCurves()
        began = time.monotonic()
        for number in range(int(STREAM_S / SAMPLE_S)):
            try:
                events, t_s = now()
            except NotFound:
                return
            amps = clamp.log(events, np.array([t_s]), random)[0]
            shown = {at: round(float(a), 2) for at, a in zip(clamp.points, amps, strict=True)}
            curves.add(t_s, shown)
            yield f"data: {json.dumps({'t': round(t_s, 2), 'amps': shown})}\n\n"
            yield f"event: curves\ndata: {curves.html()}\n\n"
            time.sleep(max(0.0, began + (number + 1) * SAMPLE_S - time.monotonic()))

    answer = Response(play(), mimetype="text/event-stream")
    answer.headers["X-Accel-Buffering"] = "no"
    answer.call_on_close(end)
    return answer


@clamps.get("/visits/<uuid:visit_id>/clamp.csv")
@signed_in
def visit_log(visit_id: uuid.UUID) -> Response:
    """What the simulated clamp would have logged of this visit so far."""
    record = find_visit(database(), me().shop_id, visit_id)
    clamp = _clamp(record.unit, f"{visit_id}")
    events = list(as_it_was(record.core().events))
    until_s = min(record.elapsed_s, 60 * MOST_MINUTES)
    rows = samples(clamp, events, until_s, LOG_HERTZ, str(visit_id))
    return _csv(clamp, rows, record.unit.id)


@clamps.get("/units/<uuid:unit_id>/clamp.csv")
@signed_in
def unit_log(unit_id: uuid.UUID) -> Response:
    unit = find_unit(database(), me().shop_id, unit_id).unit
    minutes = request.args.get("minutes", HEAT_MINUTES, float)
    if not 0 < minutes <= MOST_MINUTES:
        raise BadInput("minutes", phrase("tape.clamp.up-minutes-heat", most_minutes=f"{MOST_MINUTES:g}"))
    clamp = _clamp(unit, str(unit_id))
    events, until_s = heat_test(unit, Visit(), 60 * minutes)
    return _csv(clamp, samples(clamp, events, until_s, LOG_HERTZ, str(unit_id)), unit.id)


def _clamp(unit: Unit, seed: str) -> LoggingClamp:
    """The clamp that the address asks for: a fault of the unit, and the points; all feeds if none."""
    asked = request.args.get("fault", "")
    faults = check_faults(unit, asked.split("+") if asked else [])
    points = request.args.getlist("at") or [circuit.id for circuit in unit.circuits]
    check_columns(unit, points)
    return LoggingClamp(unit, faults, points, seed)


def _csv(clamp: LoggingClamp, rows: Iterator[tuple[float, Sequence[float]]], name: str) -> Response:
    return download(write_log_csv(clamp.points, rows), f"{name}-simulated.csv", "text/csv")
