"""What is made of a deliverable's sound may be heard before it is coded."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "hearing",
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
        sa.UniqueConstraint("deliverable_id", name="uq_hearing_deliverable_id"),
    )


def downgrade() -> None:
    op.drop_table("hearing")
