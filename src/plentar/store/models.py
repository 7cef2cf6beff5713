"""Tables. Everything that belongs to a shop carries its id, and foreign keys carry it along,
so that no row can point into another shop."""

from __future__ import annotations

import uuid
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, ForeignKeyConstraint, Index, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, TSVECTOR
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship
from sqlalchemy.types import DateTime, String


def now() -> datetime:
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """The metadata that the migrations are held against."""

    type_annotation_map = {  # noqa: RUF012  (SQLAlchemy's own way of declaring it)
        datetime: DateTime(timezone=True),
        dict[str, Any]: JSONB,
        list[Any]: JSONB,
        str: String,
    }


class Shop(Base):
    """A business; nobody sees another shop's rows."""

    __tablename__ = "shop"
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    name: Mapped[str]
    settings: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'"))
    #: Its own time, by the name of the zone.
    timezone: Mapped[str] = mapped_column(server_default="UTC")
    #: What its sheets say and look like: telephone, language, scale; and what it may store.
    sheets: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'"))
    #: Since when it has said where it is and what it reads; its lead is asked first of all.
    begun_at: Mapped[datetime | None]


class Account(Base):
    __tablename__ = "account"
    __table_args__ = (
        UniqueConstraint("shop_id", "id"),
        CheckConstraint("role in ('lead', 'technician')", name="account_role"),
        CheckConstraint("login = lower(login)", name="account_login_lower"),
    )
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    shop_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("shop.id"), index=True)
    login: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    role: Mapped[str]
    #: Empty until they have chosen one.
    password_hash: Mapped[str]
    #: Since when they sign in no more.
    ended_at: Mapped[datetime | None]
    #: What they read, where it is not the shop's language.
    language: Mapped[str | None]
    #: Of the newest link to choose a password; one of a lower number opens nothing.
    link_number: Mapped[int] = mapped_column(server_default="0")
    shop: Mapped[Shop] = relationship()


class SignIn(Base):
    """Somebody is signed in on a browser, until ``ended_at``. Its id is what the cookie holds."""

    __tablename__ = "sign_in"
    __table_args__ = (ForeignKeyConstraint(["shop_id", "account_id"], ["account.shop_id", "account.id"]),)
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    shop_id: Mapped[uuid.UUID]
    account_id: Mapped[uuid.UUID] = mapped_column(index=True)
    made_at: Mapped[datetime] = mapped_column(default=now)
    ended_at: Mapped[datetime | None]
    address: Mapped[str]
    browser: Mapped[str]


class SignInTry(Base):
    """A try to sign in, counted before the password is looked at. ``device`` is a browser that has
    signed in to this account before."""

    __tablename__ = "sign_in_try"
    id: Mapped[int] = mapped_column(primary_key=True)
    login: Mapped[str] = mapped_column(index=True)
    address: Mapped[str] = mapped_column(index=True)
    device: Mapped[uuid.UUID | None]
    at: Mapped[datetime] = mapped_column(default=now, index=True)


class Round(Base):
    __tablename__ = "round"
    __table_args__ = (UniqueConstraint("shop_id", "id"), UniqueConstraint("shop_id", "title"))
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    shop_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("shop.id"))
    title: Mapped[str]
    opened_on: Mapped[date]
    due_on: Mapped[date | None]


class RoundUnit(Base):
    __tablename__ = "round_unit"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "round_id"], ["round.shop_id", "round.id"]),
        ForeignKeyConstraint(["shop_id", "unit_id"], ["unit.shop_id", "unit.id"]),
        ForeignKeyConstraint(["shop_id", "who"], ["account.shop_id", "account.id"]),
        Index("round_unit_of_unit", "unit_id"),
    )
    round_id: Mapped[uuid.UUID] = mapped_column(primary_key=True)
    unit_id: Mapped[uuid.UUID] = mapped_column(primary_key=True)
    shop_id: Mapped[uuid.UUID]
    who: Mapped[uuid.UUID | None]


