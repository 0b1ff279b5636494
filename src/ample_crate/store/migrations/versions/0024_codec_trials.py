"""Codecs may be tried on a part of a master."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "codec_trial",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "master_id",
            sa.Integer,
            sa.ForeignKey("master.id", ondelete="CASCADE"),
            nullable=False,
        ),
        sa.Column("asked", JSONB, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("progress", JSONB, nullable=True),
        sa.Column("found", JSONB, nullable=True),
        sa.Column("error", JSONB, nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("master_id", name="uq_codec_trial_master_id"),
    )


def downgrade() -> None:
    op.drop_table("codec_trial")
