"""The first tables: shops, accounts, units with versions, visits, events."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "shop",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column(
            "settings",
            postgresql.JSONB(astext_type=sa.Text()),
            server_default=sa.text("'{}'"),
            nullable=False,
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "sign_in_failure",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("login", sa.String(), nullable=False),
        sa.Column("address", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_sign_in_failure_address"), "sign_in_failure", ["address"], unique=False)
    op.create_index("sign_in_failure_login_at", "sign_in_failure", ["login", "at"], unique=False)
    op.create_table(
        "account",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("shop_id", sa.Uuid(), nullable=False),
        sa.Column("login", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("password_hash", sa.String(), nullable=False),
        sa.CheckConstraint("role in ('lead', 'technician')", name="account_role"),
        sa.CheckConstraint("login = lower(login)", name="account_login_lower"),
        sa.ForeignKeyConstraint(["shop_id"], ["shop.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("login"),
        sa.UniqueConstraint("shop_id", "id"),
    )
    op.create_index(op.f("ix_account_shop_id"), "account", ["shop_id"], unique=False)
    op.create_table(
        "round",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("shop_id", sa.Uuid(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("opened_on", sa.Date(), nullable=False),
        sa.ForeignKeyConstraint(["shop_id"], ["shop.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("shop_id", "id"),
        sa.UniqueConstraint("shop_id", "title"),
    )
    op.create_table(
        "unit",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("shop_id", sa.Uuid(), nullable=False),
        sa.Column("place", sa.String(), server_default="", nullable=False),
        sa.Column("door", sa.Integer(), nullable=True),
        sa.Column("note", sa.String(), server_default="", nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["shop_id"], ["shop.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("shop_id", "id"),
    )
    op.create_index(op.f("ix_unit_shop_id"), "unit", ["shop_id"], unique=False)
    op.create_table(
        "unit_version",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("shop_id", sa.Uuid(), nullable=False),
        sa.Column("unit_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("plate", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("number > 0", name="unit_version_number"),
        sa.ForeignKeyConstraint(["shop_id", "unit_id"], ["unit.shop_id", "unit.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("shop_id", "unit_id", "id"),
        sa.UniqueConstraint("unit_id", "number"),
    )
    op.create_index(op.f("ix_unit_version_unit_id"), "unit_version", ["unit_id"], unique=False)
    op.create_table(
        "visit",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("shop_id", sa.Uuid(), nullable=False),
        sa.Column("unit_id", sa.Uuid(), nullable=False),
        sa.Column("version_id", sa.Uuid(), nullable=False),
        sa.Column("round_id", sa.Uuid(), nullable=True),
        sa.Column("opened_by", sa.Uuid(), nullable=False),
        sa.Column("complaint", sa.String(), nullable=True),
        sa.Column(
            "settings",
            postgresql.JSONB(astext_type=sa.Text()),
            server_default=sa.text("'{}'"),
            nullable=False,
        ),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("closed_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("outcome", sa.String(), nullable=True),
        sa.Column("left_note", sa.String(), server_default="", nullable=False),
        sa.Column("follow_up", sa.String(), server_default="", nullable=False),
        sa.CheckConstraint("outcome in ('in-service', 'left-off', 'heat-disabled')", name="visit_outcome"),
        sa.CheckConstraint("(closed_at is null) = (outcome is null)", name="visit_closed"),
        sa.ForeignKeyConstraint(["shop_id", "opened_by"], ["account.shop_id", "account.id"]),
        sa.ForeignKeyConstraint(["shop_id", "round_id"], ["round.shop_id", "round.id"]),
        sa.ForeignKeyConstraint(
            ["shop_id", "unit_id", "version_id"],
            ["unit_version.shop_id", "unit_version.unit_id", "unit_version.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("shop_id", "id"),
    )
    op.create_index(op.f("ix_visit_unit_id"), "visit", ["unit_id"], unique=False)
    op.create_index(
        "visit_one_open", "visit", ["unit_id"], unique=True, postgresql_where=sa.text("closed_at is null")
    )
    op.create_table(
        "visit_event",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("shop_id", sa.Uuid(), nullable=False),
        sa.Column("visit_id", sa.Uuid(), nullable=False),
        sa.Column("client_id", sa.Uuid(), nullable=False),
        sa.Column("t_s", sa.Double(), nullable=False),
        sa.Column("body", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("recorded_by", sa.Uuid(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("struck_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("struck_reason", sa.String(), nullable=True),
        sa.CheckConstraint("struck_at is null or body ? 'read'", name="visit_event_struck_reading"),
        sa.CheckConstraint("(struck_at is null) = (struck_reason is null)", name="visit_event_struck"),
        sa.CheckConstraint("t_s >= 0", name="visit_event_t"),
        sa.ForeignKeyConstraint(["shop_id", "recorded_by"], ["account.shop_id", "account.id"]),
        sa.ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("visit_id", "client_id"),
    )
    op.create_index("visit_event_order", "visit_event", ["visit_id", "t_s", "id"], unique=False)


def downgrade() -> None:
    op.drop_index("visit_event_order", table_name="visit_event")
    op.drop_table("visit_event")
    op.drop_index("visit_one_open", table_name="visit", postgresql_where=sa.text("closed_at is null"))
    op.drop_index(op.f("ix_visit_unit_id"), table_name="visit")
    op.drop_table("visit")
    op.drop_index(op.f("ix_unit_version_unit_id"), table_name="unit_version")
    op.drop_table("unit_version")
    op.drop_index(op.f("ix_unit_shop_id"), table_name="unit")
    op.drop_table("unit")
    op.drop_table("round")
    op.drop_index(op.f("ix_account_shop_id"), table_name="account")
    op.drop_table("account")
    op.drop_index("sign_in_failure_login_at", table_name="sign_in_failure")
    op.drop_index(op.f("ix_sign_in_failure_address"), table_name="sign_in_failure")
    op.drop_table("sign_in_failure")
    op.drop_table("shop")
