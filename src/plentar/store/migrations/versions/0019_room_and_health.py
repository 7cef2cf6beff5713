"""A row that is written to see whether a write would do; pictures that lie elsewhere; whether a shop has
said where it is and what it reads."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "heartbeat",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.execute("insert into heartbeat (id, at) values (1, now())")
    op.alter_column("photo", "jpeg", nullable=True)
    op.add_column("shop", sa.Column("begun_at", sa.DateTime(timezone=True)))
    op.execute("update shop set begun_at = now()")


def downgrade() -> None:
    # Fails where pictures lie elsewhere, and changes nothing then: they are brought back first.
    op.alter_column("photo", "jpeg", nullable=False)
    op.drop_table("heartbeat")
    op.drop_column("shop", "begun_at")
