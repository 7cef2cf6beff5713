"""Practice, in a table of its own: nothing of it is a visit."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "practice",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("shop_id", sa.Uuid(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("scene", postgresql.JSONB(), nullable=False),
        sa.Column("coaching", sa.String(), nullable=False),
        sa.Column("acts", postgresql.JSONB(), server_default=sa.text("'[]'"), nullable=False),
        sa.Column("harms", postgresql.JSONB(), server_default=sa.text("'[]'"), nullable=False),
        sa.Column("touches", postgresql.JSONB(), server_default=sa.text("'[]'"), nullable=False),
        sa.Column("now_s", sa.Float(), server_default="0", nullable=False),
        sa.Column("hints", sa.Integer(), server_default="0", nullable=False),
        sa.Column("named", postgresql.JSONB(), nullable=True),
        sa.Column("begun_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["shop_id", "account_id"], ["account.shop_id", "account.id"]),
        sa.CheckConstraint("coaching in ('off', 'hints', 'guide')", name="practice_coaching"),
        sa.CheckConstraint("(ended_at is null) = (named is null)", name="practice_ended"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("practice_of_person", "practice", ["shop_id", "account_id", sa.text("begun_at desc")])


def downgrade() -> None:
    op.drop_table("practice")
