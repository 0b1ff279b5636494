"""What would make pictures look better at their rate may be looked at."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "easing",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "deliverable_id",
            sa.Integer,
            sa.ForeignKey("deliverable.id", ondelete="CASCADE"),
            nullable=False,
        ),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("progress", JSONB, nullable=True),
        sa.Column("found", JSONB, nullable=True),
        sa.Column("error", JSONB, nullable=True),
        sa.Column("recipe", sa.String, nullable=False, server_default=""),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("deliverable_id", name="uq_easing_deliverable_id"),
    )


def downgrade() -> None:
    op.drop_table("easing")
