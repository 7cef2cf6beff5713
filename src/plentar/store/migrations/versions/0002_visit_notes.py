"""Notes of a visit beside its events: the look around, and answers to stop-now findings."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "visit_note",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("shop_id", sa.Uuid(), nullable=False),
        sa.Column("visit_id", sa.Uuid(), nullable=False),
        sa.Column("client_id", sa.Uuid(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("body", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("recorded_by", sa.Uuid(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("kind in ('looked', 'answered')", name="visit_note_kind"),
        sa.ForeignKeyConstraint(["shop_id", "recorded_by"], ["account.shop_id", "account.id"]),
        sa.ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("visit_id", "client_id"),
    )


def downgrade() -> None:
    op.drop_table("visit_note")
