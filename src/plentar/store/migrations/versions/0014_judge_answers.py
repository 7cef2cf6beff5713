"""The judge's last whole answer to each visit: a restart, another process, the board begin with it."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, UUID

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "judge_answer",
        sa.Column("visit_id", UUID(), nullable=False),
        sa.Column("shop_id", UUID(), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("body", JSONB(), nullable=False),
        sa.Column("answered_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("visit_id"),
        sa.ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
    )


def downgrade() -> None:
    op.drop_table("judge_answer")
