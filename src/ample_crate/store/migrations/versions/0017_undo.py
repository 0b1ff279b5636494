"""What was chosen for a deliverable before can be gone back to."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("earlier", "later"):
        op.add_column(
            "deliverable", sa.Column(name, JSONB, nullable=False, server_default=sa.text("'[]'"))
        )


def downgrade() -> None:
    for name in ("earlier", "later"):
        op.drop_column("deliverable", name)
