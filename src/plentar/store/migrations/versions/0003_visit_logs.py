"""Logged currents of a visit; observations and calls may be taken back as well as readings."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

OLD, NEW = "visit_event_struck_reading", "visit_event_struck_kind"


def upgrade() -> None:
    op.create_table(
        "visit_log",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("shop_id", sa.Uuid(), nullable=False),
        sa.Column("visit_id", sa.Uuid(), nullable=False),
        sa.Column("client_id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("shift_s", sa.Float(), nullable=False),
        sa.Column("csv_gzip", sa.LargeBinary(), nullable=False),
        sa.Column("recorded_by", sa.Uuid(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("confirmed_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["shop_id", "recorded_by"], ["account.shop_id", "account.id"]),
        sa.ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("visit_id", "client_id"),
    )
    op.drop_constraint(OLD, "visit_event", type_="check")
    op.create_check_constraint(
        NEW, "visit_event", "struck_at is null or body ?| array['read', 'observe', 'calls']"
    )


def downgrade() -> None:
    op.drop_constraint(NEW, "visit_event", type_="check")
    op.execute(
        "update visit_event set struck_at = null, struck_reason = null"
        " where struck_at is not null and not body ? 'read'"
    )
    op.create_check_constraint(OLD, "visit_event", "struck_at is null or body ? 'read'")
    op.drop_table("visit_log")
