"""A shop of any size: some units visited twice a year for ten years, made, judged and digested as the
program does it, then copied in the database to as many as are asked for, each at an address of its own.
"""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from random import Random

from sqlalchemy import text
from sqlalchemy.orm import Session

from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event, Replaced
from plentar.files.events_json import event_to_json
from plentar.store.accounts import SignedIn, find_account, make_account, make_shop
from plentar.store.demo.plates import plates
from plentar.store.demo.readings import Bench, Condition
from plentar.store.digests import write_digest
from plentar.store.models import VisitEvent
from plentar.store.units import UnitRecord, make_unit
from plentar.store.visits import find_visit, start_visit

#: Visits of a unit, and how many days lie between two.
VISITS, DAYS_BETWEEN = 20, 182
FIRST = datetime(2016, 9, 1, 9, tzinfo=UTC)
PASSWORD = "laid-in-for-measuring"
#: Every table that a copy adds rows to, in the order of its keys. ``{n}`` is the number of a copy.
COPIES = (
    """insert into unit (id, shop_id, place, door, on_site, tags, note, created_at)
    select md5(id::text || n)::uuid, shop_id, 'street ' || n / 50, n % 50 + 1, on_site, tags, note,
    created_at from unit cross join generate_series(cast(:first as int), cast(:last as int)) n
    where id = any(cast(:units as uuid[])) and n % cast(:templates as int) = array_position(cast(:units as uuid[]), id) - 1""",
    """insert into unit_version (id, shop_id, unit_id, number, plate, made_at)
    select md5(v.id::text || n)::uuid, shop_id, md5(unit_id::text || n)::uuid, number, plate, made_at
    from unit_version v cross join generate_series(cast(:first as int), cast(:last as int)) n
    where unit_id = any(cast(:units as uuid[])) and n % cast(:templates as int) = array_position(cast(:units as uuid[]), unit_id) - 1""",
    """insert into unit_words (unit_id, shop_id, label, words)
    select md5(unit_id::text || n)::uuid, shop_id, n % 50 + 1 || ' Street ' || n / 50,
    words || to_tsvector('simple', n % 50 + 1 || ' street' || n / 50)
    from unit_words cross join generate_series(cast(:first as int), cast(:last as int)) n
    where unit_id = any(cast(:units as uuid[])) and n % cast(:templates as int) = array_position(cast(:units as uuid[]), unit_id) - 1""",
    """insert into visit (id, shop_id, unit_id, version_id, opened_by, complaint, settings, started_at,
    closed_at, outcome, left_note, follow_up, round_id)
    select md5(id::text || n)::uuid, shop_id, md5(unit_id::text || n)::uuid,
    md5(version_id::text || n)::uuid, opened_by, complaint, settings, started_at + n * interval '7 min',
    closed_at + n * interval '7 min', outcome, left_note, follow_up, null
    from visit cross join generate_series(cast(:first as int), cast(:last as int)) n
    where unit_id = any(cast(:units as uuid[])) and n % cast(:templates as int) = array_position(cast(:units as uuid[]), unit_id) - 1""",
    """insert into visit_event (shop_id, visit_id, client_id, t_s, body, recorded_by, recorded_at)
    select e.shop_id, md5(v.id::text || n)::uuid, md5(e.client_id::text || n)::uuid, t_s, body,
    recorded_by, recorded_at from generate_series(cast(:first as int), cast(:last as int)) n
    join visit v on v.unit_id = (cast(:units as uuid[]))[n % cast(:templates as int) + 1] join visit_event e on e.visit_id = v.id
    order by n, v.started_at, e.id""",
    """insert into digest (visit_id, shop_id, unit_id, started_at, who, complaint, outcome, newest,
    findings, mended, work, words)
    select md5(visit_id::text || n)::uuid, shop_id, md5(unit_id::text || n)::uuid,
    started_at + n * interval '7 min', who, complaint, outcome, newest, findings, mended, work,
    words || to_tsvector('simple', n % 50 + 1 || ' street' || n / 50)
    from digest cross join generate_series(cast(:first as int), cast(:last as int)) n
    where unit_id = any(cast(:units as uuid[])) and n % cast(:templates as int) = array_position(cast(:units as uuid[]), unit_id) - 1""",
    """insert into digest_value (visit_id, kind, part, shop_id, value, accuracy, due_low, due_high)
    select md5(d.visit_id::text || n)::uuid, kind, part, d.shop_id, value * (1 + (n % 97) / 2000.0),
    accuracy, due_low, due_high from digest_value v join digest d on d.visit_id = v.visit_id
    cross join generate_series(cast(:first as int), cast(:last as int)) n
    where unit_id = any(cast(:units as uuid[])) and n % cast(:templates as int) = array_position(cast(:units as uuid[]), unit_id) - 1""",
)
TABLES = ("unit", "unit_version", "unit_words", "visit", "visit_event", "digest", "digest_value")
#: Copies of a unit that go in between two commits.
AT_ONCE = 500


