"""What a visit holds, by functions of the server: a statement that locks the visit and calls them reads
what was committed by then, in one trip."""

from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

FUNCTIONS = {
    "visit_events": (
        "json_build_array(id, client_id, t_s, body, struck_at, struck_reason) order by t_s, id",
        "visit_event",
    ),
    "visit_notes": ("json_build_array(kind, body) order by id", "visit_note"),
}


def upgrade() -> None:
    for name, (gathered, table) in FUNCTIONS.items():
        # Volatile: each call sees what is committed when it runs, not when its statement began.
        op.execute(
            f"create function {name}(of_visit uuid) returns json language plpgsql volatile as $$"
            " begin return ("
            f" select coalesce(json_agg({gathered}), '[]') from {table} where visit_id = of_visit"
            " ); end $$"
        )


def downgrade() -> None:
    for name in FUNCTIONS:
        op.execute(f"drop function {name}(uuid)")
