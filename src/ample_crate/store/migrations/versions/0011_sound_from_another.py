"""A deliverable's sound may come from another master."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "deliverable", sa.Column("sound_id", sa.Integer, sa.ForeignKey("master.id"), nullable=True)
    )


def downgrade() -> None:
    op.drop_column("deliverable", "sound_id")
