"""Tests on the relay bench and wires of a swap may be struck out; a shop has part kinds of its own."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB, UUID

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

STRUCK = "visit_event_struck_kind"
KINDS = ("read", "observe", "calls", "did", "replaced")
NEW_KINDS = ("tested", "tried", "felt", "swap", "wire")


def _check(kinds: tuple[str, ...]) -> None:
    names = ", ".join(f"'{kind}'" for kind in kinds)
    op.drop_constraint(STRUCK, "visit_event", type_="check")
    op.create_check_constraint(STRUCK, "visit_event", f"struck_at is null or body ?| array[{names}]")


def upgrade() -> None:
    _check((*KINDS, *NEW_KINDS))
    op.create_table(
        "part_kind",
        sa.Column("id", UUID(), primary_key=True),
        sa.Column("shop_id", UUID(), sa.ForeignKey("shop.id"), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("body", JSONB(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.UniqueConstraint("shop_id", "name"),
    )


def downgrade() -> None:
    op.drop_table("part_kind")
    names = ", ".join(f"'{kind}'" for kind in NEW_KINDS)
    op.execute(f"delete from visit_event where body ?| array[{names}]")
    _check(KINDS)
