"""A run's picture may be made in segments, by several workers."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "segment",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "run_id", sa.Integer, sa.ForeignKey("run.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("worker", sa.String, server_default="", nullable=False),
        sa.Column("share", sa.Float, server_default="0", nullable=False),
        sa.Column("error", JSONB, nullable=True),
        sa.UniqueConstraint("run_id", "number", name="uq_segment_run_id"),
    )
    op.add_column("run", sa.Column("workers", sa.Integer, server_default="1", nullable=False))


def downgrade() -> None:
    op.drop_column("run", "workers")
    op.drop_table("segment")