@dataclass(frozen=True, slots=True)
class Laid:
    """What was laid in: the shop, its lead's login, and how many units, visits and events it has."""

    shop_id: uuid.UUID
    login: str
    units: int
    visits: int
    events: int


def lay_in(session: Session, login: str, visits: int) -> Laid:
    """Make a shop with about so many visits, twenty a unit. Needs the database's superuser: rows that are
    copied whole are not checked one by one."""
    shop = make_shop(session, login)
    lead = find_account(session, make_account(session, shop, login, login, PASSWORD, "lead").id)
    assert lead is not None
    templates = [_template(session, lead, door, unit) for door, unit in sorted(plates().items())]
    session.commit()
    copies = max(0, visits // VISITS - len(templates))
    for first in range(0, copies, AT_ONCE):
        given = {
            "first": first,
            "last": min(first + AT_ONCE, copies) - 1,
            "units": templates,
            "templates": len(templates),
        }
        session.execute(text("set local statement_timeout = 0"))
        session.execute(text("set local session_replication_role = replica"))
        for statement in COPIES:
            session.execute(text(statement), given)
        session.commit()
    session.execute(text("set local statement_timeout = 0"))
    for table in TABLES:
        session.execute(text(f"analyze {table}"))
    session.commit()
    counted = [
        session.scalar(text(f"select count(*) from {table} where shop_id = :s"), {"s": shop.id})
        for table in ("unit", "visit", "visit_event")
    ]
    return Laid(shop.id, login, *counted)


def _template(session: Session, lead: SignedIn, door: int, unit: Unit) -> uuid.UUID:
    """One unit with its twenty finished visits."""
    plate = replace(unit, id=f"{unit.id}-{uuid.uuid4().hex[:6]}")
    record = make_unit(session, lead.shop_id, plate)
    random = Random(door)
    for number in range(VISITS):
        begun = FIRST + timedelta(days=DAYS_BETWEEN * number)
        _visit(session, lead, record, begun, number, random)
    return record.row.id


def _visit(
    session: Session, lead: SignedIn, record: UnitRecord, begun: datetime, number: int, random: Random
) -> None:
    events = list(_events(record.unit, number, random))
    device = next((e.component for e in events if isinstance(e, Replaced)), "")
    row = start_visit(
        session,
        record,
        lead,
        random.choice(("check-up", "not-enough-heat", "no-heat")),
        started_at=begun,
        closed_at=begun + timedelta(seconds=events[-1].t_s + 300),
        outcome=random.choices(("in-service", "left-off", "heat-disabled"), (18, 1, 1))[0],
        left_note=f"{device} was replaced, like for like." if device else "",
        follow_up="Look at the lugs again." if random.random() < 0.1 else "",
    )
    for event in events:
        session.add(
            VisitEvent(
                shop_id=row.shop_id,
                visit_id=row.id,
                t_s=event.t_s,
                body=event_to_json(event),
                client_id=uuid.uuid4(),
                recorded_by=lead.id,
                recorded_at=begun,
            )
        )
    session.flush()
    write_digest(session, find_visit(session, lead.shop_id, row.id))


def _events(unit: Unit, number: int, random: Random) -> Iterator[Event]:
    """A check-up; one time in eight a device is replaced after it; and a look or two more."""
    element = unit.elements[0].id
    harm = Condition(
        idle_volts=random.uniform(236, 244),
        ohms_factor={element: 1 + 0.004 * number},
        open_rungs={element: element} if random.random() < 0.04 else {},
    )
    first = Bench(unit, harm, seed=number).check_up()
    yield from first
    t_s = first[-1].t_s + 60
    if unit.controls and random.random() < 0.12:
        yield Replaced(t_s=t_s, component=random.choice(unit.controls).id)
    for look in range(1, 2 + (number % 3 != 0)):
        for event in Bench(unit, harm, seed=number + 1000 * look).check_up():
            yield replace(event, t_s=event.t_s + t_s + 2400 * look)
