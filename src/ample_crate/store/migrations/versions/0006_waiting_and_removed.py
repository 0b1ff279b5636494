"""Items wait for their masters, one run at a time an item; removed crates can be had back; uploads
keep what was said of them.
"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

UNFINISHED = "state in ('queued', 'running', 'stopping')"


def upgrade() -> None:
    op.add_column("deliverable", sa.Column("wanted_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column("upload", sa.Column("metadata", sa.String(), nullable=False, server_default=""))
    op.add_column("crate", sa.Column("removed_at", sa.DateTime(timezone=True), nullable=True))
    # Of several unfinished runs of one item, which could be made by pressing twice, the newest is
    # kept.
    op.execute(
        f"update run set state = 'cancelled', finished_at = now() where {UNFINISHED} and exists "
        f"(select from run other where other.deliverable_id = run.deliverable_id and other.id > "
        f"run.id and other.{UNFINISHED})"
    )
    op.create_index(
        "uq_run_unfinished",
        "run",
        ["deliverable_id"],
        unique=True,
        postgresql_where=sa.text(UNFINISHED),
    )


def downgrade() -> None:
    op.drop_index("uq_run_unfinished", "run")
    op.drop_column("crate", "removed_at")
    op.drop_column("upload", "metadata")
    op.drop_column("deliverable", "wanted_at")