class Unit(Base):
    """An air handler at an address. What it is made of lies in its versions."""

    __tablename__ = "unit"
    __table_args__ = (
        UniqueConstraint("shop_id", "id"),
        UniqueConstraint("shop_id", "client_id"),
        Index("unit_by_place", "shop_id", "place", "door", "created_at"),
    )
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    shop_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("shop.id"), index=True)
    place: Mapped[str] = mapped_column(server_default="")
    door: Mapped[int | None]
    #: Where it is at its address, such as an attic.
    on_site: Mapped[str] = mapped_column(server_default="")
    tags: Mapped[list[str]] = mapped_column(ARRAY(String), server_default=text("'{}'"))
    note: Mapped[str] = mapped_column(server_default="")
    created_at: Mapped[datetime] = mapped_column(default=now)
    #: Of the form that made it: sent twice, it makes one.
    client_id: Mapped[uuid.UUID | None]


class UnitVersion(Base):
    """A plate as it was known from ``made_at`` on, in the visit file's terms. Never changed."""

    __tablename__ = "unit_version"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "unit_id"], ["unit.shop_id", "unit.id"]),
        UniqueConstraint("unit_id", "number"),
        UniqueConstraint("shop_id", "unit_id", "id"),
        CheckConstraint("number > 0", name="unit_version_number"),
    )
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    shop_id: Mapped[uuid.UUID]
    unit_id: Mapped[uuid.UUID] = mapped_column(index=True)
    number: Mapped[int]
    plate: Mapped[dict[str, Any]]
    made_at: Mapped[datetime] = mapped_column(default=now)


class Visit(Base):
    """One visit, judged by the version of the plate that it names."""

    __tablename__ = "visit"
    __table_args__ = (
        ForeignKeyConstraint(
            ["shop_id", "unit_id", "version_id"],
            ["unit_version.shop_id", "unit_version.unit_id", "unit_version.id"],
        ),
        ForeignKeyConstraint(["shop_id", "round_id"], ["round.shop_id", "round.id"]),
        ForeignKeyConstraint(["shop_id", "opened_by"], ["account.shop_id", "account.id"]),
        UniqueConstraint("shop_id", "id"),
        UniqueConstraint("shop_id", "client_id"),
        CheckConstraint("outcome in ('in-service', 'left-off', 'heat-disabled')", name="visit_outcome"),
        CheckConstraint("(closed_at is null) = (outcome is null)", name="visit_closed"),
        Index("visit_one_open", "unit_id", unique=True, postgresql_where=text("closed_at is null")),
        Index("visit_of_unit", "unit_id", text("started_at desc")),
        Index("visit_of_round", "round_id", postgresql_where=text("round_id is not null")),
        Index("visit_of_day", "shop_id", text("started_at desc")),
        Index("visit_open_of_shop", "shop_id", postgresql_where=text("closed_at is null")),
    )
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    shop_id: Mapped[uuid.UUID]
    unit_id: Mapped[uuid.UUID] = mapped_column(index=True)
    version_id: Mapped[uuid.UUID]
    round_id: Mapped[uuid.UUID | None]
    opened_by: Mapped[uuid.UUID]
    complaint: Mapped[str | None]
    settings: Mapped[dict[str, Any]] = mapped_column(server_default=text("'{}'"))
    started_at: Mapped[datetime] = mapped_column(default=now)
    closed_at: Mapped[datetime | None]
    outcome: Mapped[str | None]
    left_note: Mapped[str] = mapped_column(server_default="")
    follow_up: Mapped[str] = mapped_column(server_default="")
    client_id: Mapped[uuid.UUID | None]


