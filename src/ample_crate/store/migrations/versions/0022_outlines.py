"""What every frame of a master looks like is kept, to tell it from others that are nearly the
same.
"""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "outline",
        sa.Column(
            "master_id",
            sa.Integer,
            sa.ForeignKey("master.id", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column("coded", sa.String, nullable=False),
        sa.Column("frames", sa.LargeBinary, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("outline")
