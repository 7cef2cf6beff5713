"""What may not be switched while a stop stands open: every switch asks here before it is stored."""

from __future__ import annotations

import math
import uuid
from collections.abc import Collection, Sequence

from plentar.core.door import bars_of, judge_checked
from plentar.core.errors import BadInput
from plentar.core.judgement import Finding
from plentar.core.relay_bench.sheet import open_sheets
from plentar.core.safety.reach import live_under_hands
from plentar.core.said import listed
from plentar.core.visit.events import HANDS_ON, ON
from plentar.core.visit.state import PanelState, all_on_s, state_at
from plentar.files.visit_json import NoteJson
from plentar.store.record import VisitRecord
from plentar.store.visits import add_note, find_visit
from plentar.web.database import database
from plentar.web.judge_pool import SWITCH_S, Busy
from plentar.web.people import me
from plentar.web.pocket.taken import waited
from plentar.web.visits.view import BenchView
from plentar.words import phrase


def state_of(record: VisitRecord) -> PanelState:
    return state_at(record.unit, record.core().events, record.elapsed_s)


def suspected_in(visit_id: uuid.UUID, patience_s: float = SWITCH_S) -> tuple[Finding, ...] | None:
    """The open stops that the leading suspect means. To be asked before the visit is locked: the
    judge takes a while, and readings don't wait for it. None where it has not answered to the newest
    evidence, which is no word of safety."""
    view = BenchView(find_visit(database(), me().shop_id, visit_id), patience_s)
    database().rollback()
    try:
        return view.suspected if not view.diagnosis.left_out else None
    except Busy:
        return None


def suspected_before(visit_id: uuid.UUID) -> tuple[Finding, ...] | None:
    """The same before a switch; of one that was moved a while ago nobody asks."""
    return None if waited() else suspected_in(visit_id)


def not_checked(record: VisitRecord, what: str, suspected: Sequence[Finding] | None) -> None:
    """Notes what was switched before the judge had answered: its word follows, and the stop's act with it."""
    if suspected is not None:
        return
    said = phrase("visits.gates.not-checked-yet-judge", what=what)
    note = NoteJson(t=record.elapsed_s, text=said, by=me().name)
    add_note(database(), record, note, uuid.uuid4(), me().id)


def check_dead(record: VisitRecord, field: str, live: str) -> None:
    """Raise BadInput where a wire may be live: by the record, in the words ``live``, or because something
    was read live that the record has off."""
    if state_of(record).live:
        raise BadInput(field, live)
    refused = bars_of(judge_checked(record.unit, record.core())).dead_work_refusal()
    if refused:
        raise BadInput(field, refused)


def live_work(record: VisitRecord, verb: str, part: str) -> str:
    """Why hands do not go there by the record, in words; empty where they may."""
    if verb not in HANDS_ON or part not in record.unit.workable:
        return ""
    live = sorted(live_under_hands(record.unit, state_of(record), part))
    if not live:
        return ""
    if all(name.endswith(".line") for name in live):
        fed = listed(name.removesuffix(".line") for name in live)
        return phrase("visits.gates.line-side-stays-live", fed=fed)
    return phrase(
        "visits.gates.record-breakers-off-proved",
        live=listed(live),
        how=phrase("visits.gates.is") if len(live) == 1 else phrase("visits.gates.are"),
    )


def is_on(record: VisitRecord, calls: frozenset[str]) -> bool:
    """Whether this is what is called; raises BadInput while not all of it has come on."""
    state = state_of(record)
    if state.calls != calls:
        return False
    left_s = all_on_s(record.unit) - (record.elapsed_s - max(state.since_s.values(), default=0.0))
    if left_s > 0:
        raise BadInput("", phrase("visits.gates.heat-fan-still-coming", ceil=math.ceil(left_s)))
    return True


def check_driven(record: VisitRecord, device: str) -> None:
    """Raise BadInput where a bench supply would feed more than a coil: calls stand, or its own two wires
    are on. Backwards, the transformer makes line volts of 24."""
    now = state_of(record)
    if now.calls:
        raise BadInput("driven", phrase("visits.gates.end-call-first", calls=" and ".join(sorted(now.calls))))
    if f"{device}.coil" not in now.coils_off:
        raise BadInput("driven", phrase("visits.gates.both-wires-coil-off", device=device))


def check_bars(
    record: VisitRecord,
    power: Collection[str] = (),
    calls: frozenset[str] | None = None,
    suspected: Sequence[Finding] | None = (),
) -> None:
    """Raise BadInput where an open stop, or a swap that is not through, bars what is to be switched
    on or called. What was moved a while ago is a fact, and asks for no leave."""
    if waited():
        return
    sheets = open_sheets(record.unit, record.core().events) if power else []
    if sheets:
        first = sheets[0]
        raise BadInput(
            "power", phrase("visits.gates.swap-not-through", device=first.device, open=first.open[0])
        )
    closing = {cid for cid in power if state_of(record).power[cid] != ON}
    if closing and (coils := state_of(record).coils_off):
        raise BadInput("power", phrase("visits.gates.wires-off-back-first", coils=listed(sorted(coils))))
    judgement = judge_checked(record.unit, record.core())
    refused = bars_of(judgement, suspected or ()).refusal(state_of(record), power, calls)
    if refused:
        raise BadInput("calls" if calls is not None else "power", refused)
