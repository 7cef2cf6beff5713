"""What is searched: a digest of every finished visit, its values, and the words of every unit. They
are written anew from the visits by ``store/digests.fill_missing``."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB, TSVECTOR, UUID

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "digest",
        sa.Column("visit_id", UUID(), primary_key=True),
        sa.Column("shop_id", UUID(), nullable=False),
        sa.Column("unit_id", UUID(), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("who", sa.String(), nullable=False),
        sa.Column("complaint", sa.String()),
        sa.Column("outcome", sa.String(), nullable=False),
        sa.Column("newest", sa.Boolean(), nullable=False),
        sa.Column("findings", ARRAY(sa.String()), nullable=False),
        sa.Column("mended", ARRAY(sa.String()), nullable=False),
        sa.Column("work", JSONB(), nullable=False),
        sa.Column("words", TSVECTOR(), nullable=False),
        sa.ForeignKeyConstraint(["shop_id", "visit_id"], ["visit.shop_id", "visit.id"]),
    )
    op.create_index("digest_words", "digest", ["words"], postgresql_using="gin")
    op.create_index("digest_findings", "digest", ["findings"], postgresql_using="gin")
    op.create_index("digest_mended", "digest", ["mended"], postgresql_using="gin")
    op.create_index("digest_day", "digest", ["shop_id", sa.text("started_at desc"), "visit_id"])
    op.create_index("digest_unit", "digest", ["unit_id", sa.text("started_at desc")])
    op.create_index(
        "digest_left", "digest", ["shop_id"], postgresql_where=sa.text("newest and outcome <> 'in-service'")
    )
    op.create_index(
        "digest_work", "digest", ["shop_id"], postgresql_where=sa.text("newest and work <> '[]'::jsonb")
    )
    op.create_table(
        "digest_value",
        sa.Column("visit_id", UUID(), sa.ForeignKey("digest.visit_id", ondelete="CASCADE"), primary_key=True),
        sa.Column("kind", sa.String(), primary_key=True),
        sa.Column("part", sa.String(), primary_key=True),
        sa.Column("shop_id", UUID(), nullable=False),
        sa.Column("value", sa.Double(), nullable=False),
    )
    op.create_index("digest_value_beyond", "digest_value", ["shop_id", "kind", "value"])
    op.create_table(
        "unit_words",
        sa.Column("unit_id", UUID(), primary_key=True),
        sa.Column("shop_id", UUID(), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("words", TSVECTOR(), nullable=False),
        sa.ForeignKeyConstraint(["shop_id", "unit_id"], ["unit.shop_id", "unit.id"]),
    )
    op.create_index("unit_words_words", "unit_words", ["words"], postgresql_using="gin")
    op.create_index("unit_words_label", "unit_words", ["shop_id", "label"])
    op.create_index("visit_of_unit", "visit", ["unit_id", sa.text("started_at desc")])
    op.create_index("visit_open_of_shop", "visit", ["shop_id"], postgresql_where=sa.text("closed_at is null"))


def downgrade() -> None:
    op.drop_index("visit_open_of_shop", "visit")
    op.drop_index("visit_of_unit", "visit")
    op.drop_table("unit_words")
    op.drop_table("digest_value")
    op.drop_table("digest")
