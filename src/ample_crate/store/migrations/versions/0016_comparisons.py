"""What a run made may be held against its master, frame by frame."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "comparison",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "run_id", sa.Integer, sa.ForeignKey("run.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("progress", JSONB, nullable=True),
        sa.Column("found", JSONB, nullable=True),
        sa.Column("error", JSONB, nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("run_id", name="uq_comparison_run_id"),
    )


def downgrade() -> None:
    op.drop_table("comparison")
