"""Trials of the paces of encoders on this machine."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "pace_trial",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("codec", sa.String, nullable=False),
        sa.Column("host", sa.String, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("document", JSONB, nullable=False),
    )
    op.create_index("ix_pace_trial_codec", "pace_trial", ["codec"])


def downgrade() -> None:
    op.drop_index("ix_pace_trial_codec", "pace_trial")
    op.drop_table("pace_trial")
