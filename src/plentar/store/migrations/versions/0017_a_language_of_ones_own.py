"""The language that a person reads, where it is not the shop's."""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("account", sa.Column("language", sa.String(), nullable=True))


def downgrade() -> None:
    op.drop_column("account", "language")
