"""A run may be made from the reading of another."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "run",
        sa.Column(
            "lead_id", sa.Integer, sa.ForeignKey("run.id", ondelete="SET NULL"), nullable=True
        ),
    )
    op.create_index("ix_run_lead_id", "run", ["lead_id"])


def downgrade() -> None:
    op.drop_index("ix_run_lead_id", "run")
    op.drop_column("run", "lead_id")
