"""Which of an account's links to choose a password is the newest; the ones before open nothing."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("account", sa.Column("link_number", sa.Integer(), server_default="0", nullable=False))


def downgrade() -> None:
    op.drop_column("account", "link_number")
