"""A file that a run made may be played as a player would."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "rehearsal",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "run_id", sa.Integer, sa.ForeignKey("run.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("progress", JSONB, nullable=True),
        sa.Column("found", JSONB, nullable=True),
        sa.Column("error", JSONB, nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("run_id", name="uq_rehearsal_run_id"),
    )


def downgrade() -> None:
    op.drop_table("rehearsal")
