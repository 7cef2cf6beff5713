"""Load the demo once: shop, people, plates, and the round of October 2026, half done."""

from __future__ import annotations

import uuid
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from plentar.files.visit_json import event_to_json
from plentar.store.accounts import SignedIn, find_account, make_account, make_shop
from plentar.store.demo.plates import PLACE, plates
from plentar.store.demo.readings import Bench, Condition
from plentar.store.models import Round, Shop, VisitEvent, now
from plentar.store.units import UnitRecord, make_unit
from plentar.store.visits import start_visit

SHOP = "Brindlemoor Comfort"
PASSWORD = "saltmarsh-lane"
PEOPLE = (
    ("ines", "Ines Marlow", "lead"),
    ("tobias", "Tobias Renner", "technician"),
    ("wen", "Wen Achterberg", "technician"),
)
ROUND = "October 2026"
NAMESPACE = uuid.UUID("5a17a125-1a9e-4d0e-8f00-000000000000")


@dataclass(frozen=True)
class Plan:
    """What this year's round did at one home."""

    day: int
    who: str
    condition: Condition = field(default_factory=Condition)
    complaint: str = "check-up"
    upto: int | None = None
    left_note: str = ""
    follow_up: str = ""


PLANS = {
    1: Plan(5, "tobias", Condition(idle_volts=242)),
    2: Plan(
        5, "tobias", Condition(idle_volts=240),
        left_note="Second stage comes late, later than last year. Runs until the part is here.",
        follow_up="Sequencer on order, same windows as printed.",
    ),
    3: Plan(
        6, "wen", Condition(idle_volts=241, source_ohms=0.27),
        left_note="Volts fall by more than last year with both strips on; lug is warm.",
    ),
    4: Plan(6, "wen", Condition(idle_volts=239)),
    5: Plan(
        12, "tobias",
        Condition(idle_volts=240, open_rungs={"E2": "S1.2"}), "not-enough-heat", upto=8,
    ),
    6: Plan(7, "wen", Condition(idle_volts=243), left_note="Filter clean this time."),
    7: Plan(7, "ines", Condition(idle_volts=240)),
    8: Plan(8, "ines", Condition(idle_volts=207, source_ohms=0.03)),
    11: Plan(
        8, "tobias", Condition(idle_volts=241, coil_ohms={"K1": 6.9}),
        left_note="Control fuse blew twice; contactor coil reads lower than its range.",
        follow_up="Contactor on order, 24 V coil, two poles.",
    ),
    12: Plan(9, "wen", Condition(idle_volts=240)),
}  # fmt: skip


def load_demo(session: Session) -> bool:
    """Load the demo if its shop is not there; whether it was loaded."""
    if session.scalar(select(Shop.id).where(Shop.name == SHOP)) is not None:
        return False
    shop = make_shop(session, SHOP)
    people = {
        login: find_account(session, make_account(session, shop, login, name, PASSWORD, role).id)
        for login, name, role in PEOPLE
    }
    opened = Round(shop_id=shop.id, title=ROUND, place=PLACE, opened_on=date(2026, 10, 5))
    session.add(opened)
    session.flush()
    for door, unit in plates().items():
        record = make_unit(session, shop.id, unit, PLACE, door)
        if door in PLANS:
            _visit(session, record, people[PLANS[door].who], opened, PLANS[door])
    session.commit()
    return True


def _visit(
    session: Session, record: UnitRecord, account: SignedIn | None, opened: Round, plan: Plan
) -> None:
    assert account is not None
    door = record.row.door or 0
    bench = Bench(record.unit, plan.condition, seed=2026 * 100 + door)
    events = bench.check_up(upto=plan.upto)
    started = datetime(2026, 10, plan.day, 8 + door % 4, 15, tzinfo=UTC)
    if plan.upto is not None:  # still going on: it began a while before the demo was loaded
        started = now() - timedelta(seconds=events[-1].t_s + 240)
    closing = {}
    if plan.upto is None:
        closing = {
            "closed_at": started + timedelta(seconds=events[-1].t_s + 300),
            "outcome": "in-service",
            "left_note": plan.left_note,
            "follow_up": plan.follow_up,
        }
    row = start_visit(
        session, record, account, plan.complaint, opened.id, started_at=started, **closing
    )
    for index, event in enumerate(events):
        session.add(
            VisitEvent(
                shop_id=row.shop_id, visit_id=row.id, t_s=event.t_s, body=event_to_json(event),
                client_id=uuid.uuid5(NAMESPACE, f"{record.unit.id}/{ROUND}/{index}"),
                recorded_by=account.id, recorded_at=started + timedelta(seconds=event.t_s),
            )
        )  # fmt: skip
