"""Work done is an event and can be struck out; notes by part and changed plates are noted; a shop
has its own time."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

NOTES, STRUCK = "visit_note_kind", "visit_event_struck_kind"
OLD_NOTES = "kind in ('looked', 'answered', 'clock')"
NEW_NOTES = "kind in ('looked', 'answered', 'clock', 'note', 'plate')"
OLD_STRUCK = "struck_at is null or body ?| array['read', 'observe', 'calls']"
NEW_STRUCK = "struck_at is null or body ?| array['read', 'observe', 'calls', 'did', 'replaced']"


def _check(name: str, table: str, what: str) -> None:
    op.drop_constraint(name, table, type_="check")
    op.create_check_constraint(name, table, what)


def upgrade() -> None:
    _check(NOTES, "visit_note", NEW_NOTES)
    _check(STRUCK, "visit_event", NEW_STRUCK)
    op.add_column("shop", sa.Column("timezone", sa.String(), server_default="UTC", nullable=False))


def downgrade() -> None:
    op.drop_column("shop", "timezone")
    op.execute("delete from visit_event where body ?| array['did']")
    op.execute("update visit_event set struck_at = null, struck_reason = null where body ? 'replaced'")
    op.execute("delete from visit_note where kind in ('note', 'plate')")
    _check(STRUCK, "visit_event", OLD_STRUCK)
    _check(NOTES, "visit_note", OLD_NOTES)
