"""Wires are lifted and restored by themselves: where a call without a word on them used to restore
them, it says so now."""

from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "update visit_event set body = body || '{\"lifted\": false}'::jsonb"
        " where body ? 'calls' and not body ? 'lifted' and visit_id in"
        " (select visit_id from visit_event where body ->> 'lifted' = 'true')"
    )


def downgrade() -> None:
    op.execute("update visit_event set body = body - 'lifted' where body ->> 'lifted' = 'false'")
