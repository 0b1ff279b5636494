"""Masters: search, corrections, events, curves, ranges, watched folders"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

JSON = postgresql.JSONB(astext_type=sa.Text())


def upgrade() -> None:
    """Go forward."""
    op.add_column("master", sa.Column("production", sa.String(), nullable=False, server_default=""))
    op.add_column("master", sa.Column("words", sa.String(), nullable=False, server_default=""))
    op.add_column("master", sa.Column("seconds", sa.Float(), nullable=True))
    op.add_column("master", sa.Column("card", JSON, nullable=False, server_default="{}"))
    op.add_column("master", sa.Column("corrections", JSON, nullable=False, server_default="{}"))
    op.add_column("master", sa.Column("events", JSON, nullable=False, server_default="[]"))
    op.add_column("master", sa.Column("play", JSON, nullable=True))
    op.add_column("master", sa.Column("came_from", sa.String(), nullable=True))
    op.create_index("ix_master_sha256", "master", ["sha256"])
    op.create_index("ix_master_production", "master", ["production"])
    op.create_table(
        "trace",
        sa.Column("master_id", sa.Integer(), nullable=False),
        sa.Column("document", JSON, nullable=False),
        sa.ForeignKeyConstraint(
            ["master_id"], ["master.id"], name="fk_trace_master_id_master", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("master_id", name="pk_trace"),
    )
    op.create_table(
        "span",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("master_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("first", sa.Integer(), nullable=False),
        sa.Column("frames", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["master_id"], ["master.id"], name="fk_span_master_id_master", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_span"),
    )
    op.create_index("ix_span_master_id", "span", ["master_id"])
    op.create_table(
        "watch",
        sa.Column("folder", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("folder", name="pk_watch"),
    )
    op.create_table(
        "passed_over",
        sa.Column("place", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("place", name="pk_passed_over"),
    )
    op.add_column("deliverable", sa.Column("span", JSON, nullable=True))


def downgrade() -> None:
    """Go back."""
    op.drop_column("deliverable", "span")
    op.drop_table("passed_over")
    op.drop_table("watch")
    op.drop_table("span")
    op.drop_table("trace")
    op.drop_index("ix_master_production", "master")
    op.drop_index("ix_master_sha256", "master")
    for name in (
        "came_from",
        "play",
        "events",
        "corrections",
        "card",
        "seconds",
        "words",
        "production",
    ):
        op.drop_column("master", name)
