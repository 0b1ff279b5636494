"""A deliverable's transparency may be laid over another master's picture."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "deliverable", sa.Column("under_id", sa.Integer, sa.ForeignKey("master.id"), nullable=True)
    )


def downgrade() -> None:
    op.drop_column("deliverable", "under_id")
