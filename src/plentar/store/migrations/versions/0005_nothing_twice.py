"""Units and visits know the form that made them; the clock's steps are noted; sessions are rows that
end; tries to sign in are counted before the password is looked at."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

NOTES, OLD, NEW = (
    "visit_note_kind",
    "kind in ('looked', 'answered')",
    "kind in ('looked', 'answered', 'clock')",
)


def upgrade() -> None:
    for table in ("unit", "visit"):
        op.add_column(table, sa.Column("client_id", sa.Uuid(), nullable=True))
        op.create_unique_constraint(f"{table}_shop_id_client_id_key", table, ["shop_id", "client_id"])
    op.drop_constraint(NOTES, "visit_note", type_="check")
    op.create_check_constraint(NOTES, "visit_note", NEW)
    op.create_table(
        "sign_in",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("shop_id", sa.Uuid(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("address", sa.String(), nullable=False),
        sa.Column("browser", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["shop_id", "account_id"], ["account.shop_id", "account.id"]),
    )
    op.create_index("ix_sign_in_account_id", "sign_in", ["account_id"])
    op.create_table(
        "sign_in_try",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("login", sa.String(), nullable=False),
        sa.Column("address", sa.String(), nullable=False),
        sa.Column("device", sa.Uuid(), nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )
    for column in ("login", "address", "at"):
        op.create_index(f"ix_sign_in_try_{column}", "sign_in_try", [column])
    op.drop_table("sign_in_failure")


def downgrade() -> None:
    op.create_table(
        "sign_in_failure",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("login", sa.String(), nullable=False),
        sa.Column("address", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_sign_in_failure_address", "sign_in_failure", ["address"])
    op.create_index("sign_in_failure_login_at", "sign_in_failure", ["login", "at"])
    op.drop_table("sign_in_try")
    op.drop_table("sign_in")
    op.execute("delete from visit_note where kind = 'clock'")
    op.drop_constraint(NOTES, "visit_note", type_="check")
    op.create_check_constraint(NOTES, "visit_note", OLD)
    for table in ("unit", "visit"):
        op.drop_constraint(f"{table}_shop_id_client_id_key", table, type_="unique")
        op.drop_column(table, "client_id")
