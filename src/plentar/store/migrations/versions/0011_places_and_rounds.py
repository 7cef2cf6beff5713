"""Where a unit is on its site, and its tags; every round is over a list of units; digests keep what the
history needs of each value, and are made anew when the program starts."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

BOARD = {"digest_left": "newest and outcome <> 'in-service'", "digest_work": "newest and work <> '[]'::jsonb"}
VALUES = ("accuracy", "due_low", "due_high")


def upgrade() -> None:
    op.add_column("unit", sa.Column("on_site", sa.String(), nullable=False, server_default=""))
    op.add_column("unit", sa.Column("tags", ARRAY(sa.String()), nullable=False, server_default="{}"))
    op.execute(
        "insert into round_unit (round_id, unit_id, shop_id)"
        " select round.id, unit.id, round.shop_id from round"
        " join unit on unit.shop_id = round.shop_id and unit.place = round.place"
        " where round.place <> '' on conflict do nothing"
    )
    op.drop_column("round", "place")
    op.execute("delete from digest")
    for name in VALUES:
        op.add_column("digest_value", sa.Column(name, sa.Float(), nullable=False))
    op.create_index("visit_of_round", "visit", ["round_id"], postgresql_where=sa.text("round_id is not null"))
    op.create_index("visit_of_day", "visit", ["shop_id", sa.text("started_at desc")])
    op.create_index("unit_by_place", "unit", ["shop_id", "place", "door", "created_at"])
    op.execute("create extension if not exists btree_gin")
    for name in ("words", "findings", "mended"):
        op.drop_index(f"digest_{name}", "digest")
        op.create_index(f"digest_{name}", "digest", ["shop_id", name], postgresql_using="gin")
    op.drop_index("unit_words_words", "unit_words")
    op.create_index("unit_words_words", "unit_words", ["shop_id", "words"], postgresql_using="gin")
    for name, where in BOARD.items():
        op.drop_index(name, "digest")
        day = sa.text("started_at desc")
        op.create_index(name, "digest", ["shop_id", day], postgresql_where=sa.text(where))


def downgrade() -> None:
    for name, where in BOARD.items():
        op.drop_index(name, "digest")
        op.create_index(name, "digest", ["shop_id"], postgresql_where=sa.text(where))
    op.drop_index("unit_words_words", "unit_words")
    op.create_index("unit_words_words", "unit_words", ["words"], postgresql_using="gin")
    for name in ("words", "findings", "mended"):
        op.drop_index(f"digest_{name}", "digest")
        op.create_index(f"digest_{name}", "digest", [name], postgresql_using="gin")
    op.execute("drop extension btree_gin")
    op.drop_index("unit_by_place", "unit")
    op.drop_index("visit_of_day", "visit")
    op.drop_index("visit_of_round", "visit")
    for name in VALUES:
        op.drop_column("digest_value", name)
    op.add_column("round", sa.Column("place", sa.String(), nullable=False, server_default=""))
    op.execute(
        "update round set place = coalesce((select min(unit.place) from round_unit"
        " join unit on unit.id = round_unit.unit_id where round_unit.round_id = round.id), '')"
    )
    op.drop_column("unit", "tags")
    op.drop_column("unit", "on_site")