class VisitEvent(Base):
    """One event in the visit file's terms. Readings, observations and calls may be struck out;
    nothing is deleted."""

    __tablename__ = "visit_event"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
        ForeignKeyConstraint(["shop_id", "recorded_by"], ["account.shop_id", "account.id"]),
        UniqueConstraint("visit_id", "client_id"),
        CheckConstraint("t_s >= 0", name="visit_event_t"),
        CheckConstraint("(struck_at is null) = (struck_reason is null)", name="visit_event_struck"),
        CheckConstraint(
            "struck_at is null or body ?| array['read', 'observe', 'calls', 'did', 'replaced',"
            " 'tested', 'tried', 'felt', 'swap', 'wire']",
            name="visit_event_struck_kind",
        ),
        Index("visit_event_order", "visit_id", "t_s", "id"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    shop_id: Mapped[uuid.UUID]
    visit_id: Mapped[uuid.UUID]
    client_id: Mapped[uuid.UUID]
    t_s: Mapped[float]
    body: Mapped[dict[str, Any]]
    recorded_by: Mapped[uuid.UUID]
    recorded_at: Mapped[datetime] = mapped_column(default=now)
    struck_at: Mapped[datetime | None]
    struck_reason: Mapped[str | None]


class VisitNote(Base):
    """What was noted beside the events: the look around, answers to stop-now findings, steps of
    the clock, words on a part, a plate that was mended; and how the unit was handed over."""

    __tablename__ = "visit_note"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
        ForeignKeyConstraint(["shop_id", "recorded_by"], ["account.shop_id", "account.id"]),
        UniqueConstraint("visit_id", "client_id"),
        CheckConstraint(
            "kind in ('looked', 'answered', 'clock', 'note', 'plate', 'work', 'left_out', 'told',"
            " 'photo', 'reopened')",
            name="visit_note_kind",
        ),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    shop_id: Mapped[uuid.UUID]
    visit_id: Mapped[uuid.UUID]
    client_id: Mapped[uuid.UUID]
    kind: Mapped[str]
    body: Mapped[dict[str, Any]]
    recorded_by: Mapped[uuid.UUID]
    recorded_at: Mapped[datetime] = mapped_column(default=now)


class JudgeAnswer(Base):
    """The judge's last whole answer to a visit, and the digest of the evidence that it rests on."""

    __tablename__ = "judge_answer"
    __table_args__ = (ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),)
    visit_id: Mapped[uuid.UUID] = mapped_column(primary_key=True)
    shop_id: Mapped[uuid.UUID]
    digest: Mapped[str]
    body: Mapped[dict[str, Any]]
    answered_at: Mapped[datetime] = mapped_column(default=now)


class ShopPartKind(Base):
    """A part kind of a shop's own, in the visit file's terms; its name is the shop's."""

    __tablename__ = "part_kind"
    __table_args__ = (UniqueConstraint("shop_id", "name"),)
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    shop_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("shop.id"))
    name: Mapped[str]
    body: Mapped[dict[str, Any]]
    made_at: Mapped[datetime] = mapped_column(default=now)


class ShopPhoto(Base):
    """A photo of a shop's, once however often it is sent; where it belongs the visits' notes say."""

    __tablename__ = "photo"
    shop_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("shop.id"), primary_key=True)
    key: Mapped[str] = mapped_column(primary_key=True)
    #: None where the picture was moved to the place for old ones.
    jpeg: Mapped[bytes | None]
    made_at: Mapped[datetime] = mapped_column(default=now)


class Heartbeat(Base):
    """One row, written to see whether a write would do."""

    __tablename__ = "heartbeat"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]


class OwnerLink(Base):
    """A link that shows the owner's sheet of a visit to whoever has it, until it ends or is revoked."""

    __tablename__ = "owner_link"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
        ForeignKeyConstraint(["shop_id", "made_by"], ["account.shop_id", "account.id"]),
    )
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    shop_id: Mapped[uuid.UUID]
    visit_id: Mapped[uuid.UUID] = mapped_column(index=True)
    made_by: Mapped[uuid.UUID]
    made_at: Mapped[datetime] = mapped_column(default=now)
    ends_at: Mapped[datetime]
    revoked_at: Mapped[datetime | None]


#: Of each unit's newest digest: it is not in service; work is open. Indexes and queries say it alike.
NOT_IN_SERVICE = "newest and outcome <> 'in-service'"
WORK_OPEN = "newest and work <> '[]'::jsonb"


class Digest(Base):
    """What a finished visit is found by. Made from the visit, and made anew when it changes; ``newest``
    of its unit; ``work`` are its open lines."""

    __tablename__ = "digest"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
        Index("digest_words", "shop_id", "words", postgresql_using="gin"),
        Index("digest_findings", "shop_id", "findings", postgresql_using="gin"),
        Index("digest_mended", "shop_id", "mended", postgresql_using="gin"),
        Index("digest_day", "shop_id", text("started_at desc"), "visit_id"),
        Index("digest_unit", "unit_id", text("started_at desc")),
        Index("digest_left", "shop_id", text("started_at desc"), postgresql_where=text(NOT_IN_SERVICE)),
        Index("digest_work", "shop_id", text("started_at desc"), postgresql_where=text(WORK_OPEN)),
    )
    visit_id: Mapped[uuid.UUID] = mapped_column(primary_key=True)
    shop_id: Mapped[uuid.UUID]
    unit_id: Mapped[uuid.UUID]
    started_at: Mapped[datetime]
    who: Mapped[str]
    complaint: Mapped[str | None]
    outcome: Mapped[str]
    newest: Mapped[bool]
    findings: Mapped[list[str]] = mapped_column(ARRAY(String))
    mended: Mapped[list[str]] = mapped_column(ARRAY(String))
    work: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)
    words: Mapped[Any] = mapped_column(TSVECTOR)


