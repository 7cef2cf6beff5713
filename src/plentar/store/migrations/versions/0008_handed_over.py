"""How a unit is handed over: lines of work, what was left out of the retest, who was told, photos of
the shop, links for owners; and what a shop says of its sheets."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import UUID

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

NOTES = "visit_note_kind"
OLD = ("looked", "answered", "clock", "note", "plate")
NEW = ("work", "left_out", "told", "photo", "reopened")


def _check(kinds: tuple[str, ...]) -> None:
    names = ", ".join(f"'{kind}'" for kind in kinds)
    op.drop_constraint(NOTES, "visit_note", type_="check")
    op.create_check_constraint(NOTES, "visit_note", f"kind in ({names})")


def upgrade() -> None:
    _check((*OLD, *NEW))
    op.create_table(
        "photo",
        sa.Column("shop_id", UUID(), sa.ForeignKey("shop.id"), primary_key=True),
        sa.Column("key", sa.String(), primary_key=True),
        sa.Column("jpeg", sa.LargeBinary(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_table(
        "owner_link",
        sa.Column("id", UUID(), primary_key=True),
        sa.Column("shop_id", UUID(), nullable=False),
        sa.Column("visit_id", UUID(), nullable=False),
        sa.Column("made_by", UUID(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ends_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("revoked_at", sa.DateTime(timezone=True)),
        sa.ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
        sa.ForeignKeyConstraint(["shop_id", "made_by"], ["account.shop_id", "account.id"]),
    )
    op.create_index("ix_owner_link_visit_id", "owner_link", ["visit_id"])
    op.add_column(
        "shop", sa.Column("sheets", sa.dialects.postgresql.JSONB(), server_default="{}", nullable=False)
    )


def downgrade() -> None:
    op.drop_column("shop", "sheets")
    op.drop_table("owner_link")
    op.drop_table("photo")
    names = ", ".join(f"'{kind}'" for kind in NEW)
    op.execute(f"delete from visit_note where kind in ({names})")
    _check(OLD)
