"""Names in their natural order: 2 Saltmarsh Lane before 10."""

from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "create collation if not exists natural_order (provider = icu, locale = 'und-u-kn-true', deterministic = true)"
    )


def downgrade() -> None:
    op.execute("drop collation if exists natural_order")