class DigestValue(Base):
    """One value that a finished visit adds to its unit's history, with its meter's accuracy there and
    what was due."""

    __tablename__ = "digest_value"
    __table_args__ = (Index("digest_value_beyond", "shop_id", "kind", "value"),)
    visit_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("digest.visit_id", ondelete="CASCADE"), primary_key=True
    )
    kind: Mapped[str] = mapped_column(primary_key=True)
    part: Mapped[str] = mapped_column(primary_key=True)
    shop_id: Mapped[uuid.UUID]
    value: Mapped[float]
    accuracy: Mapped[float]
    due_low: Mapped[float]
    due_high: Mapped[float]


class UnitWords(Base):
    """What a unit is found by: where it is, and what it is made of."""

    __tablename__ = "unit_words"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "unit_id"], ["unit.shop_id", "unit.id"]),
        Index("unit_words_words", "shop_id", "words", postgresql_using="gin"),
        Index("unit_words_label", "shop_id", "label"),
    )
    unit_id: Mapped[uuid.UUID] = mapped_column(primary_key=True)
    shop_id: Mapped[uuid.UUID]
    label: Mapped[str]
    words: Mapped[Any] = mapped_column(TSVECTOR)


class VisitLog(Base):
    """A logged current as it came, compressed; ``shift_s`` is the visit's time at its zero."""

    __tablename__ = "visit_log"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
        ForeignKeyConstraint(["shop_id", "recorded_by"], ["account.shop_id", "account.id"]),
        UniqueConstraint("visit_id", "client_id"),
    )
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    shop_id: Mapped[uuid.UUID]
    visit_id: Mapped[uuid.UUID]
    client_id: Mapped[uuid.UUID]
    name: Mapped[str]
    shift_s: Mapped[float]
    csv_gzip: Mapped[bytes]
    recorded_by: Mapped[uuid.UUID]
    recorded_at: Mapped[datetime] = mapped_column(default=now)
    confirmed_at: Mapped[datetime | None]


class PracticeLesson(Base):
    """A lesson of a shop's own, as it is written: it stands beside those that ship."""

    __tablename__ = "practice_lesson"
    shop_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("shop.id"), primary_key=True)
    name: Mapped[str] = mapped_column(primary_key=True)
    text: Mapped[str]
    added_at: Mapped[datetime] = mapped_column(default=now)


class Practice(Base):
    """A practice: a scene, what somebody did in it, and what they named at the end. It is no visit, and no unit's."""

    __tablename__ = "practice"
    __table_args__ = (
        ForeignKeyConstraint(["shop_id", "account_id"], ["account.shop_id", "account.id"]),
        CheckConstraint("coaching in ('off', 'hints', 'guide')", name="practice_coaching"),
        CheckConstraint("(ended_at is null) = (named is null)", name="practice_ended"),
        Index("practice_of_person", "shop_id", "account_id", text("begun_at desc")),
    )
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    shop_id: Mapped[uuid.UUID]
    account_id: Mapped[uuid.UUID]
    scene: Mapped[dict[str, Any]]
    coaching: Mapped[str]
    acts: Mapped[list[Any]] = mapped_column(server_default=text("'[]'"))
    harms: Mapped[list[Any]] = mapped_column(server_default=text("'[]'"))
    #: The ids that the client has given to its touches: each is done once.
    touches: Mapped[list[Any]] = mapped_column(server_default=text("'[]'"))
    now_s: Mapped[float] = mapped_column(server_default="0")
    hints: Mapped[int] = mapped_column(server_default="0")
    named: Mapped[list[Any] | None]
    begun_at: Mapped[datetime] = mapped_column(default=now)
    ended_at: Mapped[datetime | None]
