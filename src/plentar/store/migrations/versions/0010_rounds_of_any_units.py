"""A round goes over any units: which, who takes which, and by when."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import UUID

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("round", sa.Column("due_on", sa.Date()))
    op.create_table(
        "round_unit",
        sa.Column("round_id", UUID(), primary_key=True),
        sa.Column("unit_id", UUID(), primary_key=True),
        sa.Column("shop_id", UUID(), nullable=False),
        sa.Column("who", UUID()),
        sa.ForeignKeyConstraint(["shop_id", "round_id"], ["round.shop_id", "round.id"]),
        sa.ForeignKeyConstraint(["shop_id", "unit_id"], ["unit.shop_id", "unit.id"]),
        sa.ForeignKeyConstraint(["shop_id", "who"], ["account.shop_id", "account.id"]),
    )
    op.create_index("round_unit_of_unit", "round_unit", ["unit_id"])


def downgrade() -> None:
    op.drop_table("round_unit")
    op.drop_column("round", "due_on")
