"""Load the demo: shop, people, plates, and the yearly rounds, the newest half done.

Rounds that are there already stay as they are, so that a demo of an earlier version gains those
that it lacks.
"""

from __future__ import annotations

import uuid
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import func, inspect, select
from sqlalchemy.orm import Session

from plentar.core.unit.parts import Interlock
from plentar.core.unit.unit import Unit
from plentar.files.events_json import event_to_json
from plentar.files.visit_json import AnsweredJson, LookedJson
from plentar.store.accounts import SignedIn, find_account, make_account, make_shop
from plentar.store.demo.plates import PLACE, plates
from plentar.store.demo.readings import Bench
from plentar.store.demo.rounds import PLATE_CHANGED_AFTER, ROUNDS, Plan, YearlyRound
from plentar.store.digests import fill_missing
from plentar.store.models import Account, Round, RoundUnit, Shop, VisitEvent, VisitNote, now
from plentar.store.units import UnitRecord, Whereabouts, list_units, make_unit, save_plate
from plentar.store.visits import start_visit

SHOP = "Brindlemoor Comfort"
PASSWORD = "saltmarsh-lane"
PEOPLE = (
    ("ines", "Ines Marlow", "lead"),
    ("tobias", "Tobias Renner", "technician"),
    ("wen", "Wen Achterberg", "technician"),
)
NAMESPACE = uuid.UUID("5a17a125-1a9e-4d0e-8f00-000000000000")


def holds_demo(session: Session) -> bool:
    """The demo's accounts are here, whose password everybody can read."""
    published = [login for login, _, _ in PEOPLE]
    here = select(Account.id).join(Shop).where(Shop.name == SHOP, Account.login.in_(published))
    return session.scalar(here.limit(1)) is not None


def holds_only_demo(session: Session) -> bool:
    """The demo's shop is here, and no other."""
    made = inspect(session.connection()).has_table(Shop.__tablename__)
    return made and holds_demo(session) and session.scalar(select(func.count(Shop.id))) == 1


def load_demo(session: Session) -> bool:
    """Load what is missing of the demo; whether anything was."""
    shop = session.scalar(select(Shop).where(Shop.name == SHOP))
    if shop is None:
        shop = make_shop(session, SHOP)
        for login, name, role in PEOPLE:
            make_account(session, shop, login, name, PASSWORD, role)
        for door, unit in plates().items():
            make_unit(session, shop.id, _as_hung(door, unit), Whereabouts(PLACE, door))
    people = {
        account.login: find_account(session, account.id)
        for account in session.scalars(select(Account).where(Account.shop_id == shop.id))
    }
    there = set(session.scalars(select(Round.title).where(Round.shop_id == shop.id)))
    missing = [yearly for yearly in ROUNDS if yearly.title not in there]
    for yearly in missing:
        _round(session, shop, people, yearly)
    session.commit()
    fill_missing(session)
    return bool(missing)


def _as_hung(door: int, unit: Unit) -> Unit:
    """A home's plate as it was at first."""
    if door == 13 and unit.blower is not None:
        tie = Interlock("nc-contact", tap=unit.controls[0].switches[0].id)
        return replace(unit, blower=replace(unit.blower, interlock=tie))
    if door == 10:
        unknown = tuple(replace(circuit, conductor=None) for circuit in unit.circuits)
        return replace(unit, circuits=unknown)
    return unit


def _round(session: Session, shop: Shop, people: dict[str, SignedIn | None], yearly: YearlyRound) -> None:
    opened = Round(shop_id=shop.id, title=yearly.title, opened_on=yearly.opened_on, due_on=yearly.due_on)
    session.add(opened)
    session.flush()
    for record in list_units(session, shop.id):
        door = record.row.door or 0
        if record.row.place == PLACE:
            session.add(RoundUnit(round_id=opened.id, unit_id=record.row.id, shop_id=shop.id))
        if record.row.place == PLACE and door in yearly.plans:
            plan = yearly.plans[door]
            _visit(session, record, people[plan.who], opened, plan)
        if PLATE_CHANGED_AFTER.get(door) == yearly.title:
            save_plate(session, record, plates()[door], record.version.number)


def _visit(session: Session, record: UnitRecord, account: SignedIn | None, opened: Round, plan: Plan) -> None:
    assert account is not None
    door, year = record.row.door or 0, opened.opened_on.year
    bench = Bench(record.unit, plan.condition, seed=year * 100 + door)
    events = bench.check_up(readings=plan.readings, welded=plan.welded, replaced=plan.replaced)
    started = datetime(year, opened.opened_on.month, plan.day, 8 + door % 4, 15, tzinfo=UTC)
    if plan.readings is not None:  # still going on: it began a while before the demo was loaded
        started = now() - timedelta(seconds=events[-1].t_s + 240)
    closing: dict[str, Any] = {}
    if plan.readings is None:
        closing = {
            "closed_at": started + timedelta(seconds=events[-1].t_s + 300),
            "outcome": plan.outcome,
            "left_note": plan.left_note,
            "follow_up": plan.follow_up,
        }
    row = start_visit(session, record, account, plan.complaint, opened.id, started_at=started, **closing)
    name = f"{record.unit.id}/{opened.title}"
    for index, event in enumerate(events):
        session.add(
            VisitEvent(
                shop_id=row.shop_id,
                visit_id=row.id,
                t_s=event.t_s,
                body=event_to_json(event),
                client_id=uuid.uuid5(NAMESPACE, f"{name}/{index}"),
                recorded_by=account.id,
                recorded_at=started + timedelta(seconds=event.t_s),
            )
        )
    notes: list[LookedJson | AnsweredJson] = [
        LookedJson(t=20.0, item=item, state=state)  # type: ignore[arg-type]
        for item, state in plan.looked
    ]
    notes += [
        AnsweredJson(t=events[-1].t_s, code=code, component=component, how=how, by=account.name)
        for code, component, how in plan.made_safe
    ]
    for index, note in enumerate(notes):
        session.add(
            VisitNote(
                shop_id=row.shop_id,
                visit_id=row.id,
                client_id=uuid.uuid5(NAMESPACE, f"{name}/note/{index}"),
                kind="looked" if isinstance(note, LookedJson) else "answered",
                body=note.model_dump(),
                recorded_by=account.id,
                recorded_at=started,
            )
        )
