"""A file that a run made may be played beside what went into its encoder."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "viewing",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "run_id", sa.Integer, sa.ForeignKey("run.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("progress", JSONB, nullable=True),
        sa.Column("found", JSONB, nullable=True),
        sa.Column("error", JSONB, nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("run_id", name="uq_viewing_run_id"),
    )


def downgrade() -> None:
    op.drop_table("viewing")
